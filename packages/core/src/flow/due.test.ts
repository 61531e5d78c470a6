import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import {
  CHIEF,
  CLERK,
  faultsIn,
  handedOn,
  recordOf,
  refusalsOf,
  type SmallParts,
  smallCompiled,
} from '@ypomet/testkit/small-workflow';
import { mailsOf } from '@ypomet/testkit/told';
import type { Offset } from '../model/flow.ts';
import { writePlain } from '../templates/rich-text.ts';
import { writeInstant } from '../values/temporal.ts';
import { CalendarSettings, makeCalendar } from '../values/working-calendar.ts';
import { clockMoments, remind } from './clock.ts';
import { dueInstant, offsetFrom } from './due.ts';
import { CLOCK, type Outside } from './record.ts';
import { takeAnswer } from './take-answer.ts';

// When something is to be done, reminders of it, and what happens by itself (semantics 5, due dates). The sample's zone is Vienna.
const FIELDS = [
  { type: 'date', key: 'back' },
  { type: 'number', key: 'n' },
];
const at = (now: string, more: Partial<Outside> = {}): Outside => ({ ...OUTSIDE, now: Date.parse(now), ...more });
/** Friday, ten in the morning. */
const FRIDAY = at('2026-11-27T09:00:00Z');
const parts = (due: string, stage: object = {}, handOffs: SmallParts['handOffs'] = {}): SmallParts => ({
  fields: FIELDS,
  stages: { work: { due, ...stage } },
  handOffs,
});
const arrived = (design: SmallParts, values: object = {}, outside: Outside = FRIDAY) => {
  const workflow = smallCompiled(design);
  const { record, deliveries } = handedOn(
    workflow,
    recordOf(workflow, {}, 'ask', outside),
    'send',
    values as never,
    undefined,
    outside,
  );
  return { workflow, record, deliveries };
};

