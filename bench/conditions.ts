import {
  type ConditionProgram,
  checkExpression,
  compileCondition,
  type Json,
  makeFrame,
  makeScope,
  ORDINARY_CALENDAR,
  parseExpression,
  readExact,
  runProgram,
  TYPES,
  type Typing,
  typing,
  type Value,
} from '@ypomet/core';
import { evaluate as feelin } from 'feelin';
import { LogicEngine } from 'json-logic-engine';
import jsonLogic, { type RulesLogic } from 'json-logic-js';
import { makeRandom } from './random.ts';
import { type Line, measureLines } from './report.ts';

const FIELDS = 40;
const CONDITIONS = 200;
const RECORDS = 20_000;

type Clause = { readonly field: number; readonly operator: '>' | '>=' | '<' | '<=' | '==' | '!='; readonly value: number };
type Tree = Clause | { readonly join: 'and' | 'or'; readonly of: readonly Tree[] };
/** Doubles by field; nothing is NaN, of which no order holds. */
type Doubles = readonly number[];

const random = makeRandom(7);
const name = (field: number): string => `f${field}`;

const makeClause = (): Clause => {
  const operator = (['>', '>=', '<', '<=', '==', '!='] as const)[Math.floor(random() * 6)] ?? '>';
  return { field: Math.floor(random() * FIELDS), operator, value: Math.floor(random() * 10_000) / 100 };
};
const makeTree = (depth: number): Tree =>
  depth === 0 || random() < 0.35
    ? makeClause()
    : {
        join: random() < 0.5 ? 'and' : 'or',
        of: Array.from({ length: 2 + Math.floor(random() * 2) }, () => makeTree(depth - 1)),
      };
/** A group of clauses or of groups, three deep at most. */
const makeNested = (): Tree => {
  const tree = makeTree(3);
  return 'join' in tree ? tree : { join: 'or', of: [tree, makeTree(2)] };
};

const toFeel = (tree: Tree): string =>
  'join' in tree
    ? `(${tree.of.map(toFeel).join(` ${tree.join} `)})`
    : `${name(tree.field)} ${tree.operator === '==' ? '=' : tree.operator} ${tree.value}`;

/**
 * In that language an order of nothing and a number is decided as if nothing were zero. A clause that must mean the same asks
 * first whether there is a value.
 */
const toLogic = (tree: Tree): RulesLogic => {
  if ('join' in tree) return { [tree.join]: tree.of.map(toLogic) } as unknown as RulesLogic;
  const field = { var: name(tree.field) };
  const clause = { [tree.operator]: [field, tree.value] };
  const isOrder = tree.operator !== '==' && tree.operator !== '!=';
  return (isOrder ? { and: [{ '!==': [field, null] }, clause] } : clause) as unknown as RulesLogic;
};

/** What a programmer would write by hand, on doubles and with two-valued truth. */
function toClosure(tree: Tree): (record: Doubles) => boolean {
  if ('join' in tree) {
    const parts = tree.of.map(toClosure);
    return tree.join === 'and' ? (record) => parts.every((part) => part(record)) : (record) => parts.some((part) => part(record));
  }
  const { field, value } = tree;
  const read = (record: Doubles): number => record[field] as number;
  switch (tree.operator) {
    case '>':
      return (record) => read(record) > value;
    case '>=':
      return (record) => read(record) >= value;
    case '<':
      return (record) => read(record) < value;
    case '<=':
      return (record) => read(record) <= value;
    case '==':
      return (record) => read(record) === value;
    case '!=':
      return (record) => read(record) !== value;
    default:
      return tree.operator satisfies never;
  }
}

/** The same as one line of JavaScript, turned into code: as fast as it gets, and what a page's policy forbids. Bench only. */
const toCode = (tree: Tree): string =>
  'join' in tree
    ? `(${tree.of.map(toCode).join(tree.join === 'and' ? ' && ' : ' || ')})`
    : `r[${tree.field}] ${tree.operator === '==' || tree.operator === '!=' ? `${tree.operator}=` : tree.operator} ${tree.value}`;

/** Throws unless a peer says yes where ours says true, and only there: speed says nothing of another answer. */
function requireSame(peer: string, count: number, ours: (index: number) => unknown, theirs: (index: number) => unknown): void {
  for (let index = 0; index < count; index++)
    if ((ours(index) === true) !== (theirs(index) === true)) throw new Error(`${peer} decides case ${index} otherwise`);
}

