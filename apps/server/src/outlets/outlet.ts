import type { DeliveryFault, OutletSettings } from '@ypomet/contract';
import type { Json, RichText } from '@ypomet/core';
import type { StoredContent } from '../db/schema.ts';

export type OutletKind = OutletSettings['kind'];

/** A delivery on its way out. `id` is the key by which a receiver knows repeats. */
export type Sending<K extends OutletKind = OutletKind> = {
  readonly id: string;
  /** Which of its record's deliveries it is, counted from 1 in the order of the hand-offs. */
  readonly sequence: number;
  readonly content: Extract<StoredContent, { type: K }>;
};

/** What a receiver said; `json` is a web endpoint's answer, numbers as decimal text. */
export type Received = { readonly answer: string; readonly json?: Json };

/** An outlet as it is set up, with its secret opened. */
export type OutletSetup<K extends OutletKind = OutletKind> = {
  readonly key: string;
  readonly settings: Extract<OutletSettings, { kind: K }>;
  readonly secret: string | null;
  /** Changes whenever the set-up does. */
  readonly changedAt: string;
};

/** One kind of place that deliveries go to. */
export type Outlet<K extends OutletKind = OutletKind> = {
  readonly kind: K;
  /** Sends, or throws {@link NotSent}. */
  readonly send: (setup: OutletSetup<K>, sending: Sending<K>) => Promise<Received>;
  /** Tries whether it works, without sending anything that counts. */
  readonly try: (setup: OutletSetup<K>) => Promise<string>;
  readonly close: () => Promise<void>;
};

/** A mail to addresses that are known, with nothing beside its text. */
export const plainMail = (
  outlet: string,
  name: string,
  to: readonly string[],
  subject: string,
  body: RichText,
): Sending<'mail'>['content'] => ({
  type: 'mail',
  delivery: '',
  name,
  outlet,
  to: [],
  cc: [],
  bcc: [],
  replyTo: [],
  unfit: [],
  senderName: '',
  subject,
  body,
  attached: null,
  files: [],
  addresses: { to, cc: [], bcc: [], replyTo: [] },
});

/** Why a delivery wasn't sent. */
export class NotSent extends Error {
  constructor(
    readonly fault: DeliveryFault,
    readonly more: {
      /** Whether trying again wouldn't mend it. */
      readonly isFinal?: boolean;
      /** What the receiver said. */
      readonly answer?: string;
      /** Receivers who have it all the same: it isn't sent to them again. */
      readonly taken?: readonly string[];
    } = {},
  ) {
    super(fault.code);
  }
}

export const notSent = (code: DeliveryFault['code'], params: DeliveryFault['params'] = {}, more: NotSent['more'] = {}): NotSent =>
  new NotSent({ code, params }, more);
