import { describe, expect, test } from '@jest/globals';
import { faultsIn, handedOn, recordOf, refusalsOf, type SmallParts, smallCompiled } from '@ypomet/testkit/small-workflow';
import type { Json } from '../shared/json.ts';

const sending = (...sets: readonly (readonly [field: string, value: string])[]): NonNullable<SmallParts['handOffs']> => ({
  send: { sets: sets.map(([field, value]) => ({ field, value })) },
});

describe('what follows from a set value follows at once, rows included', () => {
  const fields = [
    { type: 'number', key: 'rate', scale: 2 },
    {
      type: 'table',
      key: 'lines',
      fields: [
        { type: 'number', key: 'n', name: 'N' },
        { type: 'number', key: 'cost', name: 'Cost', scale: 2, expression: 'row.n * rate' },
      ],
    },
    { type: 'number', key: 'total', scale: 2, expression: 'sum(lines.cost)' },
    { type: 'text', key: 'class', expression: 'if total > 20 then "dear" else "cheap"' },
  ];
  const branches = [{ key: 'dear', name: 'Dear', when: 'total > 20', to: 'done' }];
  const lines = [
    { id: 'a', values: { n: '2' } },
    { id: 'b', values: { n: '3' } },
  ];

  test('cells, totals, what reads those, and the branch', () => {
    const workflow = smallCompiled({ fields, handOffs: { send: { sets: [{ field: 'rate', value: '5' }], branches } } });
    const { record } = handedOn(workflow, recordOf(workflow), 'send', { lines, rate: '1' });
    expect(record.stage).toBe('done');
    expect(record.values).toEqual({
      rate: '5.00',
      lines: [
        { id: 'a', values: { n: '2', cost: '10.00' } },
        { id: 'b', values: { n: '3', cost: '15.00' } },
      ],
      total: '25.00',
      class: 'dear',
    });
  });

  test('on arrival too, and in the order of the sets', () => {
    const onArrival = {
      sets: [
        { field: 'rate', value: 'total * 0 + 2' },
        { field: 'rate', value: 'total' },
      ],
    };
    const workflow = smallCompiled({ fields, stages: { work: { onArrival } } });
    const { values } = handedOn(workflow, recordOf(workflow), 'send', { lines, rate: '1' }).record;
    expect([values.rate, values.total]).toEqual(['10.00', '50.00']);
  });

  test('whichever stage comes first in the definition: the order is the record’s', () => {
    const hidden = Object.fromEntries(['rate', 'lines', 'total'].map((key) => [key, { ask: 'hidden' }]));
    const workflow = smallCompiled({
      fields,
      plan: hidden,
      handOffs: { send: { sets: [{ field: 'rate', value: '5' }], branches } },
    });
    const { record } = handedOn(workflow, recordOf(workflow, { lines }), 'send');
    expect([record.stage, record.values.total]).toEqual(['done', '25.00']);
  });

  test('a table may be set to rows of the same shape, or to none', () => {
    const workflow = smallCompiled({ fields, handOffs: sending(['rate', '3'], ['lines', 'lines[row.n > 2]']) });
    expect(workflow.diagnostics.map(({ code }) => code)).toContain('expression/unknown-name');
    const kept = smallCompiled({ fields, handOffs: sending(['rate', '3'], ['lines', 'lines[n > 2]']) });
    const { values } = handedOn(kept, recordOf(kept), 'send', { lines }).record;
    expect(values.lines).toEqual([{ id: 'b', values: { n: '3', cost: '9.00' } }]);
    const none = smallCompiled({ fields, handOffs: sending(['lines', '[]']) });
    expect(handedOn(none, recordOf(none), 'send', { lines }).record.values.lines).toBeUndefined();
  });
});

