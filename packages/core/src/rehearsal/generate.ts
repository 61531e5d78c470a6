import type { CompiledWorkflow } from '../flow/compiled-workflow.ts';
import { fillForm } from '../flow/enter-input.ts';
import { mayRead } from '../flow/permissions.ts';
import type { Actor, FileFacts, Outside, WorkflowRecord } from '../flow/record.ts';
import { decidedOf } from '../forms/evaluate-form.ts';
import { validateForm } from '../forms/validate-form.ts';
import type { Field, SubField } from '../model/field.ts';
import { isEmpty } from '../model/field-value.ts';
import { isEnterable } from '../model/treatment.ts';
import type { Json } from '../shared/json.ts';
import {
  addExact,
  type Exact,
  exactInteger,
  multiplyExact,
  readExact,
  roundExact,
  subtractExact,
  writeFixed,
} from '../values/exact.ts';
import { makeDate, writeDate } from '../values/temporal.ts';

/** Entries for a form, made up from a seed; fields for which nothing could be made up are left to whoever fills it in. */
export type Generated = { readonly entered: Readonly<Record<string, Json>>; readonly left: readonly string[] };

/** What entries are made up from. */
export type GenerateWorld = {
  readonly seed: number;
  readonly members: readonly { readonly id: string; readonly roles: readonly string[] }[];
  /** Makes a file known, so that it can be entered; its SHA-256. */
  readonly makeFile: (facts: FileFacts) => string;
};

type Draw = (below: number) => number;

