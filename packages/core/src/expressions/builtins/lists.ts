import { findNumbers, halfOf, sortExact, sumExact } from '../../values/arithmetic.ts';
import {
  compareExact,
  divideExact,
  type Exact,
  exactInteger,
  findInteger,
  multiplyExact,
  ONE,
  squareRootExact,
  subtractExact,
} from '../../values/exact.ts';
import { writeText } from '../../values/text.ts';
import { andTruth, compareValues, equalValues, isList, orTruth, type Truth, type Value } from '../../values/value.ts';
import { joinTypes, listOf, TYPES, type Type, type Typing } from '../types.ts';
import { type Builtin, type Parameter, parameter, type Signature } from './builtin.ts';

const CLAUSE = '10.3.4.4';
const { number, boolean, any } = TYPES;
const numbers = listOf(number, true);
const anyList = listOf(any, true);

const items = (value: Value | undefined): readonly Value[] => value as readonly Value[];
const listTyping = (given: readonly Typing[]): Type => given[0]?.type ?? anyList;
const itemType = (type: Type | undefined): Typing => (type?.kind === 'list' ? type.of : { type: TYPES.any, nullable: true });

/** Called with one list or with the items themselves: `max(list)`, `max(a, b, c)`. */
const listOrItems = (list: Type, item: Type, result: Signature['result']): readonly Signature[] => [
  { parameters: [parameter('list', list)], result },
  { parameters: [parameter('list', item)], variadic: true, result },
];

/** The type of a number made from numbers: an amount in their currency, where they have one. */
const amountOf = (given: readonly Typing[]): Type =>
  given.map(({ type }) => (type.kind === 'list' ? type.of.type : type)).reduce<Type>((a, b) => joinTypes(a, b) ?? a, number);

const fold = (name: string, call: (values: readonly Exact[]) => Value, steps = 1, stepsPerItem = 1): Builtin => ({
  name,
  clause: CLAUSE,
  partial: true,
  steps,
  stepsPerItem,
  takesNull: true,
  signatures: listOrItems(numbers, number, name === 'product' ? number : amountOf),
  call: ([list]) => {
    const values = list === null ? null : findNumbers(items(list));
    return values && values.length > 0 ? call(values) : null;
  },
});

const extreme = (name: 'min' | 'max', sign: 1 | -1): Builtin => ({
  name,
  clause: CLAUSE,
  partial: true,
  takesNull: true,
  signatures: listOrItems(anyList, any, (given) =>
    given[0]?.type.kind === 'list' ? itemType(given[0].type).type : (given[0]?.type ?? any),
  ),
  call: ([list]) => {
    if (list === null) return null;
    const [first = null, ...rest] = items(list);
    let best: Value = first;
    for (const item of rest) {
      const order = compareValues(item, best);
      if (order === null) return null;
      if (order * sign < 0) best = item;
    }
    return best;
  },
});

const truths = (name: 'all' | 'any', join: (a: Value, b: Value) => Truth, empty: boolean): Builtin => ({
  name,
  clause: CLAUSE,
  partial: true,
  takesNull: true,
  signatures: listOrItems(listOf(boolean, true), boolean, boolean),
  call: ([list]) => (list === null ? null : items(list).reduce<Truth>((result, item) => join(result, item), empty)),
});

function mean(values: readonly Exact[]): Exact | null {
  const total = sumExact(values);
  return total && divideExact(total, exactInteger(values.length));
}

function median(values: readonly Exact[]): Exact | null {
  const sorted = sortExact(values);
  const middle = Math.floor(sorted.length / 2);
  if (sorted.length % 2 === 1) return sorted[middle] as Exact;
  const pair = sumExact(sorted.slice(middle - 1, middle + 1));
  return pair && halfOf(pair);
}

/** Sample standard deviation (divisor n - 1), as DMN's example stddev(2, 4, 7, 5) = 2.081665999… has it. */
function deviation(values: readonly Exact[]): Exact | null {
  const average = mean(values);
  if (!average || values.length < 2) return null;
  const squares: Exact[] = [];
  for (const value of values) {
    const difference = subtractExact(value, average);
    const square = difference && multiplyExact(difference, difference);
    if (!square) return null;
    squares.push(square);
  }
  const total = sumExact(squares);
  const variance = total && divideExact(total, exactInteger(values.length - 1));
  return variance && squareRootExact(variance);
}

function mode(values: readonly Exact[]): Value {
  const runs: { readonly value: Exact; count: number }[] = [];
  for (const value of sortExact(values)) {
    const last = runs.at(-1);
    if (last && compareExact(last.value, value) === 0) last.count += 1;
    else runs.push({ value, count: 1 });
  }
  const most = Math.max(0, ...runs.map((run) => run.count));
  return runs.filter((run) => run.count === most).map((run) => run.value);
}

function product(values: readonly Exact[]): Exact | null {
  let result: Exact | null = ONE;
  for (const value of values) result = result && multiplyExact(result, value);
  return result;
}

const has = (list: readonly Value[], item: Value): boolean => list.some((own) => equalValues(own, item) === true);

/** A text by which equal items are told: equal items have the same. */
function identityOf(item: Value): string {
  if (item === null || typeof item !== 'object') return `${typeof item} ${item}`;
  if (isList(item)) return `[${item.map((own) => JSON.stringify(identityOf(own))).join()}]`;
  if (item.kind === 'context') {
    const keys = Object.keys(item.entries).sort();
    return `{${keys.map((key) => JSON.stringify([key, identityOf(item.entries[key] as Value)])).join()}}`;
  }
  if (item.kind === 'date-time') return `date-time ${item.ms}`;
  if (item.kind === 'time') return `time ${item.ms - (item.offsetMs ?? 0)}`;
  return `${item.kind} ${writeText(item)}`;
}

