import { Button, TextInput } from '@mantine/core';
import { useClipboard } from '@mantine/hooks';
import classes from './Guest.module.css';

/** An address or a piece of text to take along: whole when it is entered, or copied. */
export function CopyAddress({ text, label }: { readonly text: string; readonly label: string }) {
  const clipboard = useClipboard({ timeout: 3000 });
  return (
    <div className={classes.address}>
      <TextInput
        aria-label={label}
        classNames={{ input: 'mono' }}
        size="xs"
        readOnly
        value={text}
        onFocus={({ currentTarget }) => currentTarget.select()}
      />
      <Button variant="default" size="xs" onClick={() => clipboard.copy(text)}>
        {clipboard.copied ? 'Copied' : clipboard.error ? 'Select and copy it' : 'Copy'}
      </Button>
    </div>
  );
}
