import { Button } from '@mantine/core';
import { isSignRequest, type Json } from '@ypomet/core';
import { formatInstant } from '../../shared/instants.ts';
import classes from './FilesInput.module.css';
import { useFormWorld } from './form-world.tsx';

type SignOffJson = { readonly by: string; readonly name?: string; readonly at: string };

const isSignOff = (value: Json): boolean => value !== null && typeof value === 'object' && 'at' in value && 'by' in value;

/** A sign-off in words: who, when, and whether it still stands. */
export function SignOffState({ field, value }: { readonly field: string; readonly value: Json }) {
  const { zone, locale, names, brokenSignOffs } = useFormWorld();
  if (!isSignOff(value)) return <span className={classes.soft}>not signed</span>;
  const { by, name, at } = value as unknown as SignOffJson;
  return (
    <span>
      Signed by {name ?? names[by] ?? by}, {formatInstant(at, { zone, locale })}
      {brokenSignOffs.includes(field) && (
        <span className={classes.fault} role="alert">
          {' '}
          It no longer stands: something that was signed has changed since.
        </span>
      )}
    </span>
  );
}

type Props = {
  readonly id: string;
  readonly field: string;
  readonly value: Json;
  /** The sign-off the record has. */
  readonly stored: Json;
  readonly label: string;
  readonly describedBy?: string;
  readonly onEnter: (value: Json) => void;
};

/** Signs what the form shows, when it is handed on; who signs and when is set down by the server. */
export function SignOffInput({ id, field, value, stored, label, describedBy, onEnter }: Props) {
  const { signer } = useFormWorld();
  const isAsked = isSignRequest(value);
  return (
    <div
      className={classes.files}
      id={id}
      role="group"
      aria-label={label}
      {...(describedBy ? { 'aria-describedby': describedBy } : {})}
    >
      {isAsked ? (
        <span>
          {signer} signs what this form shows when it is handed on. <span className={classes.soft}>Not signed before.</span>
        </span>
      ) : (
        <SignOffState field={field} value={value} />
      )}
      {isAsked ? (
        <Button size="xs" variant="default" onClick={() => onEnter(stored)}>
          Don’t sign
        </Button>
      ) : (
        <Button size="xs" variant="default" onClick={() => onEnter({ sign: true })}>
          {isSignOff(value) ? 'Sign again' : 'Sign'}
        </Button>
      )}
      {isSignOff(value) && !isAsked && (
        <Button size="xs" variant="subtle" onClick={() => onEnter(null)}>
          Take it back
        </Button>
      )}
    </div>
  );
}
