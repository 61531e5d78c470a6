import { describe, expect, test } from '@jest/globals';
import { realSizeWorkflow } from '@ypomet/testkit/real-size';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import fc from 'fast-check';
import { drawWays, makeGeometry, trackMarks, trackPath } from './geometry.ts';
import { assignLanes } from './lanes.ts';
import { colourOfTrack, TRACK_COLOURS } from './track-colours.ts';
import { stationNear } from './use-drawing.ts';
import { countHidden, type Mapped, waysIn, waysOf } from './ways.ts';

const stage = (key: string, tracks: readonly string[], kind = 'work') => ({ key, name: key, kind, tracks, roles: [] });
const handOff = (key: string, from: string, ways: readonly string[], otherwise: string | null) => ({
  key,
  name: `Press ${key}`,
  from,
  branches: ways.map((to, index) => ({ key: `b${index}`, name: `to ${to}`, to })),
  otherwise: otherwise === null ? null : { to: otherwise },
});
/** Five stages in a line, of which one lies on a track beside it. */
const small = {
  tracks: [
    { key: 'main', name: 'Main' },
    { key: 'side', name: 'Side' },
  ],
  stages: [
    stage('ask', ['main'], 'intake'),
    stage('check', ['main', 'side']),
    stage('look', ['main']),
    stage('visit', ['side']),
    stage('done', ['main', 'side'], 'end'),
  ],
  handOffs: [
    handOff('send', 'ask', [], 'check'),
    handOff('decide', 'check', ['look', 'visit'], 'done'),
    handOff('back', 'look', [], 'ask'),
    handOff('save', 'look', [], 'look'),
    handOff('pass', 'look', [], 'done'),
  ],
} as unknown as Mapped;
const frame = (workflow: Mapped) => ({ left: 200, columnWidth: 100, columns: workflow.stages.length + 1 });

describe('ways', () => {
  test('along a track, forward, or back; what leads to its own stage is none', () => {
    expect(waysOf(small).map(({ id, name, kind }) => `${id} ${name}: ${kind}`)).toEqual([
      'send/otherwise Press send: along',
      'decide/b0 to look: along',
      'decide/b1 to visit: along',
      'decide/otherwise otherwise: forward',
      'back/otherwise Press back: return',
      'pass/otherwise Press pass: along',
    ]);
  });

  test('at rest none is pointed out; their stages tell how many there are', () => {
    const ways = waysOf(small);
    expect(waysIn(ways, null)).toEqual([]);
    expect([...countHidden(ways)]).toEqual([
      ['check', { forward: 1, back: 0 }],
      ['look', { forward: 0, back: 1 }],
    ]);
  });

  test('a stage shows what leaves it and what comes back to it; a hand-off all of its ways', () => {
    const ids = (focus: Parameters<typeof waysIn>[1]) => waysIn(waysOf(small), focus).map(({ id }) => id);
    expect(ids({ kind: 'stage', stage: 'ask' })).toEqual(['send/otherwise', 'back/otherwise']);
    expect(ids({ kind: 'hand-off', handOff: 'decide', branch: 'b1' })).toEqual(['decide/b0', 'decide/b1', 'decide/otherwise']);
    expect(ids({ kind: 'all' })).toEqual(['decide/otherwise', 'back/otherwise']);
  });
});

test('no two stretches of a lane lie on each other, and short ones lie inside of long ones', () => {
  const stretches = fc.array(
    fc.tuple(fc.nat(100), fc.integer({ min: 1, max: 60 })).map(([start, length]) => ({ start, end: start + length })),
    { maxLength: 60 },
  );
  fc.assert(
    fc.property(stretches, fc.nat(3), (list, gap) => {
      const lanes = assignLanes(list, gap);
      list.forEach((one, a) => {
        list.forEach((other, b) => {
          if (a >= b || lanes[a] !== lanes[b]) return;
          expect(one.end + gap <= other.start || other.end + gap <= one.start).toBe(true);
        });
        // Whatever holds it up from a lower lane is no longer than it is.
        for (let lower = 0; lower < (lanes[a] ?? 0); lower++)
          expect(list.some((other, b) => lanes[b] === lower && other.end - other.start <= one.end - one.start)).toBe(true);
      });
    }),
  );
});

