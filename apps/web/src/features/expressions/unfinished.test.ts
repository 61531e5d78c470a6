/** @jest-environment jsdom */
import { beforeEach, describe, expect, test } from '@jest/globals';
import { compileWorkflow, TYPES } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { faultsOf, faultsOfTests, readText } from './faults.ts';
import { unfinished } from './unfinished.ts';

beforeEach(() => window.localStorage.clear());

describe('unfinished texts', () => {
  test('are kept by workflow and path, the last that was typed', () => {
    unfinished.keep('a', 'checks.c.condition', 'x >');
    unfinished.keep('a', 'checks.c.condition', 'x > (');
    unfinished.keep('b', 'checks.c.condition', 'y');
    expect(unfinished.find('a', 'checks.c.condition')).toBe('x > (');
    expect(unfinished.find('a', 'checks.d.condition')).toBeNull();
    expect(unfinished.paths('a')).toEqual(['checks.c.condition']);
    unfinished.drop('a', 'checks.c.condition');
    expect([unfinished.paths('a'), unfinished.paths('b')]).toEqual([[], ['checks.c.condition']]);
  });

  test('an outline is kept beside the text of its place; whoever shows what is unfinished hears of each change', () => {
    const place = { workflow: 'a', path: 'checks.c.condition' };
    let changes = 0;
    const unwatch = unfinished.watch(() => {
      changes += 1;
    });
    unfinished.keep('a', place.path, 'x >');
    unfinished.outlines.keep(place, { kind: 'group' });
    expect([unfinished.find('a', place.path), unfinished.outlines.find(place)]).toEqual(['x >', { kind: 'group' }]);
    expect(unfinished.paths('a')).toEqual([place.path]);
    unfinished.drop('a', place.path);
    expect([unfinished.find('a', place.path), unfinished.outlines.find(place)]).toEqual([null, { kind: 'group' }]);
    unfinished.outlines.drop(place);
    unfinished.outlines.drop(place);
    unwatch();
    unfinished.keep('a', place.path, 'x >');
    expect(changes).toBe(4);
  });

  test('of very many the oldest go; what something else has written is none', () => {
    for (let index = 0; index < 130; index++) unfinished.keep('a', `checks.c${index}.condition`, '(');
    expect(unfinished.paths('a')).toHaveLength(100);
    expect(unfinished.find('a', 'checks.c0.condition')).toBeNull();
    window.localStorage.setItem('ypomet.unfinished', '{oops');
    expect(unfinished.paths('a')).toEqual([]);
    window.localStorage.setItem('ypomet.unfinished', '7');
    expect(unfinished.paths('a')).toEqual([]);
  });
});

describe('what is wrong with a text', () => {
  const { scope } = compileWorkflow(sampleWorkflow()).forms.layout;

  test('syntax, names, types; nothing where it is sound', () => {
    expect(readText('price > 1', scope, TYPES.boolean)).toMatchObject({ node: { kind: 'compare' }, diagnostics: [] });
    expect(readText('price >', scope, TYPES.boolean).node).toBeNull();
    expect(faultsOf('pric > 1', scope, TYPES.boolean)[0]).toMatchObject({
      code: 'expression/unknown-name-near',
      params: { suggestion: 'price' },
    });
    expect(faultsOf('price', scope, TYPES.boolean).map(({ code }) => code)).toEqual(['expression/wrong-result']);
    expect(readText('price', scope, undefined).diagnostics).toEqual([]);
  });

  test('tests of a cell, beside the input they are of', () => {
    expect(faultsOfTests('> 5, [1..2]', 'price', scope)).toEqual([]);
    expect(faultsOfTests('-', 'price', scope)).toEqual([]);
    expect(faultsOfTests('"goodz"', 'kind', scope).map(({ code }) => code)).toEqual(['expression/unknown-option-near']);
    expect(faultsOfTests('> (', 'price', scope)).toHaveLength(1);
    // Of an input that can't be read nothing is said: that is a fault of its own.
    expect(faultsOfTests('> 5', 'price +', scope)).toEqual([]);
  });
});
