import { z } from 'zod';
import { Code, Key } from '../shared/identifiers.ts';

/** What a cell of the field plan says, from least to most. */
export const TREATMENTS = ['hidden', 'read-only', 'optional', 'nudged', 'required'] as const;
export const Treatment = z.enum(TREATMENTS);
export type Treatment = z.infer<typeof Treatment>;

/** Whether a participant can enter a field under this treatment. */
export const isEnterable = (treatment: Treatment): boolean =>
  treatment === 'optional' || treatment === 'nudged' || treatment === 'required';

/** The text of an expression; null where none is needed. */
export const ExpressionText = z.string().min(1).max(20_000);
/** A condition, or null for "always". */
export const ConditionText = ExpressionText.nullable();
const DecimalText = z.string().regex(/^-?\d{1,30}(\.\d{1,15})?$/, 'A decimal such as 1250.00, as text.');
const DateText = z.string().regex(/^\d{4}-\d{2}-\d{2}$/, 'A date such as 2027-03-12.');

export const Option = z.strictObject({
  code: Code,
  label: z.string().min(1).max(200),
  /** A retired option stays readable and can't be newly chosen. */
  retired: z.boolean().default(false),
});
export type Option = z.infer<typeof Option>;

const Options = z
  .array(Option)
  .min(1)
  .max(2000)
  .refine((options) => new Set(options.map((option) => option.code)).size === options.length, 'Two options have the same code.');

/** What each field and sub-field has. */
const named = {
  key: Key,
  name: z.string().min(1).max(200),
  help: z.string().max(2000).default(''),
};

/** A computed field is a field with an expression: always read-only, recomputed on every look. */
const computable = {
  expression: ExpressionText.nullable().default(null),
  /**
   * Whoever may read this field may read what it comes to, although they may not read all it is made from. Without this,
   * the readers of a computed value are those who may read everything it is made from.
   */
  discloses: z.boolean().default(false),
};

const textLimits = {
  minLength: z.int().min(0).max(100_000).nullable().default(null),
  maxLength: z.int().min(1).max(100_000).nullable().default(null),
};

/** Field types whose values stand alone; these can be sub-fields of a table. */
const plainTypes = [
  {
    type: z.literal('text'),
    ...computable,
    ...textLimits,
    pattern: z.string().max(500).nullable().default(null),
    patternMessage: z.string().max(500).default(''),
  },
  { type: z.literal('long-text'), ...computable, ...textLimits },
  {
    type: z.literal('number'),
    ...computable,
    scale: z.int().min(0).max(15).default(0),
    unit: z.string().max(20).default(''),
    min: DecimalText.nullable().default(null),
    max: DecimalText.nullable().default(null),
  },
  {
    type: z.literal('money'),
    ...computable,
    currency: z.string().regex(/^[A-Z]{3}$/, 'An ISO 4217 currency such as EUR.'),
    scale: z.int().min(0).max(15).default(2),
    min: DecimalText.nullable().default(null),
    max: DecimalText.nullable().default(null),
  },
  { type: z.literal('yes-no'), ...computable },
  { type: z.literal('date'), ...computable, min: DateText.nullable().default(null), max: DateText.nullable().default(null) },
  { type: z.literal('time'), ...computable },
  { type: z.literal('date-time'), ...computable },
  { type: z.literal('choice'), ...computable, options: Options },
  { type: z.literal('multi-choice'), ...computable, options: Options },
  { type: z.literal('member'), ...computable, role: Key.nullable().default(null) },
  {
    type: z.literal('file'),
    maxCount: z.int().min(1).max(100).default(10),
    maxBytes: z.int().min(1).max(1_000_000_000).default(20_000_000),
  },
  { type: z.literal('reference'), workflow: Key },
] as const;

const SubFieldUnion = z.discriminatedUnion('type', [
  z.strictObject({ ...named, ...plainTypes[0] }),
  z.strictObject({ ...named, ...plainTypes[1] }),
  z.strictObject({ ...named, ...plainTypes[2] }),
  z.strictObject({ ...named, ...plainTypes[3] }),
  z.strictObject({ ...named, ...plainTypes[4] }),
  z.strictObject({ ...named, ...plainTypes[5] }),
  z.strictObject({ ...named, ...plainTypes[6] }),
  z.strictObject({ ...named, ...plainTypes[7] }),
  z.strictObject({ ...named, ...plainTypes[8] }),
  z.strictObject({ ...named, ...plainTypes[9] }),
  z.strictObject({ ...named, ...plainTypes[10] }),
  z.strictObject({ ...named, ...plainTypes[11] }),
  z.strictObject({ ...named, ...plainTypes[12] }),
]);
export const SubField = SubFieldUnion;
export type SubField = z.infer<typeof SubField>;

/** What a field of the record has beyond a sub-field. */
const placed = {
  ...named,
  section: Key,
  /** The treatment at every stage for which the plan says nothing. */
  treatment: Treatment.default('hidden'),
  /** Roles that may read it; empty: all who see the record. */
  confidentialTo: z.array(Key).max(50).default([]),
};

export const Field = z.discriminatedUnion('type', [
  z.strictObject({ ...placed, ...plainTypes[0] }),
  z.strictObject({ ...placed, ...plainTypes[1] }),
  z.strictObject({ ...placed, ...plainTypes[2] }),
  z.strictObject({ ...placed, ...plainTypes[3] }),
  z.strictObject({ ...placed, ...plainTypes[4] }),
  z.strictObject({ ...placed, ...plainTypes[5] }),
  z.strictObject({ ...placed, ...plainTypes[6] }),
  z.strictObject({ ...placed, ...plainTypes[7] }),
  z.strictObject({ ...placed, ...plainTypes[8] }),
  z.strictObject({ ...placed, ...plainTypes[9] }),
  z.strictObject({ ...placed, ...plainTypes[10] }),
  z.strictObject({ ...placed, ...plainTypes[11] }),
  z.strictObject({ ...placed, ...plainTypes[12] }),
  z.strictObject({
    ...placed,
    type: z.literal('table'),
    fields: z.array(SubField).min(1).max(100),
    minRows: z.int().min(0).max(10_000).nullable().default(null),
    maxRows: z.int().min(1).max(10_000).nullable().default(null),
  }),
  z.strictObject({ ...placed, type: z.literal('sign-off') }),
  z.strictObject({ ...placed, type: z.literal('note'), text: z.string().max(5000) }),
]);
export type Field = z.infer<typeof Field>;
export type TableField = Extract<Field, { type: 'table' }>;
export type FieldType = Field['type'];

/** The expression of a computed field or sub-field, else null. */
export const expressionOf = (field: Field | SubField): string | null =>
  'expression' in field && field.expression !== undefined ? field.expression : null;

/** Whether a computed field may be read by people who may not read all it is made from. */
export const isDisclosed = (field: Field | SubField): boolean => 'discloses' in field && field.discloses === true;

export const isComputed = (field: Field | SubField): boolean => expressionOf(field) !== null;
