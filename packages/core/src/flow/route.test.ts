import { describe, expect, test } from '@jest/globals';
import { begun, OUTSIDE, person, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { handOn } from './hand-on.ts';
import { certainNext, routeOf } from './route.ts';

const workflow = sampleWorkflow();

describe('the stage that comes next', () => {
  test.each([
    ['ask', 'check'],
    ['check', null],
    ['sorting', null],
    ['sign', 'done'],
    ['done', null],
    ['gone', null],
  ])('from %s: %s', (from, next) => {
    expect(certainNext(workflow, from)).toBe(next);
  });

  test('through a junction that has one way, and not in a circle', () => {
    const oneWay = {
      ...workflow,
      handOffs: workflow.handOffs.map((own) => (own.key === 'sort' ? { ...own, branches: [] } : own)),
    };
    const toJunction = oneWay.handOffs.map((own) =>
      own.key === 'send' ? { ...own, otherwise: { to: 'sorting', track: null } } : own,
    );
    expect(certainNext({ ...oneWay, handOffs: toJunction }, 'ask')).toBe('done');
    const round = toJunction.map((own) => (own.key === 'sort' ? { ...own, otherwise: { to: 'ask', track: null } } : own));
    expect(certainNext({ ...oneWay, handOffs: round }, 'ask')).toBeNull();
  });
});

test('the way a record came is where its events took it, junctions and returns and all', () => {
  const { compiled, record } = begun(workflow);
  expect(routeOf(workflow, record, [])).toEqual({ path: ['ask'], next: 'check' });
  const sent = handOn(
    compiled,
    record,
    'send',
    { thing: 'Lamp', kind: 'goods', price: '6000', delivery: '2100-01-01' },
    person('asker'),
    OUTSIDE,
  );
  if (!sent.ok) throw new Error(JSON.stringify(sent.diagnostics));
  const passed = handOn(compiled, sent.value.record, 'pass', {}, person('bo', 'buyer'), OUTSIDE);
  if (!passed.ok) throw new Error(JSON.stringify(passed.diagnostics));
  const events = [...sent.value.events, ...passed.value.events];
  expect(routeOf(workflow, passed.value.record, events)).toEqual({ path: ['ask', 'check', 'sorting', 'sign'], next: 'done' });
});
