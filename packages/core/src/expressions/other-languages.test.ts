import { expect, test } from '@jest/globals';
import { checked, ENVIRONMENT, holds } from '@ypomet/testkit/evaluate';
import {
  PLAIN_TYPINGS,
  type Plain,
  type PlainRecord,
  plainConditions,
  plainRecords,
  plainValues,
  toFeel,
} from '@ypomet/testkit/plain-conditions';
import Ajv2020 from 'ajv/dist/2020.js';
import fc from 'fast-check';
import jsonLogic from 'json-logic-js';
import type { Truth } from '../values/value.ts';
import { compileExpression } from './compile.ts';
import { makeFrame } from './frame.ts';
import { makeScope } from './scope.ts';

const scope = makeScope(PLAIN_TYPINGS);
function truthOf(condition: Plain, record: PlainRecord): Truth {
  const expression = checked(toFeel(condition), scope);
  const frame = makeFrame(plainValues(record), ENVIRONMENT);
  const truth = compileExpression(expression)(frame) as Truth;
  expect(holds(expression, frame)).toBe(truth === true);
  return truth;
}

const BOUNDS = { '<': 'exclusiveMaximum', '<=': 'maximum', '>': 'exclusiveMinimum', '>=': 'minimum' } as const;
const OPPOSITE = { '<': 'minimum', '<=': 'exclusiveMinimum', '>': 'maximum', '>=': 'exclusiveMaximum' } as const;

const property = (name: string, schema: object): object => ({ properties: { [name]: schema } });

/**
 * A condition as a JSON Schema (2020-12, ajv) that holds exactly where the condition has the given truth. JSON Schema has
 * two truths, FEEL three: unknown is where neither schema holds.
 */
function toSchema(condition: Plain, truth: boolean): object {
  switch (condition.kind) {
    case 'compare': {
      const bound = (truth ? BOUNDS : OPPOSITE)[condition.operator];
      return property(condition.field, { type: 'number', [bound]: condition.literal });
    }
    case 'is':
    case 'is-not': {
      const isSame = truth === (condition.kind === 'is');
      return property(condition.field, isSame ? { const: condition.literal } : { not: { const: condition.literal } });
    }
    case 'between':
      return property(
        condition.field,
        truth
          ? { type: 'number', minimum: condition.low, maximum: condition.high }
          : { type: 'number', anyOf: [{ exclusiveMaximum: condition.low }, { exclusiveMinimum: condition.high }] },
      );
    case 'one-of':
      return property(condition.field, truth ? { enum: condition.of } : { not: { enum: condition.of } });
    case 'flag':
      return property('flag', { const: truth });
    case 'all':
    case 'any':
      return { [(condition.kind === 'all') === truth ? 'allOf' : 'anyOf']: condition.of.map((part) => toSchema(part, truth)) };
    case 'not':
      return toSchema(condition.of, !truth);
    case 'if': {
      const { test: tested, then, otherwise } = condition;
      return { if: toSchema(tested, true), then: toSchema(then, truth), else: toSchema(otherwise, truth) };
    }
    case 'some':
    case 'every': {
      const isAny = (condition.kind === 'some') === truth;
      const row = toSchema(condition.of, truth);
      return property('rows', isAny ? { contains: row } : { items: row });
    }
    default:
      return condition satisfies never;
  }
}

test('conditions are what their JSON Schemas say, in ajv: true, false, and unknown where neither holds', () => {
  const ajv = new Ajv2020({ strict: false, allErrors: false });
  const met = new Set<Truth>();
  fc.assert(
    fc.property(plainConditions(), fc.array(plainRecords(true), { minLength: 10, maxLength: 10 }), (condition, records) => {
      const [holds, fails] = [true, false].map((truth) => ajv.compile(toSchema(condition, truth)));
      for (const record of records) {
        const [isTrue, isFalse] = [holds?.(record) === true, fails?.(record) === true];
        const elsewhere = isTrue ? true : isFalse ? false : null;
        const own = truthOf(condition, record);
        met.add(own);
        expect({ condition: toFeel(condition), record, truth: own }).toEqual({
          condition: toFeel(condition),
          record,
          truth: elsewhere,
        });
      }
    }),
    { numRuns: 400 },
  );
  expect(met).toEqual(new Set([true, false, null]));
});

/** A condition in JsonLogic. */
function toJsonLogic(condition: Plain): jsonLogic.RulesLogic {
  const read = (name: string): jsonLogic.RulesLogic => ({ var: name });
  switch (condition.kind) {
    case 'compare':
      return { [condition.operator]: [read(condition.field), condition.literal] } as jsonLogic.RulesLogic;
    case 'is':
      return { '===': [read(condition.field), condition.literal] };
    case 'is-not':
      return { '!==': [read(condition.field), condition.literal] };
    case 'between':
      return { '<=': [condition.low, read(condition.field), condition.high] };
    case 'one-of':
      return { in: [read(condition.field), [...condition.of]] };
    case 'flag':
      return { '===': [read('flag'), true] };
    case 'all':
      return { and: condition.of.map(toJsonLogic) };
    case 'any':
      return { or: condition.of.map(toJsonLogic) };
    case 'not':
      return { '!': [toJsonLogic(condition.of)] };
    case 'if':
      return { if: [toJsonLogic(condition.test), toJsonLogic(condition.then), toJsonLogic(condition.otherwise)] };
    case 'some':
      return { some: [read('rows'), toJsonLogic(condition.of)] };
    case 'every':
      // JsonLogic's `all` is false for no rows; every row of none is true in FEEL, as in logic.
      return { or: [{ '!': [read('rows')] }, { all: [read('rows'), toJsonLogic(condition.of)] }] };
    default:
      return condition satisfies never;
  }
}

test('on complete records, groups of clauses come to the same in JsonLogic', () => {
  fc.assert(
    fc.property(plainConditions(), plainRecords(false), (condition, record) => {
      expect(truthOf(condition, record)).toBe(jsonLogic.apply(toJsonLogic(condition), record) === true);
    }),
    { numRuns: 2000 },
  );
});

test('with empty values, what JsonLogic calls true of a group of equalities without a negation is true', () => {
  const equalities = plainConditions(['not', 'if', 'some']);
  const hasOrder = (one: Plain): boolean =>
    one.kind === 'compare' || one.kind === 'between' || ((one.kind === 'all' || one.kind === 'any') && one.of.some(hasOrder));
  fc.assert(
    fc.property(
      equalities.filter((one) => !hasOrder(one)),
      plainRecords(true),
      (condition, record) => {
        expect(truthOf(condition, record) === true).toBe(jsonLogic.apply(toJsonLogic(condition), record) === true);
      },
    ),
    { numRuns: 1000 },
  );
});

test('JsonLogic takes an empty number for 0, FEEL for unknown', () => {
  const condition: Plain = { kind: 'compare', field: 'amount', operator: '<', literal: 1 };
  const record: PlainRecord = { amount: null, size: null, shade: null, flag: null, rows: [] };
  expect(jsonLogic.apply(toJsonLogic(condition), record)).toBe(true);
  expect(truthOf(condition, record)).toBeNull();
});
