import type { ProblemCode } from '../problem.ts';
import type { REGISTER_FACTS } from '../register-schemas.ts';

/** Why a delivery waits or is tried again. */
export const DELIVERY_FAULTS = [
  'nobody',
  'recipient-unfit',
  'partly-refused',
  'cut-off',
  'refused',
  'no-outlet',
  'too-large',
  'no-file',
  'unreachable',
  'timed-out',
  'status',
  'answer-too-large',
  'answer-unfit',
  'put-away',
  'not-allowed',
  'bad-address',
  'file-there',
  'bad-name',
  'no-letters',
  'unconfirmed',
  'never-confirmed',
  'many-unconfirmed',
  'no-own-address',
] as const;
export type DeliveryFaultCode = (typeof DELIVERY_FAULTS)[number];

/** A language of everything the server says beside the core. */
export type ServerLanguage = {
  readonly problems: Readonly<Record<ProblemCode, { readonly title: string; readonly mend: string }>>;
  /** What is wrong where a code alone says too little. */
  readonly details: Readonly<
    Record<
      | 'opens-too-deep'
      | 'other-workflow'
      | 'too-far-back'
      | 'not-a-reader'
      | 'not-ordered'
      | 'no-column'
      | 'looks-at'
      | 'begun-without-mails'
      | 'many-views'
      | 'one-workflow'
      | 'none-named'
      | 'several-named'
      | 'link-ends-first'
      | 'link-no-intake'
      | 'link-has-roles'
      | 'link-no-hand-off'
      | 'link-no-choices'
      | 'link-no-field',
      string
    >
  >;
  /** What the facts of a record are called as columns of a register. */
  readonly digest: { readonly subject: string; readonly opening: string };
  readonly registerFacts: Readonly<Record<(typeof REGISTER_FACTS)[number], string>>;
  readonly deliveryFaults: Readonly<Record<DeliveryFaultCode, string>>;
};
