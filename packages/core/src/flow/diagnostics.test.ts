import { describe, expect, test } from '@jest/globals';
import { faultsIn, recordOf, refusalsOf, type SmallParts, smallCompiled, smallWorkflow } from '@ypomet/testkit/small-workflow';
import { parseWorkflow, readWorkflow } from '../model/read-workflow.ts';

// What a designer is told before anybody depends on the design: unknown is never "fine".
const field = (more: object): SmallParts => ({
  fields: [
    { type: 'text', key: 'n' },
    { key: 'f', ...more },
  ],
});

describe('fields taken alone', () => {
  test.each<[string, SmallParts, string[]]>([
    ['limits of a number that cross', field({ type: 'number', min: '5', max: '4' }), ['fields.f: field/limits-cross']],
    ['also when text order says otherwise', field({ type: 'number', min: '9', max: '10' }), []],
    [
      'limits of dates that cross',
      field({ type: 'date', min: '2027-02-01', max: '2027-01-01' }),
      ['fields.f: field/limits-cross'],
    ],
    ['a day that isn’t', field({ type: 'date', min: '2027-02-30' }), ['fields.f.min: field/no-such-day']],
    ['lengths that cross', field({ type: 'text', minLength: 5, maxLength: 4 }), ['fields.f: field/limits-cross']],
    [
      'numbers of rows that cross',
      field({ type: 'table', minRows: 2, maxRows: 1, fields: [{ type: 'text', key: 'a', name: 'A' }] }),
      ['fields.f: field/limits-cross'],
    ],
    [
      'of a sub-field too',
      field({ type: 'table', fields: [{ type: 'number', key: 'a', name: 'A', min: '2', max: '1' }] }),
      ['fields.f.fields.a: field/limits-cross'],
    ],
    ['a pattern that is none', field({ type: 'text', pattern: '([' }), ['fields.f.pattern: field/bad-pattern']],
    ['a pattern that looks around', field({ type: 'text', pattern: '(?=a)b' }), ['fields.f.pattern: field/bad-pattern']],
    [
      'a pattern that grows too large',
      field({ type: 'text', pattern: '((a{1,100}){1,100}){1,100}' }),
      ['fields.f.pattern: field/bad-pattern'],
    ],
    [
      'a code that isn’t in NFC',
      field({ type: 'choice', options: [{ code: 'e\u0301', label: 'E' }] }),
      ['fields.f.options."e\u0301": field/code-form'],
    ],
    [
      'a code with a space at its end',
      field({ type: 'choice', options: [{ code: 'a ', label: 'A' }] }),
      ['fields.f.options."a ": field/code-form'],
    ],
  ])('%s', (_name, parts, expected) => {
    expect(faultsIn(parts)).toEqual(expected);
  });
});

describe('what is unknown is never fine', () => {
  test('a pattern that can’t be used refuses every value, should it come to that', () => {
    const workflow = smallCompiled(field({ type: 'text', pattern: '([' }));
    expect(refusalsOf(workflow, recordOf(workflow), 'send', { f: 'anything' })).toEqual(['f: form/pattern']);
  });

  test('a pattern holds for the whole text', () => {
    const workflow = smallCompiled(field({ type: 'text', pattern: 'a+|b' }));
    const refused = (f: string) => refusalsOf(workflow, recordOf(workflow), 'send', { f });
    expect(['a', 'aa', 'b', 'ab', 'xa'].map((text) => refused(text).length)).toEqual([0, 0, 0, 1, 1]);
  });

  test('`external` is a key like any other; words of the grammar are none', () => {
    expect(faultsIn({ fields: [{ type: 'yes-no', key: 'external' }], handOffs: { send: { offeredWhen: 'external' } } })).toEqual(
      [],
    );
    expect(() => faultsIn({ fields: [{ type: 'yes-no', key: 'satisfies' }] })).toThrow(/shape\/taken-word/);
  });

  test('`readWorkflow` looks at keys, `parseWorkflow` at the shape alone', () => {
    const definition = smallWorkflow({ handOffs: { send: { otherwise: { to: 'wrok' } } } });
    const read = readWorkflow(definition);
    expect(read.ok ? [] : read.diagnostics.map(({ path, code }) => `${path}: ${code}`)).toEqual([
      'handOffs.send.otherwise.to: workflow/unknown-key-near',
    ]);
    expect(parseWorkflow(definition).ok).toBe(true);
  });
});

