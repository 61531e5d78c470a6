import { REGISTER_ORDERS, SERVER_EN } from '@ypomet/contract';
import {
  type CheckedExpression,
  checkExpression,
  diagnostic,
  findField,
  isWellFormed,
  makeFrame,
  parseExpression,
  type Register,
  registerScope,
  specialiseExpression,
  TYPES,
} from '@ypomet/core';
import { loweredFor } from '../../db/lower-case.ts';
import { isInstant } from '../../paging.ts';
import { ProblemError, toDetails } from '../../problem.ts';
import type { Queries } from '../records/repository.ts';
import type { Workspace } from '../workspace/workspace.ts';
import { conditionSql, FACTS, fieldSql, Parameters } from './condition-sql.ts';
import { estimateRows, type Order, type Place, type Where } from './repository.ts';

/** What a register is narrowed to, as it is asked for. */
export type Narrowed = {
  readonly filter: string;
  readonly find: string;
  readonly stage?: string | undefined;
};

type Moment = { readonly now: number; readonly workspace: Pick<Workspace, 'zone' | 'counting'> };

/**
 * A condition with what an index would serve of it: what values are compared with, and in which text something is looked for.
 * `loops`: tables whose rows it goes through within each other, as SQL.
 */
export type Searched = Where & {
  readonly compared: readonly string[];
  readonly text: string | null;
  readonly loops: readonly (readonly string[])[];
};

/**
 * The records of a register that are asked for, as a condition over `records r`. `named`: the submitters whose name holds what
 * is looked for; null for very many.
 */
export function whereOf(
  register: Register,
  { filter, find, stage }: Narrowed,
  moment: Moment,
  named: readonly string[] | null = [],
): Searched {
  const parameters = new Parameters();
  let text: string | null = null;
  const parts = [`r.workflow = ${parameters.add(register.definition.key, 'text')}`];
  if (stage !== undefined) parts.push(`r.stage = ${parameters.add(stage, 'text')}`);
  if (filter.trim() !== '') parts.push(filterSql(register, filter, moment, parameters));
  if (find.trim() !== '') {
    const texts = searchableTexts(register).map((sql) => `coalesce(${sql}, '')`);
    const lowered = loweredFor(find);
    text = lowered(['r.number', ...texts].join(` || E'\\n' || `));
    const like = `like ${lowered(parameters.add(anywhere(find.trim().normalize('NFC')), 'text'))}`;
    const found = [`${text} ${like}`];
    // Named one by one, it is known how many records they have; of very many that doesn't matter.
    if (named === null) found.push(`${lowered('m.name')} ${like}`);
    else if (named.length > 0) found.push(`r.submitted_by = any(${parameters.add(named, 'uuid[]')})`);
    parts.push(`(${found.join(' or ')})`);
  }
  // An expression can name any character by its number.
  if (parameters.values.some((value) => typeof value === 'string' && !isWellFormed(value)))
    throw new ProblemError('request/unfit-text', { path: 'query.filter' });
  return {
    sql: parts.join(' and '),
    values: parameters.values,
    compared: [...parameters.compared],
    text,
    loops: [...parameters.loops.values()],
  };
}

/** Returns a function that estimates how many rows of tables a condition looks at; undefined if it has no nested loops over rows. */
export function estimateOf(where: Where | Searched, workflow: string): ((db: Queries) => Promise<number>) | undefined {
  const loops = 'loops' in where ? where.loops : [];
  return loops.length > 0 ? (db) => estimateRows(db, workflow, loops) : undefined;
}

/** A text as a pattern of SQL's `like`, wherever it stands. */
export const anywhere = (text: string): string => `%${text.replace(/[\\%_]/g, '\\$&')}%`;

const searchableTexts = ({ definition, searchable }: Register): readonly string[] =>
  definition.fields
    .filter(({ key, type }) => (type === 'text' || type === 'long-text') && searchable.includes(key))
    .flatMap((field) => fieldSql(field, 'r.values')?.sql ?? []);

function filterSql(register: Register, filter: string, moment: Moment, parameters: Parameters): string {
  const checked = readFilter(register, filter, moment);
  const fields = register.definition.fields.filter(({ key }) => register.searchable.includes(key));
  const written = conditionSql(checked, fields, parameters);
  if (written.ok) return written.value;
  throw new ProblemError('register/filter', {
    path: 'query.filter',
    details: toDetails([diagnostic('expression/not-searchable', 'query.filter', {}, written.diagnostics.span)]),
  });
}