/** Evaluations a second of random conditions over records of 40 fields, a fifth of them empty. */
function measure(trees: readonly Tree[], bars: { readonly code: number }): readonly Line[] {
  const records: readonly (readonly (number | null)[])[] = Array.from({ length: RECORDS }, () =>
    Array.from({ length: FIELDS }, () => (random() < 0.2 ? null : Math.floor(random() * 10_000) / 100)),
  );
  const scope = makeScope(
    Object.fromEntries(Array.from({ length: FIELDS }, (_, field): [string, Typing] => [name(field), typing(TYPES.number, true)])),
  );
  const texts = trees.map(toFeel);
  const compiled = texts.map((text) => {
    const parsed = parseExpression(text);
    if (!parsed.ok) throw new Error('a generated condition does not parse');
    return compileCondition(checkExpression(parsed.value, scope));
  });
  const slots = records.map((record) => record.map((value): Value => (value === null ? null : readExact(value.toFixed(2)))));
  const objects = records.map((record) => Object.fromEntries(record.map((value, field): [string, Json] => [name(field), value])));
  const doubles: readonly Doubles[] = records.map((record) => record.map((value) => value ?? Number.NaN));
  const frame = makeFrame([], { now: 0, zone: 'UTC', calendar: ORDINARY_CALENDAR });
  const logics = trees.map(toLogic);
  const closures = trees.map(toClosure);
  const generated = trees.map((tree) => new Function('r', `return ${toCode(tree)}`) as (record: Doubles) => boolean);
  const engine = new LogicEngine();
  const built = logics.map((logic) => engine.build(logic) as (data: unknown) => unknown);

  const caseOf = (index: number) => ({ record: index % RECORDS, condition: (index * 7) % trees.length });
  const oursAt = (index: number): unknown => {
    const { record, condition } = caseOf(index);
    frame.slots = slots[record] as Value[];
    return runProgram(compiled[condition] as ConditionProgram, frame);
  };
  const compare = (peer: string, count: number, decide: (condition: number, record: number) => unknown): void =>
    requireSame(peer, count, oursAt, (index) => decide(caseOf(index).condition, caseOf(index).record));
  compare('closures by hand', 50_000, (condition, record) => closures[condition]?.(doubles[record] as Doubles));
  compare('generated code', 50_000, (condition, record) => generated[condition]?.(doubles[record] as Doubles));
  compare('json-logic-engine', 5_000, (condition, record) => engine.run(logics[condition], objects[record]));
  compare('json-logic-engine, built', 20_000, (condition, record) => built[condition]?.(objects[record]));
  compare('json-logic-js', 5_000, (condition, record) => jsonLogic.apply(logics[condition] as RulesLogic, objects[record]));
  compare('feelin', 200, (condition, record) => feelinAnswer(texts[condition] ?? '', objects[record] ?? {}));

  const ours = () => {
    for (const values of slots) {
      frame.slots = values;
      for (const condition of compiled) runProgram(condition, frame);
    }
  };
  const byHand = () => {
    for (const record of doubles) for (const closure of closures) closure(record);
  };
  const asCode = () => {
    for (const record of doubles) for (const condition of generated) condition(record);
  };
  const withEngine = () => {
    for (const object of objects.slice(0, 200)) for (const logic of logics) engine.run(logic, object);
  };
  const withBuilt = () => {
    for (const object of objects.slice(0, 1000)) for (const logic of built) logic(object);
  };
  const withLogic = () => {
    for (const object of objects.slice(0, 100)) for (const logic of logics) jsonLogic.apply(logic, object);
  };
  const withFeelin = () => {
    for (const text of texts.slice(0, 40)) feelin(text, objects[0] ?? {});
  };
  return measureLines([
    { what: 'compiled conditions', count: RECORDS * CONDITIONS, run: ours },
    { what: 'closures by hand (doubles)', count: RECORDS * CONDITIONS, run: byHand },
    { what: 'generated code (doubles)', count: RECORDS * CONDITIONS, run: asCode, times: { above: bars.code } },
    { what: 'json-logic-engine', count: 200 * CONDITIONS, run: withEngine, times: { above: 6 } },
    { what: 'json-logic-engine, built', count: 1000 * CONDITIONS, run: withBuilt },
    { what: 'json-logic-js', count: 100 * CONDITIONS, run: withLogic, times: { above: 15 } },
    // It has no way of evaluating what it has read before: each evaluation reads the text.
    { what: 'feelin, which reads each time', count: 40, run: withFeelin, times: { above: 5000 } },
  ]);
}

/** Its answer without the warnings that come with it. */
function feelinAnswer(text: string, context: Readonly<Record<string, Json>>): unknown {
  const answer: unknown = feelin(text, context);
  return typeof answer === 'object' && answer !== null && 'value' in answer ? answer.value : answer;
}

/** Conditions of one clause, and nested ones, apart: what a clause costs and what a group does are different things. */
export const benchConditions = (): { readonly single: readonly Line[]; readonly nested: readonly Line[] } => ({
  single: measure(Array.from({ length: CONDITIONS }, makeClause), { code: 1 / 3 }),
  nested: measure(Array.from({ length: CONDITIONS }, makeNested), { code: 1 / 3 }),
});
