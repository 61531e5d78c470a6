import { ActionIcon, useComputedColorScheme, useMantineColorScheme } from '@mantine/core';
import { IconMoon, IconSun } from '@tabler/icons-react';

/** Light or dark. */
export function SchemeSwitch() {
  const { setColorScheme } = useMantineColorScheme();
  const scheme = useComputedColorScheme('light');
  const other = scheme === 'dark' ? 'light' : 'dark';
  return (
    <ActionIcon variant="subtle" color="gray" aria-label={`Use ${other} colours`} onClick={() => setColorScheme(other)}>
      {scheme === 'dark' ? <IconSun size={17} /> : <IconMoon size={17} />}
    </ActionIcon>
  );
}