describe('a set value is read as an entered one is', () => {
  const options = ['red', 'green', 'blue'].map((code) => ({ code, label: code.toUpperCase() }));
  test.each<[string, object, string, Json | undefined]>([
    ['text is trimmed', { type: 'text' }, '"  a  "', 'a'],
    ['and in NFC', { type: 'text' }, '"e\u0301"', '\u00e9'],
    ['empty text is nothing', { type: 'text' }, '"   "', undefined],
    [
      'codes stand in the order of the options, once',
      { type: 'multi-choice', options },
      '["blue", "red", "blue"]',
      ['red', 'blue'],
    ],
    ['no codes are nothing', { type: 'multi-choice', options }, '[]', undefined],
    ['numbers have the field’s scale', { type: 'number', scale: 2 }, '1 / 3', '0.33'],
    ['rounded half to even', { type: 'number', scale: 1 }, '0.25', '0.2'],
    ['and half to even upwards', { type: 'number', scale: 1 }, '0.35', '0.4'],
    ['money too', { type: 'money', currency: 'EUR' }, '10 / 3', '3.33'],
    ['date-times are instants', { type: 'date-time' }, '@"2027-01-02T00:30:00"', '2027-01-01T23:30:00Z'],
  ])('%s', (_name, field, value, expected) => {
    const workflow = smallCompiled({ fields: [{ key: 'f', ...field }], handOffs: sending(['f', value]) });
    expect(handedOn(workflow, recordOf(workflow), 'send').record.values.f).toEqual(expected);
  });

  test.each<[string, object, string, string[]]>([
    ['a computed field', { type: 'number', expression: '1' }, '2', ['handOffs.send.sets.f.field: set/computed']],
    [
      'a note',
      { type: 'note', text: 'Read this.' },
      '"x"',
      ['handOffs.send.sets.f.value: expression/wrong-result', 'handOffs.send.sets.f.field: set/note'],
    ],
    ['a number above its limit', { type: 'number', max: '5' }, '6', ['handOffs.send.sets.f.value: set/beyond-limits']],
    ['a text that is too long', { type: 'text', maxLength: 2 }, '"abc"', ['handOffs.send.sets.f.value: set/beyond-limits']],
    ['more places than it keeps', { type: 'number', scale: 1 }, '0.25', ['handOffs.send.sets.f.value: set/rounded']],
    ['a quotient, whose places nobody knows', { type: 'number', scale: 2 }, 'n / 3', ['handOffs.send.sets.f.value: set/rounded']],
    ['a sum of what has fewer places', { type: 'number', scale: 2 }, 'n + 1.25', []],
    ['a product that fits', { type: 'number', scale: 2 }, 'decimal(n / 3, 2)', []],
    [
      'a retired option',
      { type: 'choice', options: [{ code: 'a', label: 'A', retired: true }] },
      '"a"',
      ['handOffs.send.sets.f.value: set/retired-option'],
    ],
    [
      'what is no option',
      { type: 'choice', options: [{ code: 'a', label: 'A' }] },
      '"b"',
      ['handOffs.send.sets.f.value: expression/unknown-option-near'],
    ],
    ['a value of another type', { type: 'number' }, '"b"', ['handOffs.send.sets.f.value: expression/wrong-result']],
  ])('%s', (_name, field, value, expected) => {
    const fields = [
      { type: 'number', key: 'n' },
      { key: 'f', ...field },
    ];
    expect(faultsIn({ fields, handOffs: sending(['f', value]) })).toEqual(expected);
  });

  test('a text that is no option, as far as anybody knows, is a fault of the design', () => {
    const fields = [
      { type: 'text', key: 'who' },
      { type: 'choice', key: 'venue', options: [{ code: 'home', label: 'Home' }] },
    ];
    expect(faultsIn({ fields, handOffs: sending(['venue', 'who']) })).toEqual([
      'handOffs.send.sets.venue.value: expression/not-an-option',
    ]);
  });

  test('what can’t be held is refused when it happens, naming the field, and nothing of it is kept', () => {
    const fields = [
      { type: 'long-text', key: 'who' },
      { type: 'long-text', key: 'twice' },
    ];
    const workflow = smallCompiled({ fields, handOffs: sending(['twice', 'who + who']) });
    expect(refusalsOf(workflow, recordOf(workflow), 'send', { who: 'a'.repeat(60_000) })).toEqual(['twice: hand-off/set-unfit']);
    expect(refusalsOf(workflow, recordOf(workflow), 'send', { who: 'a'.repeat(50_000) })).toEqual([]);
  });
});

describe('a computed number with more decimal places than its field takes is a warning', () => {
  test.each<[string, number, string, boolean]>([
    ['a quotient', 2, 'a / 3', true],
    ['a mean', 2, 'mean([a, 1])', true],
    ['a product of one place and two places', 2, 'a * 1.5', true],
    ['a rounded quotient', 2, 'decimal(a / 3, 2)', false],
    ['a sum of a column', 2, 'sum(lines.n)', false],
    ['a number of whole days, whose places nobody knows', 0, '(@"2027-01-02" - @"2027-01-01").days', false],
  ])('%s', (_, scale, expression, isWarned) => {
    const table = { type: 'table', key: 'lines', fields: [{ type: 'number', key: 'n', name: 'N', scale: 2 }] };
    const fields = [{ type: 'number', key: 'a', scale: 2 }, table, { type: 'number', key: 'c', scale, expression }];
    expect(faultsIn({ fields })).toEqual(isWarned ? ['fields.c.expression: computed/scale'] : []);
  });

  test('in a cell, of the columns of its row', () => {
    const n = { type: 'number', key: 'n', name: 'N', scale: 2 };
    const cost = { type: 'number', key: 'cost', name: 'Cost', scale: 2, expression: 'row.n * row.n' };
    expect(faultsIn({ fields: [{ type: 'table', key: 'lines', fields: [n, cost] }] })).toEqual([
      'fields.lines.fields.cost.expression: computed/scale',
    ]);
  });
});
