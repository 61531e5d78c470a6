import { describe, expect, test } from '@jest/globals';
import { checked, ENVIRONMENT, show } from '@ypomet/testkit/evaluate';
import { PLAIN_TYPINGS, plainConditions, plainRecords, plainValues, toFeel } from '@ypomet/testkit/plain-conditions';
import fc from 'fast-check';
import { explainExpression } from '../explain.ts';
import { makeFrame } from '../frame.ts';
import { parseExpression } from '../parse.ts';
import { printExpression } from '../print.ts';
import { makeScope } from '../scope.ts';
import {
  addItem,
  insertItem,
  itemAt,
  itemsOf,
  moveBy,
  moveIn,
  moveItem,
  moveOut,
  negateItem,
  type OutlinePath,
  replaceItem,
  unwrapItem,
  wrapItem,
} from './edit-outline.ts';
import { type ExplainedItem, explainOutline } from './explain-outline.ts';
import type { OutlineItem } from './outline.ts';
import { readOutline } from './read.ts';
import { writeOutline } from './write.ts';

const SCOPE = makeScope(PLAIN_TYPINGS);
const read = (text: string): OutlineItem => {
  const parsed = parseExpression(text);
  if (!parsed.ok) throw new Error(text);
  return readOutline(parsed.value);
};
const write = (item: OutlineItem | null | undefined): string | null => (item ? printExpression(writeOutline(item)) : null);
const GROUPED = '(a or b) and c';

describe('an outline is changed', () => {
  const root = read(GROUPED);
  test.each<[string, OutlineItem | null | undefined, string | null]>([
    ['an item is found', itemAt(root, [0, 1]), 'b'],
    ['none is found where none is', itemAt(root, [1, 0]), null],
    ['one is put in before another', insertItem(root, [0, 1], read('x')), '(a or x or b) and c'],
    ['one is put in behind the last', insertItem(root, [2], read('x')), '(a or b) and c and x'],
    ['one goes; a group of one is that one', replaceItem(root, [0, 0], null), 'b and c'],
    ['the last of a group goes', replaceItem(read('(a or b) and c'), [0], null), 'c'],
    ['one is put into a group', wrapItem(root, [1], 'none'), '(a or b) and not(c)'],
    ['a group is taken away', unwrapItem(root, [0]), 'a and b and c'],
    ['none of is not taken away', unwrapItem(read('not(a or b) and c'), [0]), null],
    ['one is moved up', moveBy(root, [1], -1)?.root, 'c and (a or b)'],
    ['one is moved down', moveBy(root, [0, 0], 1)?.root, '(b or a) and c'],
    ['one at the end of its group is moved out of it', moveBy(root, [0, 1], 1)?.root, 'a and b and c'],
    ['the first of all stays', moveBy(root, [0], -1)?.root, null],
    ['one is moved into the group above', moveIn(root, [1])?.root, 'a or b or c'],
    ['one is put together with the one above', moveIn(read('a and b and c'), [2])?.root, 'a and (b or c)'],
    ['the first has none above', moveIn(root, [0])?.root, null],
    ['one is moved out', moveOut(root, [0, 0])?.root, 'b and a and c'],
    ['one is dragged into a group', moveItem(root, [1], [0, 0])?.root, 'c or a or b'],
    ['none is dragged into itself', moveItem(root, [0], [0, 1])?.root, null],
    ['within rows', replaceItem(read('some o in t satisfies o.a = 1'), [0], read('o.b = 2')), 'some o in t satisfies o.b = 2'],
    [
      'beside what rows ask for',
      insertItem(read('some o in t satisfies o.a = 1'), [1], read('o.b = 2')),
      'some o in t satisfies o.a = 1 and o.b = 2',
    ],
    ['what is counted is asked for nothing more', replaceItem(read('count(t[a = 1]) > 2'), [0], null), 'count(t) > 2'],
  ])('%s', (_, after, expected) => {
    expect(write(after)).toBe(expected);
  });

  test('a moved item is told where it stands now', () => {
    expect(moveBy(root, [0, 1], 1)?.path).toEqual([1]);
    expect(moveItem(root, [0], [2])?.path).toEqual([1]);
    expect(moveIn(read('a and b and c'), [2])?.path).toEqual([1, 1]);
  });
});

