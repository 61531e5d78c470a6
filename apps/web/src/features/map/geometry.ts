import { assignLanes } from './lanes.ts';
import { type Focus, type Mapped, type Way, waysIn, waysOf } from './ways.ts';

/** Where things stand on the map, in pixels. Stations stand in the middle of their columns, on the line of their first track. */
export type MapGeometry = {
  readonly width: number;
  readonly height: number;
  readonly columnWidth: number;
  readonly xOf: (stage: string) => number;
  readonly yOf: (track: string) => number;
  readonly stationY: (stage: string) => number;
  /** The room above the first track and below the last, in which ways lie. */
  readonly above: number;
  readonly below: number;
};

/** Where stations stand. */
export type Stations = Pick<MapGeometry, 'xOf' | 'stationY'>;

/** A way as it is drawn. */
export type DrawnWay = {
  readonly way: Way;
  readonly d: string;
  /** Where its mark of direction stands, and the way it points, in degrees. */
  readonly mark: { readonly x: number; readonly y: number; readonly turn: number };
  readonly label: { readonly x: number; readonly y: number };
};

/** Between the tracks: few of them have room for their curves, many lie closer together. */
const trackGap = (tracks: number): number => (tracks > 2 ? 42 : 58);
/** Pixels between lanes: as far apart as names over them need, closer where there are many. */
const LANE = 16;
const CLOSE_LANE = 12.5;
const CLOSE_FROM = 4;
const TIGHT_LANE = 9;
/** Room for lanes at most; where there are more, they lie closer together. */
const MAX_ROOM = { above: 8 * CLOSE_LANE, below: 4 * CLOSE_LANE, all: 180 } as const;
const EDGE = 20;
const STATION = 10;
const CORNER = 6;
const PORT = 3.5;
const LETTER = 6.3;

export type MapFrame = { readonly left: number; readonly columnWidth: number; readonly columns: number };

/** Lays the map out over columns. `all` makes room for every way at once. */
export function makeGeometry(workflow: Mapped, { left, columnWidth, columns }: MapFrame, isAll = false): MapGeometry {
  const places = new Map(workflow.stages.map((stage, index) => [stage.key, index]));
  const xOf = (stage: string): number => left + ((places.get(stage) ?? 0) + 0.5) * columnWidth;
  const { forward, back } = isAll ? lanesOfAll(workflow, xOf) : lanesOfAny(workflow, xOf);
  const roomFor = (lanes: number, most: number): number =>
    Math.min(isAll ? MAX_ROOM.all : most, lanes * (isAll ? TIGHT_LANE : lanes > CLOSE_FROM ? CLOSE_LANE : LANE));
  const [above, below] = [EDGE + roomFor(forward, MAX_ROOM.above), EDGE + roomFor(back, MAX_ROOM.below)];
  const gap = trackGap(workflow.tracks.length);
  const tracks = new Map(workflow.tracks.map((track, index) => [track.key, index]));
  const yOf = (track: string): number => above + (tracks.get(track) ?? 0) * gap;
  const firstTrack = new Map(workflow.stages.map((stage) => [stage.key, stage.tracks[0] ?? '']));
  return {
    width: left + columns * columnWidth,
    height: above + (workflow.tracks.length - 1) * gap + below,
    columnWidth,
    xOf,
    yOf,
    stationY: (stage) => yOf(firstTrack.get(stage) ?? ''),
    above,
    below,
  };
}

type Lanes = { readonly forward: number; readonly back: number };

/** How many lanes some ways take on each side. */
function countLanes(ways: readonly Way[], xOf: (stage: string) => number, isTight: boolean): Lanes {
  const count = (own: readonly Way[]): number =>
    own.length === 0
      ? 0
      : Math.max(
          ...assignLanes(
            own.map((way) => stretchOf(way, xOf, isTight)),
            2,
          ),
        ) + 1;
  return {
    forward: count(ways.filter(({ kind }) => kind !== 'return')),
    back: count(ways.filter(({ kind }) => kind === 'return')),
  };
}

const lanesOfAll = (workflow: Mapped, xOf: (stage: string) => number): Lanes =>
  countLanes(waysIn(waysOf(workflow), { kind: 'all' }), xOf, true);

/** Room for the ways of whichever stage is pointed at, so that pointing at one moves nothing. */
function lanesOfAny(workflow: Mapped, xOf: (stage: string) => number): Lanes {
  const ways = waysOf(workflow);
  const needed = workflow.stages.map(({ key }) => countLanes(waysIn(ways, { kind: 'stage', stage: key }), xOf, false));
  const most = (side: keyof Lanes): number => Math.max(0, ...needed.map((one) => one[side]));
  return { forward: most('forward'), back: most('back') };
}

