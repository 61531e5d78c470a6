import type { Truth } from '@ypomet/core';
import classes from './Outline.module.css';

const MARKS = {
  true: ['✓', 'holds for the rehearsal record'],
  false: ['✗', 'does not hold for the rehearsal record'],
  null: ['?', 'is unknown for the rehearsal record'],
} as const;

/** Whether something holds for the rehearsal's record: by shape, colour and words. */
export function Mark({ truth }: { readonly truth: Truth | undefined }) {
  if (truth === undefined) return null;
  const [sign, words] = MARKS[String(truth) as 'true'];
  return (
    <span className={classes.mark} data-truth={String(truth)} title={words}>
      <span aria-hidden="true">{sign}</span>
      <span className="visually-hidden">{words}</span>
    </span>
  );
}
