import { z } from 'zod';
import type { Json } from '../shared/json.ts';
import { Treatment } from './field.ts';
import { GivenKey, Key } from './keys.ts';

const Path = z.string().max(130);

/** No value of a field lies deeper: rows hold cells, cells hold files, files hold facts. */
const MAX_DEPTH = 8;

/** Whether JSON is no deeper than a field's value can be. Goes by level, so that no depth is too much for it. */
function isShallow(value: unknown): boolean {
  let level: readonly unknown[] = [value];
  for (let depth = 0; depth < MAX_DEPTH; depth++) {
    level = level.flatMap((one) => (typeof one === 'object' && one !== null ? Object.values(one) : []));
    if (level.length === 0) return true;
  }
  return false;
}

/** Values as JSON, as they are entered or stored. */
const Entries = z.record(Path, z.unknown().refine(isShallow, 'shape/form') as unknown as z.ZodType<Json>);

/** One hand-off of a rehearsal: who presses it, what they entered, and what is expected to come of it. */
export const TestStep = z.strictObject({
  key: GivenKey,
  handOff: Key,
  /** The role that is played; null for all at once. */
  role: Key.nullable().default(null),
  /** Whether it happened by itself, by the clock; then nobody plays a role and nothing is entered. */
  byClock: z.boolean().default(false),
  entered: Entries.default({}),
  /** The stage at which the record comes to rest; null where the hand-off is refused. */
  to: Key.nullable().default(null),
  /** The treatments at its stage, before it is pressed, of the fields that adjustments cover there. */
  treatments: z.record(Path, Treatment).default({}),
  /** What is sent and opened, in words; what the submitter reads. */
  sent: z.array(z.string().max(2000)).max(200).default([]),
  opened: z.array(z.string().max(2000)).max(500).default([]),
  answer: z.string().max(20_000).nullable().default(null),
});
export type TestStep = z.infer<typeof TestStep>;

/** A rehearsal that was kept: run again at each change, it must come to the same. */
export const KeptTest = z.strictObject({
  key: Key,
  name: z.string().min(1).max(200),
  intake: Key,
  /** The stage at which it begins, where that isn't the intake. */
  at: Key.nullable().default(null),
  /** The day on which it takes place; null for the day on which it is run. */
  today: z
    .string()
    .regex(/^\d{4}-\d{2}-\d{2}$/, 'shape/date')
    .nullable()
    .default(null),
  /** What the record holds before anybody enters anything. */
  start: Entries.default({}),
  steps: z.array(TestStep).max(100).default([]),
});
export type KeptTest = z.infer<typeof KeptTest>;
