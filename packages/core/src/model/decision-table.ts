import { z } from 'zod';
import { ExpressionText } from './field.ts';
import { Code, GivenKey, Key } from './keys.ts';

/** Hit policies of OMG DMN 1.3, clause 8.2.10. */
export const HIT_POLICIES = ['U', 'A', 'P', 'F', 'R', 'O', 'C', 'C+', 'C<', 'C>', 'C#'] as const;
export const HitPolicy = z.enum(HIT_POLICIES);
export type HitPolicy = z.infer<typeof HitPolicy>;

const OUTPUT_TYPES = ['text', 'number', 'yes-no', 'date', 'time', 'date-time'] as const;

export const DecisionInput = z.strictObject({
  key: GivenKey,
  name: z.string().min(1).max(200),
  expression: ExpressionText,
});
export type DecisionInput = z.infer<typeof DecisionInput>;
export const DecisionOutput = z.strictObject({
  key: Key,
  name: z.string().min(1).max(200),
  type: z.enum(OUTPUT_TYPES),
  /** Allowed values of a text output in order of priority, highest first: needed by the policies P and O. */
  values: z.array(Code).max(500).default([]),
  /** Yielded when no rule matches. */
  default: ExpressionText.nullable().default(null),
});

export type DecisionOutput = z.infer<typeof DecisionOutput>;

export const DecisionRule = z.strictObject({
  key: GivenKey,
  /** Unary tests by input; an input that isn't named here takes everything. */
  when: z.record(Key, z.string().min(1).max(5000)).default({}),
  /** Expressions by output. */
  then: z.record(Key, ExpressionText).default({}),
  /** Words for colleagues who design: an annotation (OMG DMN 1.3, 8.3.3). */
  notes: z.string().max(5000).default(''),
});
export type DecisionRule = z.infer<typeof DecisionRule>;

/** A DMN decision table. Its key is a name in every expression: the output, or a row of outputs where there are several. */
export const DecisionTable = z.strictObject({
  key: Key,
  name: z.string().min(1).max(200),
  hitPolicy: HitPolicy,
  inputs: z.array(DecisionInput).min(1).max(50),
  outputs: z.array(DecisionOutput).min(1).max(50),
  rules: z.array(DecisionRule).max(5000).default([]),
});
export type DecisionTable = z.infer<typeof DecisionTable>;
