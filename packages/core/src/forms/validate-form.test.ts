import { describe, expect, test } from '@jest/globals';
import { begun, OUTSIDE, person, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { enterInput } from '../flow/enter-input.ts';
import { fill } from '../messages/describe.ts';
import type { Json } from '../shared/json.ts';
import { collectInput } from './collect-input.ts';
import { validateForm } from './validate-form.ts';

/** The issues of one field with limits, for one value: `code {params}`. */
function issuesOf(field: object, json: Json): readonly string[] {
  const fields = [{ key: 'f', name: 'F', section: 'what', treatment: 'optional', ...field }];
  const { compiled, record } = begun(
    sampleWorkflow({
      fields,
      plan: {},
      adjustments: [],
      checks: [],
      decisionTables: [],
      handOffs: [{ key: 'h', name: 'H', from: 'ask', otherwise: { to: 'done' } }],
      stages: sampleWorkflow().stages.filter(({ key }) => key === 'ask' || key === 'done'),
    }),
  );
  expect(compiled.diagnostics).toEqual([]);
  const entered = enterInput(compiled, record, { f: json }, person('asker'), {
    ...OUTSIDE,
    findFile: () => ({
      name: 'a.pdf',
      mediaType: 'application/pdf',
      bytes: (json as readonly { bytes: number }[])[0]?.bytes ?? 0,
    }),
  });
  if (!entered.ok) return entered.diagnostics.map(({ code }) => code);
  return validateForm(entered.value).map(({ code, params, ownMessage }) => {
    const { field: _, ...rest } = params;
    return [
      code,
      ...Object.entries(rest).map(([name, value]) => `${name} ${fill('{value}', { value })}`),
      ...(ownMessage ? [ownMessage] : []),
    ].join(', ');
  });
}

const file = (bytes: number): Json => ({ name: 'a.pdf', mediaType: 'application/pdf', bytes, sha256: 'f'.repeat(64) });
const rows = (count: number): Json =>
  Array.from({ length: count }, (_, index): Json => ({ id: `r${index}`, values: { n: '1' } }));
const table = { type: 'table', fields: [{ type: 'number', key: 'n', name: 'N' }] };

describe('limits, on their edges', () => {
  test.each<[string, object, Json, readonly string[]]>([
    ['as long as allowed', { type: 'text', maxLength: 3 }, 'abc', []],
    ['a character more', { type: 'text', maxLength: 3 }, 'abcd', ['form/too-long, limit 3, length 4']],
    ['counted in characters, not units', { type: 'text', maxLength: 2 }, '\u{1f600}\u{1f600}', []],
    ['as short as allowed', { type: 'text', minLength: 3 }, 'abc', []],
    ['a character less', { type: 'text', minLength: 3 }, 'ab', ['form/too-short, limit 3, length 2']],
    ['empty breaks no limit', { type: 'text', minLength: 3 }, '', []],
    ['a pattern, whole', { type: 'text', pattern: '[A-Z]-\\d+' }, 'L-12', []],
    ['a pattern is for the whole text', { type: 'text', pattern: '[A-Z]-\\d+' }, 'xL-12', ['form/pattern']],
    [
      'own words for a range, for each end',
      { type: 'number', min: '1', max: '2', messages: { range: 'One or two.' } },
      '3',
      ['form/above, limit 2, One or two.'],
    ],
    [
      'own words for another limit say nothing here',
      { type: 'number', min: '1', messages: { required: 'Give one.' } },
      '0',
      ['form/below, limit 1'],
    ],
    [
      'own words for an empty field',
      { type: 'number', treatment: 'required', messages: { required: 'Give one.' } },
      null,
      ['form/required, Give one.'],
    ],
    [
      'own words for lengths',
      { type: 'text', minLength: 3, messages: { length: 'Three letters.' } },
      'ab',
      ['form/too-short, limit 3, length 2, Three letters.'],
    ],
    [
      'own words for too few rows',
      { ...table, minRows: 2, messages: { count: 'Two at least.' } },
      rows(1),
      ['form/too-few-rows, limit 2, Two at least.'],
    ],
    ['a file of a kind, by media type', { type: 'file', kinds: ['application/pdf'] }, [file(1)], []],
    ['a file of a family of kinds', { type: 'file', kinds: ['application/*'] }, [file(1)], []],
    ['a file of a kind, by the ending of its name', { type: 'file', kinds: ['.pdf'] }, [file(1)], []],
    [
      'a file of another kind, with own words',
      { type: 'file', kinds: ['image/*', '.csv'], messages: { kinds: 'Pictures only.' } },
      [file(1)],
      ['form/file-kind, kinds pictures, CSV, Pictures only.'],
    ],
    [
      'the analyst’s own message',
      { type: 'text', pattern: '\\d+', messages: { pattern: 'Digits, please.' } },
      'x',
      ['form/pattern, Digits, please.'],
    ],
    ['the least', { type: 'number', min: '-5' }, '-5', []],
    ['a digit below the least', { type: 'number', min: '-5', scale: 30 - 15 }, '-5.000000000000001', ['form/below, limit -5']],
    ['the most', { type: 'money', currency: 'EUR', max: '50000.00' }, '50000', []],
    ['a cent above the most', { type: 'money', currency: 'EUR', max: '50000.00' }, '50000.01', ['form/above, limit 50000.00']],
    ['places that are zeros', { type: 'number', scale: 1 }, '1.5000', []],
    ['a place too many', { type: 'number', scale: 1 }, '1.55', ['form/scale, scale 1']],
    ['the first day', { type: 'date', min: '2027-01-01' }, '2027-01-01', []],
    ['the day before', { type: 'date', min: '2027-01-01' }, '2026-12-31', ['form/before, limit 2027-01-01']],
    ['the last day', { type: 'date', max: '2027-12-31' }, '2027-12-31', []],
    ['the day after', { type: 'date', max: '2027-12-31' }, '2028-01-01', ['form/after, limit 2027-12-31']],
    ['an option', { type: 'choice', options: [{ code: 'a', label: 'A' }] }, 'a', []],
    ['no option', { type: 'choice', options: [{ code: 'a', label: 'A' }] }, 'b', ['form/unknown-option']],
    ['a retired option', { type: 'choice', options: [{ code: 'a', label: 'A', retired: true }] }, 'a', ['form/retired-option']],
    [
      'one of several is none',
      { type: 'multi-choice', options: [{ code: 'a', label: 'A' }] },
      ['a', 'b'],
      ['form/unknown-option'],
    ],
    ['as many files as allowed', { type: 'file', maxCount: 2 }, [file(1), file(1)], []],
    ['a file too many', { type: 'file', maxCount: 1 }, [file(1), file(1)], ['form/too-many-files, limit 1']],
    ['a file as large as allowed', { type: 'file', maxBytes: 10 }, [file(10)], []],
    ['a byte too large', { type: 'file', maxBytes: 10 }, [file(11)], ['form/file-too-large, limit 10']],
    ['as many rows as allowed', { ...table, minRows: 2, maxRows: 3 }, rows(3), []],
    ['a row too many', { ...table, maxRows: 3 }, rows(4), ['form/too-many-rows, limit 3']],
    ['a row too few', { ...table, minRows: 2 }, rows(1), ['form/too-few-rows, limit 2']],
    ['no rows where none are required', { ...table, minRows: 2 }, [], []],
    ['no rows where rows are required', { ...table, treatment: 'required' }, [], ['form/required']],
    ['no is an answer', { type: 'yes-no', treatment: 'required' }, false, []],
    ['zero is a number', { type: 'number', treatment: 'required' }, '0', []],
    ['space is nothing', { type: 'text', treatment: 'required' }, ' \n ', ['form/required']],
    ['nudged is not required', { type: 'text', treatment: 'nudged' }, '', []],
  ])('%s', (_, field, json, expected) => {
    expect(issuesOf(field, json)).toEqual(expected);
  });
});

describe('what is sent of what was typed', () => {
  const { compiled, record } = begun();
  const typed = {
    thing: 'Lamp',
    kind: 'service',
    delivery: '2027-01-01',
    total: '5',
    outcome: 'x',
    nonsense: 'y',
    parts: [{ id: 'a', values: { name: 'Bulb', amount: '1', double: '9' } }],
  };

  test('only what can be entered as the form stands; the rest stays with whoever typed it', () => {
    const entered = enterInput(compiled, record, { kind: 'service' }, person('asker'), OUTSIDE);
    if (!entered.ok) throw new Error('refused');
    expect(collectInput(entered.value, typed)).toEqual({ thing: 'Lamp', kind: 'service', parts: [{ id: 'a', values: {} }] });
  });

  test('of rows the cells that can be entered there', () => {
    const entered = enterInput(
      compiled,
      record,
      { parts: [{ id: 'a', values: { name: 'Bulb', amount: '1' } }] },
      person('asker'),
      OUTSIDE,
    );
    if (!entered.ok) throw new Error('refused');
    const { parts } = collectInput(entered.value, typed);
    expect(parts).toEqual([{ id: 'a', values: { name: 'Bulb', amount: '1', serial: null } }]);
  });
});
