import { z } from 'zod';
import { FILE_KIND_PATTERN } from './file-kind.ts';
import { Code, Key } from './keys.ts';
import { TREATMENTS } from './treatment.ts';

export const Treatment = z.enum(TREATMENTS);
export type Treatment = z.infer<typeof Treatment>;

/** The text of an expression; null where none is needed. */
export const ExpressionText = z.string().min(1).max(20_000);
/** A condition, or null for "always". */
export const ConditionText = ExpressionText.nullable();
const DecimalText = z.string().regex(/^-?\d{1,30}(\.\d{1,15})?$/, 'shape/decimal');
const DateText = z.string().regex(/^\d{4}-\d{2}-\d{2}$/, 'shape/date');

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
  .refine((options) => new Set(options.map((option) => option.code)).size === options.length, 'shape/same-code');

/** The limits for which an analyst can give words of their own. `count`: of rows, or of files. */
export const LIMITED = ['required', 'length', 'pattern', 'range', 'scale', 'options', 'count', 'kinds', 'size'] as const;
export type Limited = (typeof LIMITED)[number];

/** What each field and sub-field has. */
const named = {
  key: Key,
  name: z.string().min(1).max(200),
  /** The name where there is little room; empty: the name itself. */
  short: z.string().max(60).default(''),
  help: z.string().max(2000).default(''),
  /** What a participant reads when a limit is broken, instead of our own words. */
  messages: z.partialRecord(z.enum(LIMITED), z.string().min(1).max(500)).default({}),
};

/** What a field holds when a record shows it for the first time and it is still empty. */
const filled = { default: ExpressionText.nullable().default(null) };

/** A computed field is a field with an expression: always read-only, recomputed on every look. */
const computable = {
  expression: ExpressionText.nullable().default(null),
  /**
   * Whoever may read this field may read what it comes to, although they may not read all it is made from. Without this,
   * the readers of a computed value are those who may read everything it is made from.
   */
  discloses: z.boolean().default(false),
  ...filled,
};

const textLimits = {
  minLength: z.int().min(0).max(100_000).nullable().default(null),
  maxLength: z.int().min(1).max(100_000).nullable().default(null),
};

/** Field types whose values stand alone; these can be sub-fields of a table. */
const types = {
  text: {
    type: z.literal('text'),
    ...computable,
    ...textLimits,
    pattern: z.string().max(500).nullable().default(null),
  },
  longText: { type: z.literal('long-text'), ...computable, ...textLimits },
  number: {
    type: z.literal('number'),
    ...computable,
    scale: z.int().min(0).max(15).default(0),
    unit: z.string().max(20).default(''),
    min: DecimalText.nullable().default(null),
    max: DecimalText.nullable().default(null),
  },
  money: {
    type: z.literal('money'),
    ...computable,
    currency: z.string().regex(/^[A-Z]{3}$/, 'shape/currency'),
    scale: z.int().min(0).max(15).default(2),
    min: DecimalText.nullable().default(null),
    max: DecimalText.nullable().default(null),
  },
  yesNo: { type: z.literal('yes-no'), ...computable, layout: z.enum(['row', 'column']).default('row') },
  date: {
    type: z.literal('date'),
    ...computable,
    min: DateText.nullable().default(null),
    max: DateText.nullable().default(null),
  },
  time: { type: z.literal('time'), ...computable },
  dateTime: { type: z.literal('date-time'), ...computable },
  choice: {
    type: z.literal('choice'),
    ...computable,
    options: Options,
    /** A list to choose from, or buttons beside or below each other; more than six options are always a list. */
    layout: z.enum(['list', 'row', 'column']).default('list'),
  },
  multiChoice: { type: z.literal('multi-choice'), ...computable, options: Options },
  member: { type: z.literal('member'), ...computable, role: Key.nullable().default(null) },
  file: {
    type: z.literal('file'),
    maxCount: z.int().min(1).max(100).default(10),
    maxBytes: z.int().min(1).max(1_000_000_000).default(20_000_000),
    /** Media types (`application/pdf`, `image/*`) or endings (`.csv`) that are taken; empty: all. */
    kinds: z.array(z.string().regex(FILE_KIND_PATTERN, 'shape/file-kind')).max(50).default([]),
  },
  reference: { type: z.literal('reference'), workflow: Key, ...filled },
} as const;

/** Whether a column of numbers has its sum below it. */
const totalled = { total: z.boolean().default(false) };

export const SubField = z.discriminatedUnion('type', [
  z.strictObject({ ...named, ...types.text }),
  z.strictObject({ ...named, ...types.longText }),
  z.strictObject({ ...named, ...types.number, ...totalled }),
  z.strictObject({ ...named, ...types.money, ...totalled }),
  z.strictObject({ ...named, ...types.yesNo }),
  z.strictObject({ ...named, ...types.date }),
  z.strictObject({ ...named, ...types.time }),
  z.strictObject({ ...named, ...types.dateTime }),
  z.strictObject({ ...named, ...types.choice }),
  z.strictObject({ ...named, ...types.multiChoice }),
  z.strictObject({ ...named, ...types.member }),
  z.strictObject({ ...named, ...types.file }),
  z.strictObject({ ...named, ...types.reference }),
]);
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
  z.strictObject({ ...placed, ...types.text }),
  z.strictObject({ ...placed, ...types.longText }),
  z.strictObject({ ...placed, ...types.number }),
  z.strictObject({ ...placed, ...types.money }),
  z.strictObject({ ...placed, ...types.yesNo }),
  z.strictObject({ ...placed, ...types.date }),
  z.strictObject({ ...placed, ...types.time }),
  z.strictObject({ ...placed, ...types.dateTime }),
  z.strictObject({ ...placed, ...types.choice }),
  z.strictObject({ ...placed, ...types.multiChoice }),
  z.strictObject({ ...placed, ...types.member }),
  z.strictObject({ ...placed, ...types.file }),
  z.strictObject({ ...placed, ...types.reference }),
  z.strictObject({
    ...placed,
    type: z.literal('table'),
    fields: z.array(SubField).min(1).max(100),
    minRows: z.int().min(0).max(10_000).nullable().default(null),
    maxRows: z.int().min(1).max(10_000).nullable().default(null),
    /** How a participant sees the rows: as lines of a table, or each as a card. */
    layout: z.enum(['table', 'cards']).default('table'),
  }),
  z.strictObject({ ...placed, type: z.literal('sign-off') }),
  z.strictObject({ ...placed, type: z.literal('note'), text: z.string().max(5000) }),
]);
export type Field = z.infer<typeof Field>;
export type TableField = Extract<Field, { type: 'table' }>;
export type FieldType = Field['type'];
