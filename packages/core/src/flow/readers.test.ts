import { describe, expect, test } from '@jest/globals';
import { OUTSIDE, person } from '@ypomet/testkit/sample-workflow';
import {
  ASKER,
  CHIEF,
  CLERK,
  faultsIn,
  handedOn,
  recordOf,
  refusalsOf,
  type SmallParts,
  smallCompiled,
} from '@ypomet/testkit/small-workflow';
import { answerOf, mailsOf } from '@ypomet/testkit/told';
import { isReader } from '../forms/readers.ts';
import { describeTerm } from '../messages/describe.ts';
import { enterInput } from './enter-input.ts';
import { mayRead } from './permissions.ts';
import { projectForm } from './project-form.ts';
import { makeOutside } from './record.ts';

const SALARY = { type: 'number', key: 'salary', confidentialTo: ['chief'] };
const MAIL = { kind: 'mail', key: 'mail', name: 'Mail' };

describe('readers follow the values', () => {
  const table = {
    key: 'grade',
    name: 'Grade',
    hitPolicy: 'U',
    inputs: [{ expression: 'salary', name: 'Salary' }],
    outputs: [{ key: 'grade', name: 'Grade', type: 'text' }],
    rules: [{ when: ['> 10'], then: ['"high"'] }],
  };
  const fields = [
    SALARY,
    { type: 'number', key: 'twice', expression: 'salary * 2', discloses: false },
    { type: 'number', key: 'again', expression: 'twice + 1' },
    { type: 'text', key: 'graded', expression: 'grade' },
    { type: 'text', key: 'open', expression: 'if 1 > 0 then "x" else ""' },
    { type: 'number', key: 'said', expression: 'salary', discloses: true },
    {
      type: 'table',
      key: 'lines',
      fields: [
        { type: 'number', key: 'n', name: 'N' },
        { type: 'number', key: 'part', name: 'Part', expression: 'row.n * salary' },
      ],
    },
    { type: 'number', key: 'sum', expression: 'sum(lines.part)' },
    { type: 'number', key: 'rows', expression: 'count(lines.n)' },
    { type: 'number', key: 'whole', expression: 'count(lines)' },
  ];
  const workflow = smallCompiled({ fields, decisionTables: [table] });
  const { readers } = workflow.forms;

  test.each([
    ['salary', [['chief']]],
    ['twice', [['chief']]],
    ['again', [['chief']]],
    ['graded', [['chief']]],
    ['grade', [['chief']]],
    ['open', []],
    ['said', []],
    ['sum', [['chief']]],
    ['rows', []],
  ])('%s', (key, expected) => {
    expect(readers.of(key)).toEqual(expected);
    expect([mayRead(workflow.forms, key, CHIEF), mayRead(workflow.forms, key, CLERK)]).toEqual([true, expected.length === 0]);
  });

  test('of a row, cell by cell', () => {
    expect([readers.ofPart('lines', 'n'), readers.ofPart('lines', 'part')]).toEqual([[], [['chief']]]);
  });

  test('two confidential values have both kinds of readers', () => {
    const both = smallCompiled({
      fields: [
        SALARY,
        { type: 'number', key: 'bonus', confidentialTo: ['clerk'] },
        { type: 'number', key: 'pay', expression: 'salary + bonus' },
      ],
    });
    const of = both.forms.readers.of('pay');
    expect([['chief'], ['clerk'], ['chief', 'clerk']].map((roles) => isReader(of, roles))).toEqual([false, false, true]);
  });

  test('a form holds no digit of it for somebody else, stored, entered or computed', () => {
    const record = recordOf(workflow, { salary: '4711', lines: [{ id: 'a', values: { n: '1' } }] }, 'work');
    const seen = (who: typeof CLERK): string => {
      const form = enterInput(workflow, record, {}, who, OUTSIDE);
      return form.ok ? JSON.stringify(projectForm(workflow, form.value, record, who)) : '';
    };
    expect(seen(CHIEF)).toContain('4711');
    expect(seen(CLERK).replace('"expression":"4711","discloses":true', '')).not.toMatch(/4711|9422|9423/);
  });
});