describe('an item is added where the cursor stands', () => {
  const added = read('x = 1');
  test.each<[string, string, OutlinePath, string, OutlinePath]>([
    ['at the end of a group', '(a or b) and c', [0], '(a or b or x = 1) and c', [0, 2]],
    ['at the end of the whole', 'a and b', [], 'a and b and x = 1', [2]],
    ['behind a clause', 'a and b', [0], 'a and x = 1 and b', [1]],
    ['behind a condition that is one clause', 'a = 1', [], 'a = 1 and x = 1', [1]],
    [
      'to what rows are asked for, on their line',
      'some o in t satisfies o.a = 1',
      [],
      'some o in t satisfies o.a = 1 and x = 1',
      [0, 1],
    ],
    ['to it, on the line within', 'some o in t satisfies o.a = 1', [0], 'some o in t satisfies o.a = 1 and x = 1', [0, 1]],
    ['to a group of it', 'some o in t satisfies (o.a = 1 or o.b)', [], 'some o in t satisfies o.a = 1 or o.b or x = 1', [0, 2]],
    [
      'behind a clause of it',
      'every o in t satisfies (o.a or o.b)',
      [0, 0],
      'every o in t satisfies o.a or x = 1 or o.b',
      [0, 1],
    ],
    ['to what rows are counted by', 'count(t[a = 1]) > 2', [], 'count(t[a = 1 and x = 1]) > 2', [0, 1]],
    ['to it, on the line within', 'count(t[a = 1]) > 2', [0], 'count(t[a = 1 and x = 1]) > 2', [0, 1]],
    ['behind a count of all rows', 'count(t) > 2 and b', [0], 'count(t) > 2 and x = 1 and b', [1]],
  ])('%s: %s', (_, text, path, expected, at) => {
    const found = addItem(read(text), path, added);
    expect([write(found.root), found.path]).toEqual([expected, at]);
  });

  test('its path leads to it from everywhere in any condition', () => {
    fc.assert(
      fc.property(plainConditions(), (condition) => {
        const root = read(toFeel(condition));
        for (const path of pathsOf(root)) {
          const found = addItem(root, path, added);
          expect(itemAt(found.root, found.path)).toBe(added);
        }
      }),
    );
  });
});

test('without its condition, “any row where” has an empty group, which asks for a clause', () => {
  const left = replaceItem(read('some o in t satisfies o.a = 1'), [0], null);
  expect(itemAt(left, [0])).toEqual({ kind: 'group', which: 'all', of: [] });
});

test('“always” within a condition is a line of its own, not a group without clauses', () => {
  expect(read('a and true')).toMatchObject({ of: [{ kind: 'clause' }, { kind: 'text', node: { kind: 'boolean' } }] });
});

/** Every path of an outline, with what stands there. */
function pathsOf(item: OutlineItem, path: OutlinePath = []): readonly OutlinePath[] {
  return [path, ...itemsOf(item).flatMap((own, index) => pathsOf(own, [...path, index]))];
}
const truthOf = (item: OutlineItem, values: Parameters<typeof makeFrame>[0]): string => {
  const expression = checked(printExpression(writeOutline(item)), SCOPE);
  return show(explainExpression(expression, makeFrame(values, ENVIRONMENT)).value);
};

test('the opposite is true where it is false, false where it is true, unknown where it is unknown', () => {
  fc.assert(
    fc.property(plainConditions(), plainRecords(true), (condition, record) => {
      const item = read(toFeel(condition));
      const values = plainValues(record);
      const opposite = { true: 'false', false: 'true', null: 'null' }[truthOf(item, values)];
      expect(truthOf(negateItem(item), values)).toBe(opposite);
      expect(truthOf(negateItem(negateItem(item)), values)).toBe(truthOf(item, values));
    }),
  );
});

test('an item that is taken out and put back is where it was', () => {
  fc.assert(
    fc.property(plainConditions(), (condition) => {
      const root = read(toFeel(condition));
      for (const path of pathsOf(root)) {
        if (itemAt(root, path.slice(0, -1))?.kind !== 'group' || path.length === 0) continue;
        const item = itemAt(root, path) as OutlineItem;
        expect(insertItem(replaceItem(root, path, null), path, item)).toEqual(root);
      }
    }),
  );
});

test('each part of an explained outline is as true as that part alone', () => {
  fc.assert(
    fc.property(plainConditions(), plainRecords(true), (condition, record) => {
      const values = plainValues(record);
      const expression = checked(toFeel(condition), SCOPE);
      const visit = ({ item, truth, of }: ExplainedItem): void => {
        expect(show(truth)).toBe(truthOf(item, values));
        if (item.kind === 'group') {
          expect(of).toHaveLength(item.of.length);
          of.forEach(visit);
        }
        if (item.kind === 'rows') expect(of).toHaveLength(record.rows.length);
      };
      visit(explainOutline(explainExpression(expression, makeFrame(values, ENVIRONMENT))));
    }),
  );
});

test('an explained clause tells the values it read, a row’s too; a table is no value', () => {
  const values = plainValues({
    amount: 2,
    size: null,
    shade: 'red',
    flag: true,
    rows: [{ amount: 1, size: 3, shade: 'blue', flag: null }],
  });
  const readsOf = (text: string): unknown => {
    const told = ({ reads, of }: ExplainedItem): unknown => [
      reads.map(({ path, value }) => `${path.join('.')}=${show(value)}`),
      ...of.map(told),
    ];
    return told(explainOutline(explainExpression(checked(text, SCOPE), makeFrame(values, ENVIRONMENT))));
  };
  expect(readsOf('amount > size + amount')).toEqual([['amount=2', 'size=null']]);
  expect(readsOf('some r in rows satisfies r.size > amount')).toEqual([[], [['r.size=3', 'amount=2']]]);
  expect(readsOf('count(rows[size > 2]) = 1')).toEqual([[]]);
});
