/** What a cell of the field plan says, from least to most. */
export const TREATMENTS = ['hidden', 'read-only', 'optional', 'nudged', 'required'] as const;
export type Treatment = (typeof TREATMENTS)[number];

/** Whether a participant can enter a field under this treatment. */
export const isEnterable = (treatment: Treatment): boolean =>
  treatment === 'optional' || treatment === 'nudged' || treatment === 'required';
