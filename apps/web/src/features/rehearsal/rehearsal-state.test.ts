import { describe, expect, test } from '@jest/globals';
import { blankRecord, compileWorkflow } from '@ypomet/core';
import { OUTSIDE, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import {
  begunAt,
  begunRehearsal,
  entered,
  lookAt,
  onDay,
  openedScript,
  passedByClock,
  playedBy,
  presentStep,
  pressed,
  readShared,
  writeShared,
} from './rehearsal-state.ts';

const compiled = compileWorkflow(sampleWorkflow());
const begun = begunRehearsal(compiled);
const ASKED = { thing: 'Lämp 💡', kind: 'goods' };
const two = pressed(pressed(entered(begun, ASKED, ['ask']), 'send', ASKED), 'pass', { price: '5' });

describe('a rehearsal goes on, back and forth', () => {
  test('it begins at the first intake, with nothing', () => {
    expect(begun).toEqual({
      script: { intake: 'ask', at: null, today: null, start: {}, steps: [] },
      open: {},
      role: null,
      at: 0,
      before: null,
      source: null,
    });
  });

  test('what is pressed becomes a step; the end is empty again', () => {
    expect(two.script.steps.map(({ handOff, entered: own }) => [handOff, own])).toEqual([
      ['send', ASKED],
      ['pass', { price: '5' }],
    ]);
    expect([two.at, two.open]).toEqual([2, {}]);
  });

  test('an earlier step is looked at, and changed: what followed stays to be run again', () => {
    const back = lookAt(two, 0);
    expect(presentStep(back).entered).toEqual(ASKED);
    const changed = entered(back, { ...ASKED, kind: 'service' }, ['ask', 'check', 'done']);
    expect(changed.script.steps).toHaveLength(2);
    expect(changed.before).toEqual(['ask', 'check', 'done']);
    // The path that is compared with stays the one from before the first change.
    expect(entered(changed, ASKED, ['ask', 'check']).before).toEqual(['ask', 'check', 'done']);
    expect(lookAt(two, -3).at).toBe(0);
    expect(lookAt(two, 99).at).toBe(2);
  });

  test('pressing the same again goes on; pressing another begins anew from there', () => {
    const back = lookAt(two, 0);
    expect(pressed(back, 'send', ASKED)).toMatchObject({ at: 1, script: { steps: [{}, {}] } });
    const other = pressed(back, 'discard', {});
    expect(other.script.steps.map(({ handOff }) => handOff)).toEqual(['discard']);
  });

  test('what happens by itself is a step that nobody plays; it comes back from an address as such', () => {
    const passed = passedByClock(begun, 'send');
    expect(passed.script.steps).toEqual([{ handOff: 'send', role: null, byClock: true, entered: {} }]);
    expect(readShared(writeShared(passed) ?? '')?.script).toEqual(passed.script);
    // Again it goes on; pressed by somebody it is another step.
    expect(passedByClock(lookAt(passed, 0), 'send').script.steps).toHaveLength(1);
    expect(passedByClock(lookAt(two, 0), 'send').script.steps).toEqual([expect.objectContaining({ byClock: true })]);
  });

  test('roles are played by step; days and beginnings are set', () => {
    expect(playedBy(two, 'boss', []).role).toBe('boss');
    expect(playedBy(lookAt(two, 1), 'boss', []).script.steps[1]?.role).toBe('boss');
    expect(onDay(two, '2027-01-01').script.today).toBe('2027-01-01');
    expect(begunAt(two, 'check', { thing: 'x' })).toMatchObject({
      script: { at: 'check', start: { thing: 'x' }, steps: [] },
      at: 0,
    });
  });
});

describe('a rehearsal is shared', () => {
  test('it comes back from its address as it was', () => {
    const state = { ...openedScript(two.script), open: { price: null }, role: 'buyer' };
    expect(readShared(writeShared(state) ?? '')).toEqual(state);
  });

  test.each(['', '!!', 'e30', btoa('{"script":{"intake":5},"open":{},"role":null}'), btoa('{"script":null}'), btoa('[1]')])(
    '%s is none',
    (coded) => {
      expect(readShared(coded)).toBeNull();
    },
  );

  test('the record that opened it goes along; what is no record is none', () => {
    const source = {
      ...blankRecord(compiled, 'ask', 'r', null, { id: 'me', name: 'Me', email: null, roles: [] }, OUTSIDE),
      values: { thing: 'Lamp' },
    };
    expect(readShared(writeShared({ ...two, source }) ?? '')?.source).toEqual(source);
    expect(readShared(btoa(JSON.stringify({ script: begun.script, open: {}, role: null, source: { id: 5 } })))).toBeNull();
  });

  test('one that is too long for an address is kept rather than shared', () => {
    expect(writeShared({ ...two, open: { thing: 'x'.repeat(9000) } })).toBeNull();
  });
});
