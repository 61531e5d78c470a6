import type { ProblemCode } from '../problem.ts';

/** Why a delivery waits or is tried again. */
export const DELIVERY_FAULTS = ['nobody', 'recipient-unfit', 'cut-off', 'refused'] as const;
export type DeliveryFaultCode = (typeof DELIVERY_FAULTS)[number];

/** A language of everything the server says beside the core. */
export type ServerLanguage = {
  readonly problems: Readonly<Record<ProblemCode, { readonly title: string; readonly mend: string }>>;
  /** What is wrong where a code alone says too little. */
  readonly details: Readonly<Record<'follow-ups-not-run' | 'other-workflow' | 'too-far-back', string>>;
  readonly deliveryFaults: Readonly<Record<DeliveryFaultCode, string>>;
};