describe('a due date is counted on arrival', () => {
  test.each<[string, string, object, string | null]>([
    ['from a field', 'back', { back: '2027-01-15' }, '2027-01-15'],
    ['in working days', 'working days(today(), 3)', {}, '2026-12-02'],
    ['in working hours', 'working hours(record.arrivedAt, 10)', {}, '2026-11-30T11:00:00Z'],
    ['in calendar days', 'back - @"P14D"', { back: '2027-01-15' }, '2027-01-01'],
    ['to nothing where what it reads is empty', 'back', {}, null],
    ['to nothing where a condition says none', 'if n > 10 then today() else null', { n: '10' }, null],
  ])('%s', (_, due, values, expected) => {
    expect(arrived(parts(due), values).record.due).toBe(expected);
  });

  test('in the workspace’s calendar', () => {
    const calendar = makeCalendar(CalendarSettings.parse({ holidays: [{ date: '2026-11-30' }] }));
    expect(arrived(parts('working days(today(), 1)'), {}, { ...FRIDAY, calendar }).record.due).toBe('2026-12-01');
  });

  test('in the same calendar where the mail writes out every field its receiver is shown', () => {
    const calendar = makeCalendar(CalendarSettings.parse({ holidays: [{ date: '2026-11-30' }] }));
    const told = { kind: 'mail', key: 'told', name: 'Told', to: [{ key: 'a', kind: 'role', role: 'clerk' }], subject: 's' };
    const { deliveries } = arrived(
      {
        fields: [...FIELDS, { type: 'date', key: 'next', expression: 'working days(back, 1)' }],
        handOffs: { send: { deliveries: [{ ...told, body: '{{#fields}}' }] } },
      },
      { back: '2026-11-27' },
      { ...FRIDAY, calendar },
    );
    expect(mailsOf({ deliveries })[0]?.body).toContain('next: Dec 1, 2026');
  });

  test('and can be read: on arrival, in conditions, in texts; by itself it never is', () => {
    const mail = {
      kind: 'mail',
      key: 'told',
      name: 'Told',
      to: [{ key: 'a', kind: 'role', role: 'clerk' }],
      subject: 'x',
      body: 'Until {{record.due}}',
    };
    const design = parts('if record.due = null then @"2026-12-01" else @"2030-01-01"', { onArrival: { deliveries: [mail] } });
    const { record, deliveries, workflow } = arrived(design);
    expect(record.due).toBe('2026-12-01');
    expect(deliveries.map((one) => one.type === 'mail' && writePlain(one.body))).toEqual([
      expect.stringMatching(/^Until Dec 1, 2026, 11:59.PM$/),
    ]);
    const saved = handedOn(
      smallCompiled({ ...design, moreHandOffs: [{ key: 'save', from: 'work', otherwise: { to: 'work' } }] }),
      record,
      'save',
    );
    expect(saved.record.due).toBe('2026-12-01');
    expect(handedOn(workflow, record, 'finish').record.due).toBeNull();
  });

  test('again when a value it reads changes: by an answer that comes back', () => {
    const { workflow, record } = arrived(parts('back', {}, { send: { checking: 'none' } }), { back: '2027-01-15' });
    const answered = takeAnswer(
      { ...workflow, forms: smallCompiled({ ...parts('back'), plan: { back: { work: 'read-only' } } }).forms },
      record,
      { delivery: 'd', outlet: 'o', answers: [{ name: 'back', field: 'back' }] },
      { back: '2027-02-01' },
      FRIDAY,
    );
    expect(answered.ok && answered.value.record).toMatchObject({ due: '2027-02-01', values: { back: '2027-02-01' } });
  });

  test('with the clock of the arrival: what is saved or answered later moves no date in five days', () => {
    const design = {
      ...parts('if n > 1 then today() else working days(today(), 5)'),
      moreHandOffs: [{ key: 'save', from: 'work', otherwise: { to: 'work' } }],
    };
    const { workflow, record } = arrived(design);
    expect(record.due).toBe('2026-12-04');
    const later = at('2026-12-01T12:00:00Z');
    expect(handedOn(workflow, record, 'save', {}, CLERK, later).record.due).toBe('2026-12-04');
    expect(handedOn(workflow, record, 'save', { n: '2' }, CLERK, later).record.due).toBe('2026-11-27');
  });

  test('back at the stage it left, as when it is saved, the stay goes on', () => {
    const design = {
      ...parts('record.arrivedAt + @"PT2H"'),
      moreHandOffs: [{ key: 'save', from: 'work', otherwise: { to: 'work' } }],
    };
    const { workflow, record } = arrived(design);
    const later = at('2026-11-27T12:00:00Z');
    const saved = handedOn(workflow, { ...record, reminded: ['soon'] }, 'save', { n: '1' }, CLERK, later).record;
    expect(saved).toMatchObject({ arrivedAt: record.arrivedAt, due: record.due, reminded: ['soon'], values: { n: '1' } });
  });
});

describe('moments before and after it', () => {
  const offset = (count: number, unit: Offset['unit'], side: Offset['side']): Offset => ({ count, unit, side });
  const moment = (due: string, of: Offset, kind: 'opening' | 'end'): string | null => {
    const found = offsetFrom(due, of, kind, OUTSIDE);
    return found === null ? null : writeInstant(found);
  };
  // 2026-12-01 is a Tuesday; Vienna is an hour ahead of UTC.
  test.each<[string, Offset, 'opening' | 'end', string]>([
    ['2026-12-01', offset(0, 'days', 'before'), 'opening', '2026-12-01T08:00:00Z'],
    ['2026-12-01', offset(0, 'days', 'after'), 'end', '2026-12-01T22:59:59Z'],
    ['2026-12-01', offset(2, 'working-days', 'before'), 'opening', '2026-11-27T08:00:00Z'],
    ['2026-12-01', offset(2, 'days', 'before'), 'opening', '2026-11-29T08:00:00Z'],
    ['2026-12-01', offset(3, 'days', 'after'), 'end', '2026-12-04T22:59:59Z'],
    ['2026-12-01', offset(90, 'minutes', 'after'), 'end', '2026-12-02T00:29:59Z'],
    ['2026-12-01T12:30:15Z', offset(1, 'working-days', 'after'), 'opening', '2026-12-02T12:30:15Z'],
    ['2026-12-01T12:30:15Z', offset(1, 'days', 'before'), 'end', '2026-11-30T12:30:15Z'],
    ['2026-12-01T12:30:00Z', offset(5, 'working-hours', 'before'), 'end', '2026-11-30T15:30:00Z'],
    ['2026-12-01T12:30:00Z', offset(4, 'hours', 'before'), 'end', '2026-12-01T08:30:00Z'],
    ['2026-12-01T12:30:00Z', offset(0, 'working-hours', 'after'), 'end', '2026-12-01T12:30:00Z'],
  ])('%s, %j, %s', (due, of, kind, expected) => {
    expect(moment(due, of, kind)).toBe(expected);
  });
  test('what can’t be read, or counted, is no moment', () => {
    expect(moment('soon', offset(1, 'days', 'after'), 'end')).toBeNull();
    expect(offsetFrom('2026-12-01', offset(10_000, 'working-hours', 'after'), 'end', OUTSIDE)).toBeNull();
    expect(dueInstant('2026-02-30', 'UTC')).toBeNull();
  });
});