describe('whoever gets a text gets what they may read', () => {
  const text = 'a{{twice}}b{{salary}}c{{said}}';
  const parts: SmallParts = {
    fields: [
      SALARY,
      { type: 'number', key: 'twice', expression: 'salary * 2' },
      { type: 'number', key: 'said', expression: 'salary + 1', discloses: true },
    ],
    handOffs: {
      finish: {
        acknowledgements: [{ key: 'told', text }],
        deliveries: [
          { ...MAIL, key: 'chiefs', to: [{ kind: 'role', role: 'chief' }], subject: text, body: text },
          {
            ...MAIL,
            key: 'both',
            to: [
              { kind: 'role', role: 'chief' },
              { kind: 'role', role: 'clerk' },
            ],
            subject: 's',
            body: text,
          },
          { ...MAIL, key: 'asker', to: [{ kind: 'submitter' }], subject: 's', body: text },
          { ...MAIL, key: 'anybody', to: [{ kind: 'expression', expression: '"a@b.example"' }], subject: 's', body: text },
        ],
      },
    },
  };
  const workflow = smallCompiled(parts);
  const record = recordOf(workflow, { salary: '100' }, 'work');

  test('an address made from a confidential value gets a mail of its own, and is a warning', () => {
    const secret = { type: 'text', key: 'lawyer', name: 'Lawyer', confidentialTo: ['chief'] } as const;
    const delivery = {
      ...MAIL,
      key: 'both',
      to: [
        { key: 'a', kind: 'role', role: 'clerk' },
        { key: 'b', kind: 'expression', expression: 'lawyer' },
        { key: 'c', kind: 'address', address: 'open@b.example' },
      ],
      subject: 's',
      body: 'b',
    };
    const own = smallCompiled({ fields: [secret], handOffs: { finish: { deliveries: [delivery] } } });
    expect(own.diagnostics.map(({ path, code }) => `${path}: ${code}`)).toEqual([
      'handOffs.finish.deliveries.both.to.b.expression: readers/address',
    ]);
    const sent = handedOn(own, recordOf(own, { lawyer: 'law@b.example' }, 'work'), 'finish', {}, CHIEF).deliveries;
    expect(sent.map((one) => one.type === 'mail' && [one.to.length, one.hidesReceivers ?? false])).toEqual([
      [2, false],
      [1, true],
    ]);
  });

  test('a mail what its receivers may, each by themselves; its subject what the log may, an acknowledgement what who acts may', () => {
    const result = handedOn(workflow, record, 'finish', {}, CHIEF);
    expect(mailsOf(result).map(({ delivery, to, subject, body }) => [delivery, to.length, subject, body])).toEqual([
      ['chiefs', 1, 'abc101', 'a200b100c101'],
      ['both', 1, 's', 'a200b100c101'],
      ['both', 1, 's', 'abc101'],
      ['asker', 1, 's', 'abc101'],
      ['anybody', 1, 's', 'abc101'],
    ]);
    expect(answerOf(result)).toBe('a200b100c101');
    expect(answerOf(handedOn(workflow, record, 'finish', {}, CLERK))).toBe('abc101');
  });

  test('the design says where a text stays empty for somebody, and for whom', () => {
    const found = workflow.diagnostics.filter(({ code }) => code === 'readers/withheld');
    expect(
      found.map(
        ({ path, params }) =>
          `${path} ${typeof params.who === 'object' && 'term' in params.who ? describeTerm(params.who) : params.who}`,
      ),
    ).toEqual([
      ...Array(2).fill('handOffs.finish.deliveries.chiefs.subject the dispatch log'),
      ...Array(2).fill('handOffs.finish.deliveries.both.body Clerk'),
      ...Array(2).fill('handOffs.finish.deliveries.asker.body the submitter'),
      ...Array(2).fill('handOffs.finish.deliveries.anybody.body an address'),
      ...Array(2).fill('handOffs.finish.acknowledgements.told.text Clerk'),
    ]);
  });
});

describe('a value that goes where more people read', () => {
  const other = smallCompiled({
    key: 'other',
    fields: [
      { type: 'number', key: 'cost' },
      { type: 'number', key: 'kept', confidentialTo: ['chief'] },
    ],
  }).definition;
  const following = (field: string): SmallParts => ({
    fields: [SALARY, { type: 'number', key: 'twice', expression: 'salary * 2' }],
    handOffs: {
      finish: { followUps: [{ key: 'f', name: 'F', workflow: 'other', handOff: 'send', carried: [{ field, value: 'twice' }] }] },
    },
  });

  test.each<[string, SmallParts, string[]]>([
    [
      'set to a field of all',
      { fields: [SALARY, { type: 'number', key: 'n' }], handOffs: { send: { sets: [{ field: 'n', value: 'salary' }] } } },
      ['handOffs.send.sets.n.value: readers/leak'],
    ],
    [
      'set to a field of its readers',
      { fields: [SALARY, { ...SALARY, key: 'n' }], handOffs: { send: { sets: [{ field: 'n', value: 'salary' }] } } },
      [],
    ],
    [
      'set on arrival',
      {
        fields: [SALARY, { type: 'number', key: 'n' }],
        stages: { work: { onArrival: { sets: [{ field: 'n', value: 'salary' }] } } },
      },
      ['stages.work.onArrival.sets.n.value: readers/leak'],
    ],
    [
      'set, and the field says that it discloses it',
      {
        fields: [SALARY, { type: 'number', key: 'n', discloses: true }],
        handOffs: { send: { sets: [{ field: 'n', value: 'salary' }] } },
      },
      ['handOffs.send.sets.n.value: readers/discloses'],
    ],
    ['carried over to a field of all', following('cost'), ['handOffs.finish.followUps.f.carried.cost.value: readers/leak']],
    ['carried over to a field of its readers', following('kept'), []],
  ])('%s', (_name, parts, expected) => {
    const faults = faultsIn(parts, (key) => (key === 'other' ? other : null));
    expect(faults.filter((one) => one.includes('readers/'))).toEqual(expected);
  });
});

