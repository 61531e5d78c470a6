import type { Treatment } from '@ypomet/core';

/** A treatment's mark. They differ by shape; colour only helps. */
export function TreatmentMark({ treatment }: { readonly treatment: Treatment }) {
  return (
    <svg width={16} height={16} viewBox="0 0 16 16" aria-hidden="true">
      {treatment === 'required' && <circle cx={8} cy={8} r={5.5} fill="var(--teal)" />}
      {treatment === 'optional' && <circle cx={8} cy={8} r={4.6} fill="none" stroke="var(--teal)" strokeWidth={1.9} />}
      {treatment === 'nudged' && (
        <>
          <circle cx={8} cy={8} r={4.9} fill="none" stroke="var(--amber)" strokeWidth={1.7} />
          <circle cx={8} cy={8} r={2} fill="var(--amber)" />
        </>
      )}
      {treatment === 'read-only' && <rect x={3} y={6.6} width={10} height={2.8} rx={1} fill="var(--mark-read)" />}
      {treatment === 'hidden' && <path d="M5.6 10.6L10.4 5.4" stroke="var(--mark-hidden)" strokeWidth={1.4} />}
    </svg>
  );
}

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
