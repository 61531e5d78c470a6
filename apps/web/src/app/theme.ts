import { Button, type CSSVariablesResolver, createTheme, type MantineColorsTuple } from '@mantine/core';

const teal: MantineColorsTuple = [
  '#e6f2ef',
  '#cfe5e1',
  '#a3cdc7',
  '#73b3ab',
  '#4a9c93',
  '#2c8b82',
  '#177d75',
  '#0b6b65',
  '#075a55',
  '#044844',
];

export const theme = createTheme({
  primaryColor: 'teal',
  primaryShade: { light: 7, dark: 3 },
  autoContrast: true,
  colors: { teal },
  defaultRadius: 4,
  fontFamily: "'Atkinson Hyperlegible Next Variable', 'Atkinson Hyperlegible Next', system-ui, sans-serif",
  fontFamilyMonospace: "'Atkinson Hyperlegible Mono Variable', ui-monospace, monospace",
  fontSizes: { xs: '12px', sm: '13px', md: '14px', lg: '16px', xl: '19px' },
  headings: { fontWeight: '700', sizes: { h1: { fontSize: '19px' }, h2: { fontSize: '16px' }, h3: { fontSize: '14px' } } },
  cursorType: 'pointer',
  respectReducedMotion: true,
  components: {
    Button: Button.extend({
      defaultProps: { size: 'sm' },
      // On a filled button the text is light in one scheme and dark in the other: both keep 4.5 to 1.
      vars: (_, { variant = 'filled' }) => ({ root: variant === 'filled' ? { '--button-color': 'var(--on-teal)' } : {} }),
    }),
    Modal: { defaultProps: { closeButtonProps: { 'aria-label': 'Close' } } },
    Notification: { defaultProps: { closeButtonProps: { 'aria-label': 'Dismiss' } } },
    TextInput: { defaultProps: { size: 'sm' } },
    Select: { defaultProps: { size: 'sm', allowDeselect: false, comboboxProps: { shadow: 'md' } } },
  },
});

/** Mantine's own surfaces and text follow our tokens, so that both schemes are set in one place. */
export const variables: CSSVariablesResolver = () => {
  const surfaces = {
    '--mantine-color-body': 'var(--paper)',
    '--mantine-color-text': 'var(--ink)',
    '--mantine-color-dimmed': 'var(--ink-soft)',
    '--mantine-color-default': 'var(--sheet)',
    '--mantine-color-default-border': 'var(--rule-strong)',
    '--mantine-color-default-hover': 'var(--band)',
    '--mantine-color-placeholder': 'var(--ink-soft)',
    '--mantine-color-error': 'var(--red)',
    '--mantine-color-anchor': 'var(--teal)',
  };
  // Mantine's inputs take their dark ground from its greys.
  const inputs = { '--mantine-color-dark-6': 'var(--sheet)', '--mantine-color-dark-4': 'var(--rule-strong)' };
  return {
    variables: {},
    light: { ...surfaces, '--on-teal': '#ffffff' },
    dark: { ...surfaces, ...inputs, '--on-teal': '#0d2321' },
  };
};