describe('what trying values could find out is said at design', () => {
  const parts = (confidentialTo: readonly string[], more: object): SmallParts => ({
    fields: [
      { type: 'number', key: 'offer' },
      { type: 'number', key: 'reserve', confidentialTo, treatment: 'hidden' },
      { type: 'text', key: 'why' },
      { type: 'yes-no', key: 'low', expression: 'offer < reserve', treatment: 'hidden' },
    ],
    ...more,
  });
  const adjustment = (when: string) => ({
    adjustments: [{ key: 'a', name: 'A', when, fields: ['why'], treatment: 'required', stages: ['ask'] }],
  });
  const check = { checks: [{ key: 'c', name: 'C', condition: 'not(low)', message: 'Too low', stages: ['ask'] }] };

  test.each([
    ['an adjustment', parts(['chief'], adjustment('offer < reserve')), 'adjustments.a.when', ['reserve']],
    ['through a computed field', parts(['chief'], adjustment('low')), 'adjustments.a.when', ['reserve']],
    ['of a value that is only hidden there', parts([], adjustment('offer < reserve')), 'adjustments.a.when', ['reserve']],
    ['a check', parts(['chief'], check), 'checks.c.condition', ['reserve']],
    [
      'whether a hand-off is offered',
      parts(['chief'], { handOffs: { send: { offeredWhen: 'low' } } }),
      'handOffs.send.offeredWhen',
      ['reserve'],
    ],
  ])('%s', (_name, given, path, fields) => {
    const found = smallCompiled(given).diagnostics.filter(({ code }) => code === 'readers/searchable');
    expect(found.map((one) => [one.path, one.params.stage, one.params.entered, one.params.fields])).toEqual([
      [path, 'Ask', 'offer', fields],
    ]);
  });

  test('nothing is said where nothing that may be entered stands beside it', () => {
    const codes = smallCompiled(parts(['chief'], adjustment('reserve > 5'))).diagnostics.map(({ code }) => code);
    expect(codes).not.toContain('readers/searchable');
  });
});

describe('reading through a reference', () => {
  const other = smallCompiled({
    key: 'other',
    fields: [
      { type: 'number', key: 'cost' },
      { type: 'number', key: 'secret', confidentialTo: ['chief'] },
    ],
  }).definition;
  const workflow = smallCompiled(
    {
      fields: [{ type: 'reference', key: 'about', workflow: 'other' }],
      handOffs: {
        finish: {
          acknowledgements: [{ key: 'told', text: 'a{{about.cost}}b{{about.secret}}' }],
          deliveries: [
            {
              ...MAIL,
              to: [{ kind: 'role', role: 'chief' }, { kind: 'submitter' }],
              subject: '{{about.cost}}',
              body: 'a{{about.cost}}b{{about.secret}}',
            },
          ],
        },
      },
    },
    (key) => (key === 'other' ? other : null),
  );
  const outside = makeOutside({
    ...OUTSIDE,
    findRecord: (_workflow, id) => (id === 'o1' ? { cost: 'c' } : null),
    findRecordFor: (reader) => (reader.kind === 'role' && reader.role === 'chief' ? { cost: 'c', secret: 's' } : null),
  });
  const record = recordOf(workflow, { about: 'o1' }, 'work');

  test('a mail holds what each of its recipients may read of that record; its subject nothing', () => {
    const result = handedOn(workflow, record, 'finish', {}, CLERK, outside);
    expect(mailsOf(result).map(({ subject, body }) => [subject, body])).toEqual([
      ['', 'acbs'],
      ['', 'ab'],
    ]);
    expect(answerOf(result)).toBe('acb');
  });

  test('a record one may not see can’t be entered', () => {
    const begun = recordOf(workflow);
    expect(refusalsOf(workflow, begun, 'send', { about: 'o1' }, ASKER, outside)).toEqual([]);
    expect(refusalsOf(workflow, begun, 'send', { about: 'o2' }, ASKER, outside)).toEqual(['about: value/unknown-record']);
  });
});

test('a confidential field is unknown to whoever may not read it, in words too', () => {
  const workflow = smallCompiled({ fields: [SALARY] });
  const record = recordOf(workflow, {}, 'work');
  expect(refusalsOf(workflow, record, 'finish', { salary: '1' }, CLERK)).toEqual(['salary: hand-off/unknown-field']);
  expect(refusalsOf(workflow, record, 'finish', { salary: '1' }, person('kim', 'clerk', 'chief'))).toEqual([]);
});
