import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { CHIEF, CLERK, handedOn, recordOf, smallCompiled, smallWorkflow } from '@ypomet/testkit/small-workflow';
import { writePlain } from '../templates/rich-text.ts';
import { checkSurroundings } from './check-consequences.ts';
import { enterInput } from './enter-input.ts';
import { explainHandOffs } from './explain-record.ts';
import { handOn } from './hand-on.ts';
import { type Actor, CLOCK } from './record.ts';

// What is read after a hand-off: one text, chosen by conditions (semantics 4.6).
const FIELDS = [
  { type: 'number', key: 'n' },
  { type: 'text', key: 'secret', confidentialTo: ['chief'] },
];
const LIST = [
  { key: 'always', text: 'As ever' },
  { key: 'many', name: 'Many', when: 'n > 10', text: 'Many: {{n}}' },
  { key: 'few', name: 'Some', when: 'n > 1', text: 'Some: {{n}}' },
];

function read(acknowledgements: readonly object[], values: object = {}, actor: Actor = CLERK) {
  const workflow = smallCompiled({ fields: FIELDS, handOffs: { finish: { acknowledgements } } });
  const record = recordOf(workflow, values as never, 'work');
  const { acknowledgement } = handedOn(workflow, record, 'finish', {}, actor);
  const entered = enterInput(workflow, record, {}, actor, OUTSIDE);
  if (!entered.ok) throw new Error(JSON.stringify(entered.diagnostics));
  const told = explainHandOffs(workflow, entered.value, record, actor, OUTSIDE).find(({ key }) => key === 'finish');
  return {
    key: acknowledgement?.acknowledgement ?? null,
    text: acknowledgement && writePlain(acknowledgement.text),
    steps: told?.consequences.map(({ key, outcome }) => `${key} ${outcome}`) ?? [],
    previewed: told?.handedOn?.acknowledgement?.acknowledgement ?? null,
  };
}

describe('which text is read', () => {
  test.each<[string, object, string]>([
    ['the first whose condition holds', { n: '11' }, 'Many: 11'],
    ['not one whose condition doesn’t', { n: '2' }, 'Some: 2'],
    ['at its very limit', { n: '10' }, 'Some: 10'],
    ['else the one without a condition, though it is listed first', { n: '1' }, 'As ever'],
    ['that one too where a condition is unknown', {}, 'As ever'],
  ])('%s', (_, values, expected) => {
    expect(read(LIST, values).text).toBe(expected);
  });

  test('none where none holds, or there is none', () => {
    expect(read(LIST.slice(1), { n: '0' })).toMatchObject({ key: null, text: null });
    expect(read([])).toMatchObject({ key: null, text: null });
  });

  test('of two without a condition the first', () => {
    expect(read([...LIST.slice(1), { key: 'a', text: 'A' }, { key: 'b', text: 'B' }]).key).toBe('a');
  });

  test('none of a hand-off that is refused', () => {
    const workflow = smallCompiled({
      fields: [{ type: 'text', key: 'needed', treatment: 'required' }],
      handOffs: { finish: { acknowledgements: LIST.slice(0, 1) } },
    });
    const result = handOn(workflow, recordOf(workflow, {}, 'work'), 'finish', {}, CLERK, OUTSIDE);
    expect(result.ok ? [] : result.diagnostics.map(({ code }) => code)).toEqual(['form/required']);
    expect(result).not.toHaveProperty('value');
  });

  test('a text that comes to nothing is the one that is read', () => {
    expect(read([{ key: 'a', text: '{{secret}}' }]).text).toBe('');
  });
});

describe('what explains it is what decides it', () => {
  test.each([{ n: '11' }, { n: '2' }, { n: '1' }, {}])('%j', (values) => {
    const { key, steps, previewed } = read(LIST, values);
    expect(previewed).toBe(key);
    expect(steps.filter((step) => step.endsWith(' taken'))).toEqual([`${key} taken`]);
  });

  test('later ones are not tried', () => {
    expect(read(LIST, { n: '11' }).steps).toEqual(['many taken', 'few not-tried', 'always not-tried']);
    expect(read(LIST, { n: '2' }).steps).toEqual(['many passed-over', 'few taken', 'always not-tried']);
  });
});

