import { describe, expect, test } from '@jest/globals';
import { checked } from '@ypomet/testkit/evaluate';
import { COLOURS, TYPINGS } from '@ypomet/testkit/generators';
import { describeType } from '../messages/describe.ts';
import { completionsAt, typeAt } from './assist.ts';
import { makeScope } from './scope.ts';

const scope = makeScope(TYPINGS);

/** The type under the caret, `|` in the text. */
function hovered(marked: string): string {
  const offset = marked.indexOf('|');
  const text = marked.replace('|', '');
  const found = typeAt(checked(text, scope), offset);
  return found ? `${text.slice(found.node.span.start, found.node.span.end)}: ${describeType(found.typing.type)}` : 'nothing';
}

/** The first completions at the caret, and what they replace. */
function completed(marked: string, count = 3): readonly string[] {
  const offset = marked.indexOf('|');
  const text = marked.replace('|', '');
  const { span, items } = completionsAt(text, offset, scope);
  return items.slice(0, count).map((item) => text.slice(0, span.start) + item.text + text.slice(span.end));
}

describe('the type of every sub-expression', () => {
  test.each([
    ['am|ount > 1', 'amount: a number'],
    ['amount |> 1', 'amount > 1: yes/no'],
    ['amount > 1|.5', '1.5: a number'],
    ['sha|de = "red"', 'shade: a choice'],
    ['shade = "r|ed"', '"red": text'],
    ['count(rows[go|od]) > 0', 'good: yes/no'],
    ['count(ro|ws) > 0', 'rows: a list of values, each a row or record'],
    ['cou|nt(rows) > 0', 'count(rows): a number'],
    ['rows.si|ze', 'rows.size: a list of values, each a number'],
    ['some r in rows satisfies r|.good', 'r: a row or record'],
    ['some r in rows satisfies r.go|od', 'r.good: yes/no'],
    ['d|ay + @"P1D" > day', 'day: a date'],
    ['day + @"P1|D" > day', '@"P1D": a duration of days and time'],
    ['if flag then amount else coun|t1', 'count1: a number'],
  ])('%s', (marked, expected) => {
    expect(hovered(marked)).toBe(expected);
  });

  test('nothing beyond the text', () => {
    expect(typeAt(checked('flag', scope), 99)).toBeNull();
  });
});

describe('completion', () => {
  test.each([
    ['am|', ['amount']],
    ['flag and lab|', ['flag and label']],
    ['amount > cou|', ['amount > count1', 'amount > count(']],
    ['rows.si|', ['rows.size']],
    ['rows.|', ['rows.size', 'rows.colour', 'rows.good']],
    ['day.ye|', ['day.year']],
    ['shade = "|', COLOURS.map((code) => `shade = "${code}`)],
    ['shade = "g|', ['shade = "green']],
    ['shade != "bl|"', ['shade != "blue"']],
    ['shade in ("red", "gr|', ['shade in ("red", "green']],
    ['label = "|', []],
    ['"am|', []],
    ['nonsense.|', []],
    ['string le|', ['string length(']],
    ['flag and string le|', ['flag and string length(']],
    ['date and ti|', ['date and time(']],
    ['sub|', ['substring(', 'substring before(', 'substring after(']],
  ])('%s', (marked, expected) => {
    expect(completed(marked, Math.max(expected.length, 1))).toEqual(expected);
  });

  test('each says what it is', () => {
    const { items } = completionsAt('', 0, scope);
    const detail = (text: string) => items.find((item) => item.text === text)?.detail;
    expect(detail('amount')).toEqual({ kind: 'number' });
    expect(detail('shade')).toMatchObject({ kind: 'choice' });
    expect(detail('count(')).toBeNull();
  });
});