/** Numbers below a bound from a seed (mulberry32, a published public-domain generator; from memory). */
export function drawFrom(seed: number): Draw {
  let state = seed >>> 0;
  return (below) => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return Math.floor((((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296) * below);
  };
}

const MAX_ROUNDS = 6;

/**
 * Fills what can be entered at a record's stage and is still empty, by types and limits: what an answer brings in is filled in the
 * next round. Required fields always, others mostly. The same seed gives the same entries.
 */
export function generateEntries(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  actor: Actor,
  outside: Outside,
  world: GenerateWorld,
  before: Readonly<Record<string, Json>> = {},
): Generated {
  const draw = drawFrom(world.seed);
  const entered: Record<string, Json> = { ...before };
  const tried = new Set<string>();
  for (let round = 0; round < MAX_ROUNDS; round++) {
    const { form } = fillForm(workflow, record, entered, actor, outside);
    const open = workflow.forms.fields.filter((of) => {
      const decided = decidedOf(form, of);
      // A confidential field that the actor may not read isn't on their form.
      const isTheirs = mayRead(workflow.forms, of.field.key, actor);
      return !tried.has(of.field.key) && isTheirs && isEnterable(decided.treatment) && isEmpty(form.frame.slots[of.slot] ?? null);
    });
    if (open.length === 0) break;
    for (const of of open) {
      const { field } = of;
      tried.add(field.key);
      // Every fifth of what may stay empty does.
      if (decidedOf(form, of).treatment !== 'required' && draw(5) === 0) continue;
      const value = valueFor(field, draw, world, outside);
      if (value !== null) entered[field.key] = value;
    }
  }
  const { form } = fillForm(workflow, record, entered, actor, outside);
  const left = validateForm(form).flatMap(({ field }) => (field === null ? [] : [field]));
  return { entered, left: [...new Set(left)] };
}

const WORDS = ['Amber', 'Birch', 'Cedar', 'Delta', 'Ember', 'Fjord', 'Grove', 'Haven', 'Islet', 'Juniper', 'Kestrel', 'Lagoon'];

const pick = <T>(draw: Draw, list: readonly T[]): T | null => list[draw(list.length)] ?? null;

function valueFor(field: Field | SubField, draw: Draw, world: GenerateWorld, outside: Outside): Json {
  switch (field.type) {
    case 'text':
    case 'long-text':
      return textFor(field, draw);
    case 'number':
    case 'money':
      return numberFor(field, draw);
    case 'yes-no':
      return draw(2) === 1;
    case 'date':
      return dateFor(field, draw, outside);
    case 'time':
      return `${String(8 + draw(10)).padStart(2, '0')}:${draw(2) === 0 ? '00' : '30'}`;
    case 'date-time': {
      const day = dateFor({ min: null, max: null }, draw, outside);
      return day === null ? null : `${day}T${String(8 + draw(10)).padStart(2, '0')}:00`;
    }
    case 'choice':
      return (
        pick(
          draw,
          field.options.filter(({ retired }) => !retired),
        )?.code ?? null
      );
    case 'multi-choice': {
      const open = field.options.filter(({ retired }) => !retired);
      const chosen = open.filter(() => draw(2) === 0).map(({ code }) => code);
      return chosen.length > 0 ? chosen : open.slice(0, 1).map(({ code }) => code);
    }
    case 'member':
      return (
        pick(
          draw,
          world.members.filter(({ roles }) => field.role === null || roles.includes(field.role)),
        )?.id ?? null
      );
    case 'file':
      return fileFor(field, draw, world);
    case 'table':
      return rowsFor(field, draw, world, outside);
    case 'sign-off':
      return { sign: true };
    // There are no other records in a rehearsal; notes hold nothing.
    case 'reference':
    case 'note':
      return null;
    default:
      return field satisfies never;
  }
}

function textFor(field: Extract<Field | SubField, { type: 'text' | 'long-text' }>, draw: Draw): Json {
  const { minLength, maxLength } = field;
  const isMail = /mail/i.test(`${field.key} ${field.name}`);
  let text = isMail
    ? `${pick(draw, WORDS)?.toLowerCase()}@example.invalid`
    : `${pick(draw, WORDS)} ${pick(draw, WORDS)?.toLowerCase()}`;
  while (minLength !== null && [...text].length < minLength) text += ` ${pick(draw, WORDS)?.toLowerCase()}`;
  return maxLength === null ? text : [...text].slice(0, maxLength).join('').trim();
}

/** Between the limits, both reached now and then; without them up to a thousand, money up to a hundred thousand. */
function numberFor(field: Extract<Field | SubField, { type: 'number' | 'money' }>, draw: Draw): Json {
  const read = (text: string | null): Exact | null => (text === null ? null : readExact(text));
  const reach = exactInteger(field.type === 'money' ? 100_000 : 1000);
  const low = read(field.min) ?? (read(field.max) ? subtractExact(read(field.max) as Exact, reach) : exactInteger(0));
  const high = read(field.max) ?? (low && addExact(low, reach));
  if (!low || !high) return null;
  const width = subtractExact(high, low);
  const part = readExact(`0.${String(draw(1001)).padStart(3, '0')}`);
  const whole = draw(8) === 0 ? exactInteger(draw(2)) : part;
  const offset = width && whole && multiplyExact(width, whole);
  const value = offset && addExact(low, offset);
  const rounded = value && roundExact(value, field.scale, 'half-even');
  return rounded && writeFixed(rounded, field.scale);
}

function dateFor(
  { min, max }: { readonly min: string | null; readonly max: string | null },
  draw: Draw,
  { now }: Outside,
): string | null {
  const today = Math.floor(now / 86_400_000);
  const dayOf = (text: string | null): number | null =>
    text === null ? null : Math.floor(Date.parse(`${text}T00:00:00Z`) / 86_400_000);
  const low = dayOf(min) ?? Math.min(today + 7, dayOf(max) ?? Number.POSITIVE_INFINITY);
  const high = dayOf(max) ?? low + 180;
  const date = makeDate(low + draw(Math.max(1, high - low + 1)));
  return date && writeDate(date);
}

function fileFor(field: Extract<Field | SubField, { type: 'file' }>, draw: Draw, { makeFile }: GenerateWorld): Json {
  const [kind = 'application/pdf'] = field.kinds;
  const ending = kind.startsWith('.') ? kind : kind.startsWith('image/') ? '.png' : '.pdf';
  const mediaType = kind.includes('*') ? 'image/png' : kind.startsWith('.') ? 'application/octet-stream' : kind;
  const facts = { name: `sample-${draw(1000)}${ending}`, mediaType, bytes: Math.min(field.maxBytes, 1024) };
  return [{ ...facts, sha256: makeFile(facts) }];
}

function rowsFor(table: Extract<Field, { type: 'table' }>, draw: Draw, world: GenerateWorld, outside: Outside): Json {
  const least = Math.max(1, table.minRows ?? 0);
  const count = Math.min(table.maxRows ?? least + 2, least + draw(3));
  return Array.from({ length: count }, (_, index) => ({
    id: `row${index + 1}`,
    values: Object.fromEntries(
      table.fields.flatMap((sub) => {
        const isComputed = 'expression' in sub && sub.expression !== null;
        const value = isComputed ? null : valueFor(sub, draw, world, outside);
        return value === null ? [] : [[sub.key, value]];
      }),
    ),
  }));
}
