import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import {
  CLERK,
  faultsIn,
  handedOn,
  recordOf,
  type SmallParts,
  smallCompiled,
  smallWorkflow,
} from '@ypomet/testkit/small-workflow';
import { compileWorkflow } from './compile-workflow.ts';
import { refreshRecord } from './refresh.ts';

// Values that later change in the source are copied only where a hand-off says so (semantics 5).
const TARGET = smallWorkflow({
  key: 'report',
  name: 'Report',
  fields: [
    { type: 'text', key: 'title' },
    { type: 'number', key: 'worth', max: '1000' },
    { type: 'number', key: 'double', expression: 'worth * 2' },
    { type: 'text', key: 'remark' },
  ],
  plan: { title: { work: 'read-only' }, worth: { work: 'read-only' } },
  stages: { work: { due: 'if worth > 10 then @"2027-01-01" else @"2027-06-01"' } },
} as SmallParts);
const findWorkflow = (key: string) => (key === 'report' ? TARGET : null);
const target = compileWorkflow(TARGET, findWorkflow);

const carried = (...pairs: readonly (readonly [string, string])[]) => pairs.map(([field, value]) => ({ field, value }));
const SOURCE: SmallParts = {
  fields: [
    { type: 'text', key: 'name' },
    { type: 'number', key: 'price' },
    { type: 'table', key: 'rows', fields: [{ type: 'text', key: 'what', name: 'What' }] },
  ],
  handOffs: {
    send: {
      followUps: [
        {
          key: 'once',
          name: 'Once',
          workflow: 'report',
          handOff: 'send',
          carried: carried(['title', 'name'], ['worth', 'price']),
        },
        {
          key: 'each',
          name: 'Each',
          workflow: 'report',
          handOff: 'send',
          perRow: 'rows',
          carried: carried(['title', 'row.what']),
        },
        { key: 'bare', name: 'Bare', workflow: 'report', handOff: 'send' },
      ],
    },
  },
  moreHandOffs: [{ key: 'again', from: 'work', refreshesCarried: true, otherwise: { to: 'work' } }],
};
const source = smallCompiled(SOURCE, findWorkflow);
const VALUES = {
  name: 'Lamp',
  price: '5',
  rows: [
    { id: 'a', values: { what: 'Shade' } },
    { id: 'b', values: { what: 'Foot' } },
  ],
};
const opened = (followUps = { open: 3, done: 0 }) => ({ ...recordOf(source, VALUES as never, 'work'), followUps });

describe('what a hand-off gives anew', () => {
  test('is what each follow-up carries, once or for each row, with the values after all that was entered', () => {
    expect(handedOn(source, opened(), 'again', { price: '20' }).refreshes).toEqual([
      { type: 'refresh', followUp: 'once', workflow: 'report', row: null, values: { title: 'Lamp', worth: '20' } },
      { type: 'refresh', followUp: 'each', workflow: 'report', row: 'a', values: { title: 'Shade' } },
      { type: 'refresh', followUp: 'each', workflow: 'report', row: 'b', values: { title: 'Foot' } },
    ]);
  });
  test('nothing by other hand-offs, nor where nothing is open', () => {
    expect(handedOn(source, opened(), 'finish').refreshes).toEqual([]);
    expect(handedOn(source, opened({ open: 0, done: 3 }), 'again').refreshes).toEqual([]);
  });
});

describe('the record that was opened', () => {
  const BY = { workflow: 'small', record: 'r1', number: 'S-1' };
  const at = (stage: string, values: object = { title: 'Old', worth: '5', double: '10' }) =>
    recordOf(target, values as never, stage);
  const refresh = (values: object, record = at('work')) =>
    refreshRecord(target, record, { values: values as never }, BY, CLERK, OUTSIDE);

  test('has the values, what is computed from them, and its due date counted anew', () => {
    const { record, event } = refresh({ title: 'New', worth: '20' });
    expect(record).toMatchObject({ stage: 'work', due: '2027-01-01', values: { title: 'New', worth: '20', double: '40' } });
    expect(event).toEqual({ type: 'refreshed', by: BY, changed: ['double', 'title', 'worth'], left: [] });
  });
  test('keeps what somebody enters there, and the event says so', () => {
    const { record, event } = refresh({ title: 'New', remark: 'x' });
    expect(record.values).toMatchObject({ title: 'New' });
    expect(record.values.remark).toBeUndefined();
    expect(event).toMatchObject({ left: ['remark'] });
    expect(refresh({ title: 'New' }, at('ask')).event).toMatchObject({ changed: [], left: ['title'] });
  });
  test.each<[string, object]>([
    ['of another type', { worth: 'much' }],
    ['past its limit', { worth: '1001' }],
    ['for a computed field', { double: '3' }],
  ])('keeps what it has where a value is %s', (_, values) => {
    const { record, event } = refresh(values);
    expect(record.values).toMatchObject({ title: 'Old', worth: '5' });
    expect(event).toMatchObject({ left: Object.keys(values) });
  });
  test('notes nothing where all is as it was, or the field is gone', () => {
    expect(refresh({ title: 'Old', worth: '5', gone: 'x' }).event).toBeNull();
  });
  test('an emptied value empties it', () => {
    expect(refresh({ title: null }).record.values.title).toBeUndefined();
  });
});

test('refreshing where nothing is carried is warned of', () => {
  const again = { key: 'again', from: 'work', refreshesCarried: true, otherwise: { to: 'work' } };
  expect(faultsIn({ moreHandOffs: [again] })).toEqual(['handOffs.again.refreshesCarried: follow-up/none-to-refresh']);
  expect(smallCompiled(SOURCE, findWorkflow).diagnostics).toEqual([]);
});