/** Steps that all constants of a condition may take together: some milliseconds, since it is worked out while others wait. */
const CONSTANT_STEPS = 50_000;

/** The condition, typed, with all in it that doesn't depend on a record worked out. */
function readFilter(register: Register, filter: string, { now, workspace }: Moment): CheckedExpression {
  const parsed = parseExpression(filter);
  if (!parsed.ok) throw new ProblemError('register/filter', { path: 'query.filter', details: toDetails(parsed.diagnostics) });
  const scope = registerScope(register);
  const check = (node: typeof parsed.value): CheckedExpression => {
    const checked = checkExpression(node, scope, TYPES.boolean);
    if (checked.diagnostics.length > 0)
      throw new ProblemError('register/filter', { path: 'query.filter', details: toDetails(checked.diagnostics) });
    return checked;
  };
  const environment = { now, zone: workspace.zone, calendar: workspace.counting };
  const frame = makeFrame([], environment, [], CONSTANT_STEPS);
  const { node } = specialiseExpression(check(parsed.value), () => false, frame, 'known');
  if (frame.overruns.length > 0) throw new ProblemError('register/too-much-work', { path: 'query.filter' });
  return check(node);
}

/** What records are ordered by. Code `register/filter` for a field that the register isn't ordered by. */
export function orderOf({ definition, searchable }: Register, sort: string, direction: 'up' | 'down'): Order {
  const fact = REGISTER_ORDERS.find((one) => one === sort);
  if (fact) {
    const { sql, kind } = FACTS[fact.slice('record.'.length)] as (typeof FACTS)[string];
    return { sql, type: TYPES_OF[kind], direction };
  }
  const field = searchable.includes(sort) ? findField(definition, sort) : null;
  const value = field && fieldSql(field, 'r.values');
  if (!field || !value || field.type === 'member')
    throw new ProblemError('register/filter', { path: 'query.sort', detail: SERVER_EN.details['not-ordered'] });
  if (field.type === 'choice') {
    const codes = field.options.map(({ code }) => `'${code.replaceAll("'", "''")}'`);
    return { sql: `array_position(array[${codes.join(', ')}]::text[], ${value.sql})`, type: 'int', direction };
  }
  // Texts are ordered as people order them ("item 2" before "item 10"), by their beginning.
  const sql = value.kind === 'text' ? `left(${value.sql}, 200) collate ypomet_natural` : value.sql;
  return { sql, type: TYPES_OF[value.kind], direction };
}

/** The types in which places of an order are compared. */
const TYPES_OF = {
  number: 'numeric',
  text: 'text',
  boolean: 'boolean',
  date: 'text',
  time: 'bigint',
  'date-time': 'timestamptz',
} as const;

export const encodePlace = ({ value, id }: Place): string => Buffer.from(JSON.stringify([value, id])).toString('base64url');

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;
const FORMS: Readonly<Record<Order['type'], RegExp>> = {
  text: /^/,
  numeric: /^-?\d+(\.\d+)?$/,
  boolean: /^(true|false)$/,
  bigint: /^-?\d{1,12}$/,
  int: /^\d{1,9}$/,
  timestamptz: /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}(\.\d{1,6})?Z$/,
};

/** Reads where a page ended. Code `request/invalid` for what isn't a place in this order. */
export function decodePlace(text: string | undefined, { type }: Order): Place | null {
  if (text === undefined) return null;
  const invalid = new ProblemError('request/invalid', { path: 'query.after' });
  let read: unknown;
  try {
    read = JSON.parse(Buffer.from(text, 'base64url').toString('utf8'));
  } catch (error) {
    if (error instanceof SyntaxError) throw invalid;
    throw error;
  }
  const [value, id] = Array.isArray(read) ? (read as readonly unknown[]) : [];
  const isPlace =
    (value === null || (typeof value === 'string' && isWellFormed(value) && FORMS[type].test(value))) &&
    typeof id === 'string' &&
    UUID.test(id);
  if (!isPlace || (type === 'timestamptz' && value !== null && !isInstant(value as string))) throw invalid;
  return { value, id };
}
