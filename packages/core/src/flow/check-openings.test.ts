import { describe, expect, test } from '@jest/globals';
import { smallWorkflow } from '@ypomet/testkit/small-workflow';
import type { Workflow } from '../model/workflow.ts';
import { checkOpenings, MAX_OPENING_DEPTH, type Openings, openingsOf } from './check-openings.ts';

/** An opening by the hand-off "send" into the hand-off "send" of another workflow; `atMost` records at once. */
type Next = string | readonly [workflow: string, atMost: number];
const workflow = (key: string, next: readonly Next[], more: object = {}): Workflow =>
  smallWorkflow({
    key,
    name: key.toUpperCase(),
    fields: [
      { type: 'text', key: 'title', name: 'Title' },
      ...next.flatMap((one, index) =>
        typeof one === 'string' ? [] : [{ type: 'table', key: `t${index}`, name: 'T', maxRows: one[1], fields: [COLUMN] }],
      ),
    ],
    handOffs: {
      send: {
        followUps: next.map((one, index) => ({
          key: `f${index}`,
          name: `F${index}`,
          workflow: typeof one === 'string' ? one : one[0],
          handOff: 'send',
          link: 'about',
          perRow: typeof one === 'string' ? null : `t${index}`,
        })),
      },
    },
    ...more,
  });
const COLUMN = { type: 'text', key: 'c', name: 'C' };
const openings = (key: string, ...next: readonly Next[]): Openings => openingsOf(workflow(key, next));
const found = (next: readonly Next[], ...others: readonly Openings[]) =>
  checkOpenings(workflow('own', next), others).map(({ code, params }) => [code, params.names]);

describe('what a workflow opens, checked against the whole of what all workflows open', () => {
  test('a chain that comes back to its beginning is a fault, however long', () => {
    expect(found(['own'])).toEqual([['follow-up/circle', ['OWN', 'OWN']]]);
    expect(found(['a'], openings('a', 'own'))).toEqual([['follow-up/circle', ['OWN', 'A', 'OWN']]]);
    expect(found(['a'], openings('a', 'b'), openings('b', 'c'), openings('c', 'own'))).toEqual([
      ['follow-up/circle', ['OWN', 'A', 'B', 'C', 'OWN']],
    ]);
  });

  test('a chain that enters another hand-off of the same workflow ends there', () => {
    const a: Openings = {
      key: 'a',
      name: 'A',
      opens: [{ key: 'f', handOff: 'finish', workflow: 'own', entry: 'send', atMost: 1 }],
    };
    expect(found(['a'], a)).toEqual([]);
  });

  const chain = (length: number): Openings[] =>
    Array.from({ length }, (_, n) => (n === length - 1 ? openings(`w${n}`) : openings(`w${n}`, `w${n + 1}`)));

  test(`more than ${MAX_OPENING_DEPTH} openings one after another are a fault`, () => {
    expect(found(['w0'], ...chain(MAX_OPENING_DEPTH))).toEqual([]);
    expect(found(['w0'], ...chain(MAX_OPENING_DEPTH + 1))[0]?.[0]).toBe('follow-up/too-deep');
  });

  test('openings before this workflow count too: a published workflow that opens this one must not break', () => {
    const before = [openings('x', 'y'), openings('y', 'own')];
    expect(found(['w0'], ...before, ...chain(MAX_OPENING_DEPTH - 2))).toEqual([]);
    expect(found(['w0'], ...before, ...chain(MAX_OPENING_DEPTH - 1))).toEqual([
      ['follow-up/too-deep', ['X', 'Y', 'OWN', 'W0', 'W1', 'W2', 'W3', 'W4', 'W5', 'W6']],
    ]);
  });

  test('rows over rows are multiplied, before this workflow and after it', () => {
    expect(found([['a', 100]], openings('a', ['b', 100]), openings('b'))).toEqual([]);
    expect(found([['a', 100]], openings('a', ['b', 101]), openings('b'))).toEqual([['follow-up/too-many', ['OWN', 'A', 'B']]]);
    expect(found([['b', 100]], openings('a', ['own', 101]), openings('b'))).toEqual([['follow-up/too-many', ['A', 'OWN', 'B']]]);
    // A table without a row limit counts as 10,000 rows. That uses up the whole bound, so no later follow-up may multiply it.
    const unlimited = workflow('own', ['a'], {});
    const table = { type: 'table', key: 't', name: 'T', fields: [COLUMN], section: 'all', treatment: 'optional' };
    const perRow = {
      ...unlimited,
      fields: [...unlimited.fields, { ...table, maxRows: null }],
      handOffs: unlimited.handOffs.map((one) => ({ ...one, followUps: one.followUps.map((own) => ({ ...own, perRow: 't' })) })),
    } as Workflow;
    expect(checkOpenings(perRow, [openings('a')])).toEqual([]);
    expect(checkOpenings(perRow, [openings('a', ['b', 2]), openings('b')]).map(({ code }) => code)).toEqual([
      'follow-up/too-many',
    ]);
  });

  test('workflows that all open each other are walked quickly, forwards and backwards', () => {
    const keys = Array.from({ length: 12 }, (_, n) => `w${n}`);
    // Followed one by one these are 12 to the ninth chains.
    expect(found(['w0'], ...keys.map((key) => openings(key, ...keys)))[0]?.[0]).toBe('follow-up/too-deep');
    expect(found(['w0'], ...keys.map((key) => openings(key, ...keys, 'own'))).length).toBe(1);
    const levels = keys.map((key, level) => openings(key, ...keys.slice(level + 1, MAX_OPENING_DEPTH)));
    expect(found(['w0'], ...levels)).toEqual([]);
  });
});
