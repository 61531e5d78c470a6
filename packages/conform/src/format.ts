import { DecisionTable } from '@ypomet/core/model/decision-table';
import { z } from 'zod';

/** The media of conformance files: `docs/conformance.md` explains it to people who check another core. */
export const CONFORMANCE_FORMAT = 'ypomet.conformance/1';

const SIMPLE_TYPES = [
  'number',
  'text',
  'boolean',
  'date',
  'time',
  'date and time',
  'days and time duration',
  'years and months duration',
] as const;

/** The type of a name: one of FEEL's, a choice among codes, a list, or a row. Every name may be null. */
export type NameType =
  | (typeof SIMPLE_TYPES)[number]
  | { readonly choice: readonly string[] }
  | { readonly list: NameType }
  | { readonly row: Readonly<Record<string, NameType>> };

export const NameType: z.ZodType<NameType> = z.lazy(() =>
  z.union([
    z.enum(SIMPLE_TYPES),
    z.strictObject({ choice: z.array(z.string()).min(1) }),
    z.strictObject({ list: NameType }),
    z.strictObject({ row: z.record(z.string(), NameType) }),
  ]),
);

/**
 * A value: JSON where JSON has it, else an object of one entry that names the type. `{"number": "0.1"}` carries more
 * digits than a JSON number does.
 */
export type TypedValue =
  | null
  | boolean
  | number
  | string
  | readonly TypedValue[]
  | { readonly number: string }
  | { readonly date: string }
  | { readonly time: string }
  | { readonly 'date and time': string }
  | { readonly duration: string }
  | { readonly row: Readonly<Record<string, TypedValue>> };

export const TypedValue: z.ZodType<TypedValue> = z.lazy(() =>
  z.union([
    z.null(),
    z.boolean(),
    z.number(),
    z.string(),
    z.array(TypedValue),
    z.strictObject({ number: z.string() }),
    z.strictObject({ date: z.string() }),
    z.strictObject({ time: z.string() }),
    z.strictObject({ 'date and time': z.string() }),
    z.strictObject({ duration: z.string() }),
    z.strictObject({ row: z.record(z.string(), TypedValue) }),
  ]),
);

const Names = z.record(z.string(), NameType).default({});
const Values = z.record(z.string(), TypedValue).default({});
const Stored = z.record(z.string(), z.json()).default({});
const Actor = z.strictObject({ id: z.string(), roles: z.array(z.string()).default([]) }).default({ id: 'somebody', roles: [] });

/** An expression with what it yields, or the code with which it is refused before it runs. */
export const ExpressionCase = z
  .strictObject({
    name: z.string().optional(),
    expression: z.string(),
    names: Names,
    values: Values,
    expect: TypedValue.optional(),
    refused: z.string().optional(),
  })
  .refine((one) => (one.expect === undefined) !== (one.refused === undefined), 'either "expect" or "refused"');
export type ExpressionCase = z.infer<typeof ExpressionCase>;

/** A decision table with what it decides for sample values. */
export const DecisionCase = z.strictObject({
  names: Names,
  table: DecisionTable,
  cases: z
    .array(
      z.strictObject({
        values: Values,
        expect: TypedValue.optional(),
        /** Rules that match, counted from 1 as DMN counts them. */
        matched: z.array(z.number().int().min(1)).optional(),
        violation: z.enum(['not-unique', 'outputs-differ']).optional(),
      }),
    )
    .min(1),
});
export type DecisionCase = z.infer<typeof DecisionCase>;

/** The form of a stage for stored and entered values; only what `expect` names is compared. */
export const FormCase = z.strictObject({
  name: z.string(),
  workflow: z.string(),
  stage: z.string(),
  actor: Actor,
  stored: Stored,
  entered: Stored,
  expect: z.strictObject({
    treatments: z.record(z.string(), z.string()).optional(),
    values: z.record(z.string(), z.json()).optional(),
    issues: z.array(z.string()).optional(),
    refused: z.array(z.string()).optional(),
  }),
});
export type FormCase = z.infer<typeof FormCase>;

/** A hand-off from a stage; only what `expect` names is compared. */
export const HandOffCase = z.strictObject({
  name: z.string(),
  workflow: z.string(),
  at: z.string(),
  /** The stage's first track unless it says otherwise. */
  track: z.string().optional(),
  handOff: z.string(),
  actor: Actor,
  stored: Stored,
  entered: Stored,
  expect: z.strictObject({
    refused: z.array(z.string()).optional(),
    stage: z.string().optional(),
    track: z.string().nullable().optional(),
    assignee: z.string().nullable().optional(),
    branches: z.array(z.string().nullable()).optional(),
    values: z.record(z.string(), z.json()).optional(),
    deliveries: z
      .array(z.strictObject({ delivery: z.string(), to: z.array(z.string()), subject: z.string(), body: z.string() }))
      .optional(),
    acknowledgement: z.string().nullable().optional(),
    followUps: z
      .array(z.strictObject({ followUp: z.string(), row: z.string().nullable(), values: z.record(z.string(), z.json()) }))
      .optional(),
  }),
});
export type HandOffCase = z.infer<typeof HandOffCase>;

/** What is found wrong with a definition: one of the file's workflows with a change (a JSON merge patch, RFC 7396). */
export const DesignCase = z.strictObject({
  name: z.string(),
  workflow: z.string(),
  change: z.json(),
  /** `path: code` of each thing wrong, in any order. */
  expect: z.array(z.string()),
});
export type DesignCase = z.infer<typeof DesignCase>;

export const ConformanceFile = z.strictObject({
  format: z.literal(CONFORMANCE_FORMAT),
  title: z.string(),
  /** Where the expected answers come from. */
  source: z.string(),
  /** The clock and the zone of every case. */
  now: z.iso.datetime().default('2026-11-25T09:30:00Z'),
  zone: z.string().default('Europe/Vienna'),
  /** Names that every expression of the file may read; a case adds its own. */
  names: Names,
  values: Values,
  expressions: z.array(ExpressionCase).default([]),
  decisions: z.array(DecisionCase).default([]),
  /** Definitions, as `ypomet.workflow/1`, that the forms and hand-offs name by key. */
  workflows: z.array(z.json()).default([]),
  /** Members of the workspace, for fields and assignments that name one. */
  members: z.array(z.strictObject({ id: z.string(), roles: z.array(z.string()).default([]) })).default([]),
  /** Records of other workflows, for references: what anybody may read of them. */
  records: z.array(z.strictObject({ workflow: z.string(), id: z.string(), values: z.record(z.string(), z.json()) })).default([]),
  designs: z.array(DesignCase).default([]),
  forms: z.array(FormCase).default([]),
  handOffs: z.array(HandOffCase).default([]),
});
export type ConformanceFile = z.infer<typeof ConformanceFile>;

/** The JSON Schema of conformance files. */
export const conformanceJsonSchema = (): unknown => z.toJSONSchema(ConformanceFile, { io: 'input', unrepresentable: 'any' });