/** Items once each, in order of first occurrence; linear in the length of the list. */
function distinct(list: readonly Value[]): readonly Value[] {
  const seen = new Set<string>();
  return list.filter((item) => {
    const identity = identityOf(item);
    if (seen.has(identity)) return false;
    seen.add(identity);
    return true;
  });
}

const flatten = (list: readonly Value[]): readonly Value[] => list.flatMap((item) => (isList(item) ? flatten(item) : [item]));

function position(list: readonly Value[], value: Value | undefined): number | null {
  const index = value ? findInteger(value as Exact) : null;
  if (index === null || index === 0 || Math.abs(index) > list.length) return null;
  return index > 0 ? index - 1 : list.length + index;
}

function sublist(given: readonly Value[]): Value {
  const list = items(given[0]);
  const start = position(list, given[1]);
  if (start === null) return null;
  if (given[2] === undefined) return list.slice(start);
  const length = given[2] === null ? null : findInteger(given[2] as Exact);
  return length === null || length < 1 || start + length > list.length ? null : list.slice(start, start + length);
}

const onList = (
  name: string,
  more: readonly Parameter[],
  result: Signature['result'],
  call: Builtin['call'],
  partial = false,
): Builtin => ({
  name,
  clause: CLAUSE,
  takesNull: true,
  ...(partial ? { partial: true as const } : {}),
  signatures: [{ parameters: [parameter('list', anyList), ...more], result }],
  call: (given, environment) => (given[0] === null ? null : call(given, environment)),
});

const joined = (given: readonly Typing[]): Type => {
  const of = given.map((one) => itemType(one.type).type).reduce<Type | null>((a, b) => a && joinTypes(a, b), TYPES.null);
  return listOf(of ?? any, true);
};

/** The list's type widened by the item put in, the last argument. */
function joinedWithItem(given: readonly Typing[]): Type {
  const added = given.at(-1)?.type;
  return listOf((added && joinTypes(itemType(given[0]?.type).type, added)) ?? any, true);
}

/** The type of what lists within lists hold at their ends. */
function flattened(given: readonly Typing[]): Type {
  let item = itemType(given[0]?.type);
  while (item.type.kind === 'list') item = item.type.of;
  return listOf(item.type, true);
}

const gather = (name: string, call: (list: readonly Value[]) => readonly Value[]): Builtin => ({
  name,
  clause: CLAUSE,
  takesNull: true,
  partial: true,
  signatures: [{ parameters: [parameter('list', anyList)], variadic: true, result: joined }],
  call: ([lists]) => (items(lists).every((list) => list !== null) ? call(items(lists).flat()) : null),
});

export const listBuiltins: readonly Builtin[] = [
  onList('list contains', [parameter('element', any)], boolean, ([list, item]) => has(items(list), item ?? null)),
  onList('count', [], number, ([list]) => exactInteger(items(list).length)),
  extreme('min', 1),
  extreme('max', -1),
  fold('sum', sumExact),
  fold('product', product, 1, 30),
  fold('mean', mean),
  fold('median', median),
  fold('stddev', deviation, 1500),
  {
    name: 'mode',
    clause: CLAUSE,
    partial: true,
    takesNull: true,
    signatures: listOrItems(numbers, number, (given) => listOf(amountOf(given))),
    call: ([list]) => {
      const values = list === null ? null : findNumbers(items(list));
      return values && mode(values);
    },
  },
  truths('all', andTruth, true),
  truths('any', orTruth, false),
  onList(
    'sublist',
    [parameter('start position', number), { name: 'length', type: number, optional: true }],
    listTyping,
    sublist,
    true,
  ),
  {
    name: 'append',
    clause: CLAUSE,
    takesNull: true,
    partial: true,
    signatures: [
      {
        parameters: [parameter('list', anyList), parameter('item', any)],
        variadic: true,
        result: (given) => {
          const of = given
            .slice(1)
            .map((one) => one.type)
            .reduce<Type | null>((a, b) => a && joinTypes(a, b), itemType(given[0]?.type).type);
          return listOf(of ?? any, true);
        },
      },
    ],
    call: ([list, added]) => (list === null ? null : [...items(list), ...items(added)]),
  },
  gather('concatenate', (list) => list),
  gather('union', distinct),
  onList(
    'insert before',
    [parameter('position', number), parameter('newItem', any)],
    joinedWithItem,
    ([list, at, item]) => {
      const index = position(items(list), at);
      return index === null ? null : [...items(list).slice(0, index), item ?? null, ...items(list).slice(index)];
    },
    true,
  ),
  onList(
    'remove',
    [parameter('position', number)],
    listTyping,
    ([list, at]) => {
      const index = position(items(list), at);
      return index === null ? null : items(list).filter((_, own) => own !== index);
    },
    true,
  ),
  onList(
    'list replace',
    [parameter('position', number), parameter('newItem', any)],
    joinedWithItem,
    ([list, at, item]) => {
      const index = position(items(list), at);
      return index === null ? null : items(list).map((own, place) => (place === index ? (item ?? null) : own));
    },
    true,
  ),
  onList('reverse', [], listTyping, ([list]) => [...items(list)].reverse()),
  onList('index of', [parameter('match', any)], listOf(number), ([list, item]) =>
    items(list).flatMap((own, index) => (equalValues(own, item ?? null) === true ? [exactInteger(index + 1)] : [])),
  ),
  onList('distinct values', [], listTyping, ([list]) => distinct(items(list))),
  onList('flatten', [], flattened, ([list]) => flatten(items(list))),
];
