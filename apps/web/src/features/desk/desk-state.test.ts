import { describe, expect, test } from '@jest/globals';
import { groupByTerm, narrowedTo, readAddress, termOf, writeAddress } from './desk-state.ts';

const read = (text: string) => readAddress(new URLSearchParams(text));

describe('the address of the desk', () => {
  test.each([
    ['', { sort: 'arrived', workflow: null, stage: null, find: '', filter: '' }],
    ['at=loan', { sort: 'arrived', workflow: 'loan', stage: null, find: '', filter: '' }],
    ['at=loan%2Fcheck&sort=due&find=Quist', { sort: 'due', workflow: 'loan', stage: 'check', find: 'Quist', filter: '' }],
    ['at=loan&filter=n+%3E+1', { sort: 'arrived', workflow: 'loan', stage: null, find: '', filter: 'n > 1' }],
  ])('%s says what is shown, and is written from it again', (text, shown) => {
    expect(read(text)).toEqual(shown);
    expect(writeAddress(read(text)).toString()).toBe(text);
  });

  test('a condition without its workflow is none', () => {
    expect(read('filter=n+%3E+1').filter).toBe('');
    expect(read('sort=sideways').sort).toBe('arrived');
  });

  test('a condition stays at another stage of its workflow, and goes with it', () => {
    const shown = read('at=loan&filter=n+%3E+1');
    expect(narrowedTo(shown, 'loan', 'check').filter).toBe('n > 1');
    expect(narrowedTo(shown, 'visit', null).filter).toBe('');
    expect(narrowedTo(shown, null, null)).toMatchObject({ workflow: null, filter: '' });
  });
});

describe('when something is due', () => {
  const now = Date.parse('2026-11-27T09:00:00Z');
  test.each([
    ['2026-11-27T08:59:59Z', 'overdue'],
    ['2026-11-27T09:00:00Z', 'day'],
    ['2026-11-28T09:00:00Z', 'day'],
    ['2026-11-28T09:00:01Z', 'week'],
    ['2026-12-04T09:00:00Z', 'week'],
    ['2026-12-04T09:00:01Z', 'later'],
    [null, 'none'],
  ])('%s is %s', (end, term) => expect(termOf(end === null ? null : Date.parse(end), now)).toBe(term));

  test('a list in that order falls into groups in that order, with nothing lost', () => {
    const ends = [now - 2, now - 1, now + 5, null, null];
    expect(groupByTerm(ends, (end) => end, now)).toEqual([
      { term: 'overdue', own: [now - 2, now - 1] },
      { term: 'day', own: [now + 5] },
      { term: 'none', own: [null, null] },
    ]);
  });
});
