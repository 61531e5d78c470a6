import {
  checkExpression,
  compileExpression,
  type Json,
  makeFrame,
  makeScope,
  parseExpression,
  readExact,
  TYPES,
  type Typing,
  typing,
  type Value,
} from '@ypomet/core';
import { evaluate as feelin } from 'feelin';
import { LogicEngine } from 'json-logic-engine';
import jsonLogic, { type RulesLogic } from 'json-logic-js';
import { rate } from './measure.ts';
import { makeRandom } from './random.ts';
import type { Line } from './report.ts';

const FIELDS = 40;
const CONDITIONS = 200;
const RECORDS = 20_000;

type Clause = { readonly field: number; readonly operator: '>' | '>=' | '<' | '<=' | '==' | '!='; readonly value: number };
type Tree = Clause | { readonly join: 'and' | 'or'; readonly of: readonly Tree[] };
type Record_ = readonly (number | null)[];

const random = makeRandom(7);
const name = (field: number): string => `f${field}`;

const makeTree = (depth: number): Tree => {
  if (depth === 0 || random() < 0.35) {
    const operator = (['>', '>=', '<', '<=', '==', '!='] as const)[Math.floor(random() * 6)] ?? '>';
    return { field: Math.floor(random() * FIELDS), operator, value: Math.floor(random() * 10_000) / 100 };
  }
  return {
    join: random() < 0.5 ? 'and' : 'or',
    of: Array.from({ length: 2 + Math.floor(random() * 2) }, () => makeTree(depth - 1)),
  };
};

const toFeel = (tree: Tree): string =>
  'join' in tree
    ? `(${tree.of.map(toFeel).join(` ${tree.join} `)})`
    : `${name(tree.field)} ${tree.operator === '==' ? '=' : tree.operator} ${tree.value}`;

const toLogic = (tree: Tree): RulesLogic =>
  ('join' in tree
    ? { [tree.join]: tree.of.map(toLogic) }
    : { [tree.operator]: [{ var: name(tree.field) }, tree.value] }) as RulesLogic;

/** What a programmer would write by hand, on doubles and with two-valued truth. */
function toClosure(tree: Tree): (record: Record_) => boolean {
  if ('join' in tree) {
    const parts = tree.of.map(toClosure);
    return tree.join === 'and' ? (record) => parts.every((part) => part(record)) : (record) => parts.some((part) => part(record));
  }
  const { field, value } = tree;
  const read = (record: Record_): number => record[field] ?? Number.NaN;
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

/** Evaluations a second of 200 random conditions over records of 40 fields, a fifth of them empty. */
export function benchConditions(): readonly Line[] {
  const trees = Array.from({ length: CONDITIONS }, () => makeTree(3));
  const records: readonly Record_[] = Array.from({ length: RECORDS }, () =>
    Array.from({ length: FIELDS }, () => (random() < 0.2 ? null : Math.floor(random() * 10_000) / 100)),
  );
  const scope = makeScope(
    Object.fromEntries(Array.from({ length: FIELDS }, (_, field): [string, Typing] => [name(field), typing(TYPES.number, true)])),
  );
  const compiled = trees.map((tree) => {
    const parsed = parseExpression(toFeel(tree));
    if (!parsed.ok) throw new Error('a generated condition does not parse');
    return compileExpression(checkExpression(parsed.value, scope));
  });
  const slots = records.map((record) => record.map((value): Value => (value === null ? null : readExact(value.toFixed(2)))));
  const objects = records.map((record) => Object.fromEntries(record.map((value, field): [string, Json] => [name(field), value])));
  const frame = makeFrame([], { now: 0, zone: 'UTC' });
  const logics = trees.map(toLogic);
  const closures = trees.map(toClosure);
  const generated = trees.map((tree) => new Function('r', `return ${toCode(tree)}`) as (record: Record_) => boolean);
  const engine = new LogicEngine();
  const built = logics.map((logic) => engine.build(logic) as (data: unknown) => unknown);
  const texts = trees.map(toFeel);

  const ours = () => {
    for (const values of slots) {
      frame.slots = values;
      for (const condition of compiled) condition(frame);
    }
  };
  const byHand = () => {
    for (const record of records) for (const closure of closures) closure(record);
  };
  const asCode = () => {
    for (const record of records) for (const condition of generated) condition(record);
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
  return [
    { what: 'compiled conditions', perSecond: rate(RECORDS * CONDITIONS, ours) },
    { what: 'closures by hand (doubles)', perSecond: rate(RECORDS * CONDITIONS, byHand) },
    { what: 'generated code (doubles)', perSecond: rate(RECORDS * CONDITIONS, asCode) },
    { what: 'json-logic-engine', perSecond: rate(200 * CONDITIONS, withEngine) },
    { what: 'json-logic-engine, built', perSecond: rate(1000 * CONDITIONS, withBuilt) },
    { what: 'json-logic-js', perSecond: rate(100 * CONDITIONS, withLogic) },
    { what: 'feelin', perSecond: rate(40, withFeelin) },
  ];
}
