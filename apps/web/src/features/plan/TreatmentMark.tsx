import type { Treatment } from '@ypomet/core';
import classes from './TreatmentMark.module.css';

/** The class that draws a treatment's mark in any element with `data-treatment`. Marks differ by shape; colour only helps. */
export const TREATMENT_MARK = classes.mark ?? '';

export const TreatmentMark = ({ treatment }: { readonly treatment: Treatment }) => (
  <span className={classes.icon} data-treatment={treatment} aria-hidden="true" />
);

export const TREATMENT_KEYS: Readonly<Record<string, Treatment>> = {
  r: 'required',
  n: 'nudged',
  o: 'optional',
  v: 'read-only',
  h: 'hidden',
};
export const KEY_OF: Readonly<Record<Treatment, string>> = {
  required: 'R',
  nudged: 'N',
  optional: 'O',
  'read-only': 'V',
  hidden: 'H',
};