describe('the drawing', () => {
  const geometry = makeGeometry(small, frame(small));

  test('stations stand in the middle of their columns, tracks one under the other', () => {
    small.stages.forEach(({ key }, index) => {
      expect(geometry.xOf(key)).toBe(200 + (index + 0.5) * 100);
    });
    expect(geometry.yOf('side')).toBeGreaterThan(geometry.yOf('main'));
    expect(geometry.stationY('visit')).toBe(geometry.yOf('side'));
    expect(geometry.stationY('check')).toBe(geometry.yOf('main'));
    expect(geometry.height).toBeGreaterThan(geometry.yOf('side'));
  });

  test('a way goes up, along its lane, and down to where it leads, where its mark points; a return goes below', () => {
    const [out] = drawWays(small, geometry, { kind: 'hand-off', handOff: 'back' });
    if (!out) throw new Error('no way');
    expect(out.mark.turn).toBe(-90);
    expect(out.mark.y).toBeGreaterThan(geometry.stationY('ask'));
    expect(Math.abs(out.mark.x - geometry.xOf('ask'))).toBeLessThan(10);
    const forward = drawWays(small, geometry, { kind: 'hand-off', handOff: 'decide', branch: null });
    expect(forward.every(({ mark }) => mark.turn === 90)).toBe(true);
    expect(new Set(forward.map(({ label }) => label.y)).size).toBe(3);
    for (const { label, mark } of [out, ...forward]) {
      expect(label.y).toBeGreaterThan(0);
      expect(Math.max(label.y, mark.y)).toBeLessThan(geometry.height);
    }
  });

  test('pointing at a stage moves nothing: the room is there before', () => {
    for (const { key } of small.stages)
      for (const { label } of drawWays(small, geometry, { kind: 'stage', stage: key })) {
        expect(label.y).toBeGreaterThan(6);
        expect(label.y).toBeLessThan(geometry.height);
      }
  });

  test('all ways of a workflow of sixty stages have lanes of their own', () => {
    const large = realSizeWorkflow();
    const wide = makeGeometry(large, frame(large), true);
    const drawn = drawWays(large, wide, { kind: 'all' });
    expect(drawn.length).toBe(waysIn(waysOf(large), { kind: 'all' }).length);
    expect(drawn.length).toBeGreaterThan(60);
    const taken = drawn.map(({ way, d }) => {
      const ends = [wide.xOf(way.from), wide.xOf(way.to)];
      return { start: Math.min(...ends), end: Math.max(...ends), lane: `${way.kind === 'return'} ${/Q\S+ (\S+)/.exec(d)?.[1]}` };
    });
    taken.forEach((one, a) => {
      taken.slice(a + 1).forEach((other) => {
        if (one.lane === other.lane) expect(one.end <= other.start || other.end <= one.start).toBe(true);
      });
    });
  });

  test('a track leads through its stations, beside another where it shares one, and shows its direction', () => {
    const workflow = sampleWorkflow();
    const own = makeGeometry(workflow, frame(workflow));
    for (const { key } of workflow.tracks) expect(trackPath(workflow, own, key)).toMatch(/^M/);
    expect(trackPath(small, geometry, 'side')).toContain('C');
    expect(trackMarks(small, geometry, 'main').length).toBe(3);
    for (const { x } of trackMarks(small, geometry, 'main')) expect(x).toBeGreaterThan(200);
  });
});

test('each track has its colour; colours come round again', () => {
  const tracks = ['a', 'b', 'c', 'd', 'e'].map((key) => ({ key, name: key, notes: '' }));
  expect(colourOfTrack({ tracks }, 'b')).toBe(TRACK_COLOURS[1]);
  expect(colourOfTrack({ tracks }, 'e')).toBe(TRACK_COLOURS[0]);
  expect(colourOfTrack({ tracks }, 'nowhere')).toBe(TRACK_COLOURS[0]);
});

test('a point near a station is at it; a point between is nowhere', () => {
  const geometry = makeGeometry(small, { left: 200, columnWidth: 90, columns: small.stages.length });
  const [first] = small.stages;
  const at = { x: geometry.xOf(first?.key ?? ''), y: geometry.stationY(first?.key ?? '') };
  expect(stationNear(small, geometry, at)).toBe(first?.key);
  expect(stationNear(small, geometry, { x: at.x + 20, y: at.y - 20 })).toBe(first?.key);
  expect(stationNear(small, geometry, { x: at.x + 45, y: at.y })).toBeNull();
});
