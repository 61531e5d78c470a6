import { describe, expect, test } from '@jest/globals';
import { diagnostic } from '@ypomet/core';
import { groupFound } from './group-found.ts';

const unknown = (path: string, name = 'prise') => diagnostic('expression/unknown-name', path, { found: name });

describe('what is found in a draft', () => {
  test('is said once, with every place that it is said of, in the order in which it was found', () => {
    const found = groupFound([
      unknown('checks.a.condition'),
      unknown('checks.b.condition', 'vlue'),
      unknown('checks.c.condition'),
    ]);
    expect(found.map(({ paths }) => paths)).toEqual([['checks.a.condition', 'checks.c.condition'], ['checks.b.condition']]);
    expect(new Set(found.map(({ text }) => text)).size).toBe(2);
    for (const { mend } of found) expect(mend).not.toBe('');
  });
});