describe('for whom it is written', () => {
  const text = '{{secret}}|{{#when secret = "s"}}known{{#else}}unknown{{/when}}';

  test('whoever pressed reads what they may read, and learns of no other value by a passage', () => {
    expect(read([{ key: 'a', text }], { secret: 's' }, CHIEF).text).toBe('s|known');
    expect(read([{ key: 'a', text }], { secret: 's' }, CLERK).text).toBe('|');
  });

  test('fields are those that they are shown', () => {
    const [chief, clerk] = [CHIEF, CLERK].map((actor) =>
      read([{ key: 'a', text: '{{#fields}}' }], { n: '3', secret: 's' }, actor),
    );
    expect([chief?.text, clerk?.text]).toEqual(['n: 3\nsecret: s', 'n: 3']);
  });
});

describe('what comes with it', () => {
  const after = (acknowledgement: object, values: object = {}, actor: Actor = CLERK) => {
    const workflow = smallCompiled({
      fields: [...FIELDS, { type: 'text', key: 'note' }],
      handOffs: { finish: { acknowledgements: [{ key: 'a', name: 'Thanks', text: 'Of {{secret}} {{n}}', ...acknowledgement }] } },
    });
    return handedOn(workflow, recordOf(workflow, values as never, 'work'), 'finish', {}, actor);
  };

  test('a next page, values in it percent-encoded; what whoever pressed may not read stays out', () => {
    const next = 'https://museum.example/visit?note={{note}}&s={{secret}}';
    expect(after({ next }, { note: 'a&b=ö/../', secret: 's' }).acknowledgement?.next).toBe(
      'https://museum.example/visit?note=a%26b%3D%C3%B6%2F..%2F&s=',
    );
    expect(after({}).acknowledgement?.next).toBeNull();
  });

  test('where the design says so, a mail to whoever pressed, of what they read', () => {
    const { deliveries } = after({ mailed: true }, { n: '3', secret: 's' });
    expect(deliveries).toMatchObject([
      { type: 'mail', delivery: 'a', name: 'Thanks', to: [{ kind: 'member', member: 'clara' }], cc: [] },
    ]);
    expect(deliveries.map((one) => one.type === 'mail' && writePlain(one.body))).toEqual(['Of  3']);
    expect(after({}).deliveries).toEqual([]);
  });

  test('the clock reads nothing, and gets no mail', () => {
    const workflow = smallCompiled({
      stages: { work: { due: 'today()' } },
      handOffs: { finish: { byClock: {}, acknowledgements: [{ key: 'a', text: 'Thanks', mailed: true }] } },
    });
    const { acknowledgement, deliveries } = handedOn(workflow, recordOf(workflow, {}, 'work'), 'finish', {}, CLOCK);
    expect([acknowledgement, deliveries]).toEqual([null, []]);
  });
});

test.each<[string, readonly string[]]>([
  ['https://museum.example/visit/{{record.number}}', []],
  ['https://museum.example/visit?loan={{record.number}}', []],
  ['https://museum.example/visit', []],
  ['', []],
  ['https://museum.example/visit{{record.number}}', ['answer/next-page']],
  ['https://museum.example/{{record.number}}', ['answer/next-page']],
  ['{{record.number}}', ['answer/next-page']],
  ['javascript:alert(1)', ['answer/next-page']],
])('a next page “%s” is one of the workspace’s, whatever its values come to', (next, expected) => {
  const definition = smallWorkflow({ handOffs: { send: { acknowledgements: [{ key: 'a', text: 'T', next }] } } });
  const surroundings = { outlets: [], members: [], openings: [], nextPages: ['https://museum.example/visit'] };
  expect(checkSurroundings(definition, surroundings).map(({ code }) => code)).toEqual(expected);
});