const mailTo = (key: string, subject: string, more: object = {}) => ({
  kind: 'mail',
  key,
  name: key,
  to: [{ key: 'a', kind: 'role', role: 'clerk' }],
  subject,
  body: 'Due {{record.due}}, {{n}}',
  ...more,
});
const REMINDERS = [
  {
    key: 'soon',
    name: 'Soon',
    offset: { count: 2, unit: 'working-days', side: 'before' },
    deliveries: [mailTo('soonMail', 'Soon')],
  },
  {
    key: 'late',
    name: 'Late',
    offset: { count: 1, unit: 'days', side: 'after' },
    deliveries: [mailTo('big', 'Big and late', { when: 'n > 10' }), mailTo('any', 'Late')],
    deliveryPolicy: 'first',
  },
];
const CLOCKED = parts(
  'back',
  { reminders: REMINDERS },
  { finish: { byClock: { offset: { count: 2, unit: 'days', side: 'after' } } } },
);

describe('the clock', () => {
  test('has reminders and hand-offs before it, in the order of time, each once', () => {
    const { workflow, record } = arrived(CLOCKED, { back: '2026-12-04' });
    const moments = (reminded: readonly string[]) =>
      clockMoments(workflow, { ...record, reminded }, FRIDAY).map((one) => [
        one.kind === 'reminder' ? one.reminder : one.handOff,
        writeInstant(one.at),
      ]);
    expect(moments([])).toEqual([
      ['soon', '2026-12-02T08:00:00Z'],
      ['late', '2026-12-05T08:00:00Z'],
      ['finish', '2026-12-06T22:59:59Z'],
    ]);
    expect(moments(['soon']).map(([name]) => name)).toEqual(['late', 'finish']);
    expect(clockMoments(workflow, { ...record, due: null }, FRIDAY)).toEqual([]);
  });

  test('leaves out a reminder whose time was past on arrival', () => {
    const { workflow, record } = arrived(CLOCKED, { back: '2026-11-27' });
    expect(clockMoments(workflow, record, FRIDAY).map((one) => one.kind)).toEqual(['reminder', 'hand-off']);
  });

  test('sends those deliveries of a reminder that hold, and notes that it has', () => {
    const { workflow, record } = arrived(CLOCKED, { back: '2026-12-04', n: '11' });
    const reminded = remind(workflow, record, 'late', FRIDAY);
    expect(reminded?.deliveries.map((one) => one.type === 'mail' && one.subject)).toEqual(['Big and late']);
    expect(reminded?.deliveries.map((one) => one.type === 'mail' && writePlain(one.body))).toEqual([
      expect.stringMatching(/^Due Dec 4, 2026, 11:59.PM, 11$/),
    ]);
    expect(reminded?.event).toEqual({ type: 'reminded', stage: 'work', reminder: 'late', sent: 1 });
    expect(reminded?.record).toEqual({ ...record, reminded: ['late'] });
    expect(remind(workflow, record, 'nosuch', FRIDAY)).toBeNull();
  });

  test('hands on by what happens by itself, and by nothing else', () => {
    const { workflow, record } = arrived(CLOCKED, { back: '2026-12-04' });
    const { record: after, events } = handedOn(workflow, record, 'finish', {}, CLOCK, FRIDAY);
    expect(after).toMatchObject({ stage: 'done', due: null, reminded: [] });
    expect(events[0]).toMatchObject({ type: 'handed-on', handOff: 'finish' });
    const { workflow: other, record: there } = arrived(parts('back'), { back: '2026-12-04' });
    expect(refusalsOf(other, there, 'finish', {}, CLOCK, FRIDAY)).toEqual(['finish: hand-off/not-allowed']);
  });

  test('is refused like anybody: by the form, by the hand-off’s own condition', () => {
    const strict = (more: object) => parts('back', {}, { finish: { byClock: {}, ...more } });
    const { workflow, record } = arrived({ ...strict({}), plan: { n: { work: 'required' } } }, { back: '2026-12-04' });
    expect(refusalsOf(workflow, record, 'finish', {}, CLOCK, FRIDAY)).toEqual(['n: form/required']);
    const closed = arrived(strict({ offeredWhen: 'n > 1' }), { back: '2026-12-04' });
    expect(refusalsOf(closed.workflow, closed.record, 'finish', {}, CLOCK, FRIDAY)).toEqual(['finish: hand-off/not-offered']);
  });

  test('alone may press what is its alone', () => {
    const { workflow, record } = arrived(parts('back', {}, { finish: { byClock: { alone: true } } }), { back: '2026-12-04' });
    expect(refusalsOf(workflow, record, 'finish', {}, CHIEF)).toEqual(['finish: hand-off/not-allowed']);
    expect(refusalsOf(workflow, record, 'finish', {}, CLOCK)).toEqual([]);
    // Somebody whose id happens to be the same is somebody.
    expect(refusalsOf(workflow, record, 'finish', {}, { ...CLOCK })).toEqual(['finish: hand-off/not-allowed']);
  });
});