/** The stretch of its lane that a way takes; what is written over it takes room, too. */
function stretchOf({ from, to, name }: Way, xOf: (stage: string) => number, isTight: boolean) {
  const [start, end] = [Math.min(xOf(from), xOf(to)), Math.max(xOf(from), xOf(to))];
  return { start, end: isTight ? end : Math.max(end, start + 14 + name.length * LETTER) };
}

/** The ways that a focus points out, each in a lane of its own: those that go on above the tracks, those that return below. */
export function drawWays(workflow: Mapped, geometry: MapGeometry, focus: Focus | null): readonly DrawnWay[] {
  const shown = waysIn(waysOf(workflow), focus);
  const isTight = focus?.kind === 'all';
  return [
    ...drawSide(
      shown.filter(({ kind }) => kind !== 'return'),
      geometry,
      'above',
      isTight,
    ),
    ...drawSide(
      shown.filter(({ kind }) => kind === 'return'),
      geometry,
      'below',
      isTight,
    ),
  ];
}

function drawSide(ways: readonly Way[], geometry: MapGeometry, side: 'above' | 'below', isTight: boolean): readonly DrawnWay[] {
  const lanes = assignLanes(
    ways.map((way) => stretchOf(way, geometry.xOf, isTight)),
    2,
  );
  const count = Math.max(0, ...lanes) + 1;
  const room = geometry[side] - EDGE;
  const pitch = Math.min(LANE, room / count);
  const edge = side === 'above' ? geometry.above : geometry.height - geometry.below;
  const sign = side === 'above' ? -1 : 1;
  return ways.map((way, index) => {
    const lane = lanes[index] ?? 0;
    return drawWay(way, geometry, edge + sign * (EDGE - 4 + lane * pitch), sign, lane, isTight);
  });
}

/** Up (or down) from the station, along the lane, and down to the other one; outer ways leave further back, so that they cross no inner one. */
function drawWay(way: Way, geometry: MapGeometry, laneY: number, sign: number, lane: number, isTight: boolean): DrawnWay {
  const [x1, x2] = [geometry.xOf(way.from), geometry.xOf(way.to)];
  const direction = x2 > x1 ? 1 : -1;
  const port = isTight ? 0 : -direction * PORT * lane;
  const [start, end] = [x1 + port + direction * 2, x2 - direction * 2];
  const [y1, y2] = [geometry.stationY(way.from) + sign * STATION, geometry.stationY(way.to) + sign * (STATION + 2)];
  const corner = Math.min(CORNER, Math.abs(laneY - y1) / 2, Math.abs(end - start) / 2);
  const bend = sign * corner;
  const d =
    `M${start} ${y1}V${laneY - bend}` +
    `Q${start} ${laneY} ${start + direction * corner} ${laneY}H${end - direction * corner}` +
    `Q${end} ${laneY} ${end} ${laneY - bend}V${y2}`;
  const label = direction > 0 ? { x: start + 9, y: laneY - 5 } : { x: end + 9, y: laneY + 14 };
  return { way, d, mark: { x: end, y: y2, turn: sign < 0 ? 90 : -90 }, label };
}

/** A track's line through its stations; it runs beside the first track where a station belongs to that. */
export function trackPath({ stages }: Pick<Mapped, 'stages'>, geometry: Stations, track: string): string {
  const points = stages
    .filter((stage) => stage.tracks.includes(track))
    .map((stage) => ({
      x: geometry.xOf(stage.key),
      y: geometry.stationY(stage.key) + (stage.tracks[0] === track ? 0 : 4),
    }));
  return points
    .map((point, index) => {
      const before = points[index - 1];
      if (!before) return `M${point.x} ${point.y}`;
      if (before.y === point.y) return `L${point.x} ${point.y}`;
      const bend = Math.min(70, (point.x - before.x) / 2);
      return `L${before.x + 8} ${before.y}C${before.x + bend} ${before.y} ${point.x - bend} ${point.y} ${point.x - 8} ${point.y}L${point.x} ${point.y}`;
    })
    .join('');
}

/** A mark of direction on a track's line, after a station. */
export type TrackMark = { readonly after: string; readonly x: number; readonly y: number };

/** Where a track's line shows its direction: in the middle of each stretch between two of its stations on one level. */
export function trackMarks({ stages }: Mapped, geometry: MapGeometry, track: string): readonly TrackMark[] {
  const own = stages.filter((stage) => stage.tracks.includes(track));
  return own.slice(1).flatMap((stage, index) => {
    const before = own[index];
    if (!before || geometry.stationY(before.key) !== geometry.stationY(stage.key)) return [];
    const y = geometry.stationY(stage.key) + (stage.tracks[0] === track && before.tracks[0] === track ? 0 : 4);
    return before.tracks[0] !== track && stage.tracks[0] !== track
      ? []
      : [{ after: before.key, x: (geometry.xOf(before.key) + geometry.xOf(stage.key)) / 2, y }];
  });
}
