import { type Stations, trackPath } from './geometry.ts';
import classes from './MiniMap.module.css';
import { Station } from './Station.tsx';
import { colourOfTrack } from './track-colours.ts';
import type { Mapped } from './ways.ts';

const GAP = 24;
const EDGE = 14;
const BARS = 44;
const [LEAST_BAR, MOST_BAR] = [2, 20];

type Props = {
  readonly workflow: Pick<Mapped, 'stages' | 'tracks'>;
  readonly width: number;
  /** How many records wait at a stage; without it no bars are drawn. */
  readonly waiting?: (stage: string) => number;
  /** The stage a record is at, and those it came through. */
  readonly path?: readonly string[];
  /** What it says to those who can't see it. */
  readonly label: string;
};

/** A workflow's map, small: its tracks and stations, what waits where, or where a record is. */
export function MiniMap({ workflow, width, waiting, path = [], label }: Props) {
  const { stages, tracks } = workflow;
  const top = waiting ? BARS : EDGE;
  const places = new Map(stages.map(({ key }, index) => [key, index]));
  const rows = new Map(tracks.map(({ key }, index) => [key, index]));
  const span = (width - 2 * EDGE) / Math.max(1, stages.length - 1);
  const stations: Stations = {
    xOf: (stage) => EDGE + (places.get(stage) ?? 0) * span,
    stationY: (stage) => top + (rows.get(stages[places.get(stage) ?? 0]?.tracks[0] ?? '') ?? 0) * GAP,
  };
  const most = Math.max(1, ...stages.map(({ key }) => waiting?.(key) ?? 0));
  const visited = new Set(path);
  const here = path.at(-1);
  return (
    <svg className={classes.map} width={width} height={top + (tracks.length - 1) * GAP + EDGE} role="img" aria-label={label}>
      {tracks.map(({ key }) => (
        <path key={key} d={trackPath(workflow, stations, key)} className={classes.track} stroke={colourOfTrack(workflow, key)} />
      ))}
      {stages.map(({ key, name, kind, tracks: own }) => {
        const [x, y] = [stations.xOf(key), stations.stationY(key)];
        const count = waiting?.(key) ?? 0;
        const height = count === 0 ? 0 : LEAST_BAR + (count / most) * (MOST_BAR - LEAST_BAR);
        return (
          <g key={key}>
            <title>{count > 0 ? `${name}: ${count}` : name}</title>
            {visited.has(key) && <circle cx={x} cy={y} r={12} className={classes.visited} />}
            <Station kind={kind} x={x} y={y} colour={colourOfTrack(workflow, own[0] ?? '')} isHere={key === here} scale={0.75} />
            {count > 0 && (
              <>
                <rect x={x - 4} y={y - 9 - height} width={8} height={height} className={classes.bar} />
                <text x={x} y={y - 12 - height} className={classes.count}>
                  {count}
                </text>
              </>
            )}
          </g>
        );
      })}
    </svg>
  );
}