describe('what is seen at design time', () => {
  test.each<[string, SmallParts, readonly string[]]>([
    ['a due date that is no date', parts('n'), ['stages.work.due: expression/wrong-result']],
    ['one that is a date or a date and time', parts('if n > 1 then back else today()'), []],
    [
      'a reminder without a due date',
      { fields: FIELDS, stages: { work: { reminders: REMINDERS.slice(0, 1) } } },
      ['stages.work.reminders.soon: due/missing'],
    ],
    [
      'the clock without a due date',
      { fields: FIELDS, handOffs: { finish: { byClock: {} } } },
      ['handOffs.finish.byClock: due/missing'],
    ],
    ['a due date where nothing waits', { fields: FIELDS, stages: { done: { due: 'back' } } }, ['stages.done.due: due/idle']],
    [
      'the clock before a form that asks for something',
      { ...parts('back', {}, { finish: { byClock: {} } }), plan: { n: { work: 'required' } } },
      ['handOffs.finish.byClock: due/likely-refused'],
    ],
    [
      'not where it checks nothing',
      { ...parts('back', {}, { finish: { byClock: {}, checking: 'none' } }), plan: { n: { work: 'required' } } },
      [],
    ],
    [
      'a due date made from what not everybody may read',
      { ...parts('back'), fields: [{ ...FIELDS[0], confidentialTo: ['chief'] }] as never },
      ['stages.work.due: readers/due'],
    ],
    [
      'a reminder that reads a field that isn’t there',
      parts('back', { reminders: [{ ...REMINDERS[0], deliveries: [mailTo('m', '{{gone}}')] }] }),
      ['stages.work.reminders.soon.deliveries.m.subject: expression/unknown-name'],
    ],
    [
      'a reminder that tells what its readers may not read',
      {
        ...parts('back', { reminders: [{ ...REMINDERS[0], deliveries: [mailTo('m', 'x')] }] }),
        fields: [FIELDS[0], { ...FIELDS[1], confidentialTo: ['chief'] }] as never,
      },
      ['stages.work.reminders.soon.deliveries.m.body: readers/withheld'],
    ],
  ])('%s', (_, design, expected) => {
    expect(faultsIn(design)).toEqual(expected);
  });
});