describe('expressions', () => {
  const computing = (expression: string, type: object = { type: 'yes-no' }): SmallParts => ({
    fields: [
      { type: 'text', key: 'n' },
      { type: 'number', key: 'x', scale: 2 },
      { type: 'money', key: 'euro', currency: 'EUR' },
      { type: 'money', key: 'pound', currency: 'GBP' },
      { type: 'table', key: 't', fields: [{ type: 'money', key: 'euro', name: 'E', currency: 'EUR' }] },
      { key: 'f', ...type, expression },
    ],
  });
  const money = { type: 'money', currency: 'EUR' };

  test.each<[string, object | undefined, string[]]>([
    ['matches(n, "([")', undefined, ['expression/bad-pattern']],
    ['matches(n, "(?=a)")', undefined, ['expression/bad-pattern']],
    ['replace(n, "a", "$x") = n', undefined, ['expression/bad-replacement']],
    ['replace(n, "a", "\\\\$") = n', undefined, []],
    ['t = null', undefined, ['expression/never-null']],
    ['t != null', undefined, ['expression/never-null']],
    ['count(t) = 0', undefined, []],
    ['n == "a"', undefined, ['expression/other-language']],
    ['n !== "a"', undefined, ['expression/other-language']],
    ['x => 1', undefined, ['expression/other-language']],
    ['x > 1 && x < 2', undefined, ['expression/other-language']],
    ['x > 1 || x < 2', undefined, ['expression/other-language']],
    ['n = \u201ca\u201d', undefined, ['expression/other-language']],
    ['count(sort(t, function(a, b) a < b)) = 0', undefined, ['expression/left-out']],
    ['euro + pound', money, ['expression/currencies']],
    ['euro + euro', money, []],
    ['euro < pound', undefined, ['expression/currencies']],
    ['sum([euro, pound])', money, ['expression/currencies']],
    ['sum(t.euro) + euro', money, []],
    ['pound * x', money, ['expression/wrong-result']],
    ['decimal(euro / pound * euro, 2)', money, []],
  ])('%s', (expression, type, expected) => {
    expect(smallCompiled(computing(expression, type)).diagnostics.map(({ code }) => code)).toEqual(expected);
  });

  test('other languages’ signs say what to write here', () => {
    const written = (text: string) => smallCompiled(computing(text)).diagnostics[0]?.params.instead;
    expect(['n == "a"', 'n !== "a"', 'x => 1', 'x > 1 && true', 'x > 1 || true'].map(written)).toEqual([
      '=',
      '!=',
      '>=',
      'and',
      'or',
    ]);
  });
});

describe('templates', () => {
  const acknowledging = (text: string): SmallParts => ({
    fields: [{ type: 'text', key: 'n' }],
    handOffs: { send: { acknowledgements: [{ key: 'a', text }] } },
  });

  test('one that is never closed', () => {
    expect(faultsIn(acknowledging('Thank you {{n'))).toEqual(['handOffs.send.acknowledgements.a.text: template/open']);
  });

  test('the place of a fault is counted from the start of the text', () => {
    const [found] = smallCompiled(acknowledging('Thank you {{n}} and {{nn}}')).diagnostics;
    expect(found?.span).toEqual({ start: 22, end: 24 });
  });
});

describe('junctions and ends', () => {
  const mail = { kind: 'mail', key: 'm', name: 'M', to: [{ kind: 'submitter' }], subject: 's', body: 'b' };
  const through = (junction: object, onward: object): SmallParts => ({
    handOffs: { send: { otherwise: { to: 'j' } } },
    moreStages: [{ key: 'j', kind: 'junction', ...junction }],
    moreHandOffs: [{ key: 'on', from: 'j', otherwise: { to: 'work' }, ...onward }],
  });

  test.each<[string, SmallParts, string[]]>([
    ['a junction may send and open', through({}, { deliveries: [mail] }), []],
    ['it can’t be offered', through({}, { offeredWhen: 'true' }), ['handOffs.on.offeredWhen: workflow/junction-part']],
    [
      'nor thank anybody',
      through({}, { acknowledgements: [{ key: 'a', text: 'x' }] }),
      ['handOffs.on.acknowledgements: workflow/junction-part'],
    ],
    ['nor be somebody’s', through({ roles: ['clerk'] }, {}), ['stages.j.roles: workflow/junction-part']],
    [
      'nor be assigned',
      through({ assignment: { kind: 'role', role: 'clerk' } }, {}),
      ['stages.j.assignment: workflow/junction-part'],
    ],
    [
      'an end isn’t assigned',
      { stages: { done: { assignment: { kind: 'role', role: 'clerk' } } } },
      ['stages.done.assignment: workflow/end-assignment'],
    ],
    [
      'of two acknowledgements without a condition one is never seen',
      {
        handOffs: {
          send: {
            acknowledgements: [
              { key: 'a', text: 'x' },
              { key: 'b', text: 'y' },
            ],
          },
        },
      },
      ['handOffs.send.acknowledgements: workflow/two-defaults'],
    ],
  ])('%s', (_name, parts, expected) => {
    expect(faultsIn(parts)).toEqual(expected);
  });
});

describe('neighbours', () => {
  const parts: SmallParts = {
    fields: [{ type: 'reference', key: 'about', workflow: 'nowhere' }],
    handOffs: { send: { followUps: [{ key: 'f', name: 'F', workflow: 'nowhere', handOff: 'send', carried: [] }] } },
  };
  const near = smallCompiled({ key: 'near', fields: [{ type: 'text', key: 'title' }] }).definition;
  const find = (key: string) => (key === 'near' ? near : null);

  test('an unknown workflow, where the others are known', () => {
    expect(faultsIn(parts, find)).toEqual([
      'fields.about.workflow: workflow/unknown-key',
      'handOffs.send.followUps.f.workflow: workflow/unknown-key',
    ]);
    expect(faultsIn(parts)).toEqual([]);
  });

  test('an unknown hand-off, or field, of a known one', () => {
    const carried = [{ field: 'titel', value: '"x"' }];
    const handOffs = { send: { followUps: [{ key: 'f', name: 'F', workflow: 'near', handOff: 'sent', carried }] } };
    expect(faultsIn({ handOffs }, find)).toEqual([
      'handOffs.send.followUps.f.handOff: workflow/unknown-key-near',
      'handOffs.send.followUps.f.carried.titel.field: workflow/unknown-key-near',
    ]);
  });
});
