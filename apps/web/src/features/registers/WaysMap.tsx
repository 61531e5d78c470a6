import type { RegisterDocument, Watching } from '@ypomet/contract';
import { Station } from '../map/Station.tsx';
import { colourOfTrack } from '../map/track-colours.ts';
import classes from './Watching.module.css';

const [WIDTH, EDGE, MOST_BOW] = [1200, 60, 126];
/** Room for the names of stages, and their counts. */
const NAMES = 52;
const [LEAST, MOST] = [1.5, 12];
/** How far a way bows out for each stage that it passes. */
const BOW = 17;
/** A cubic curve comes three quarters of the way to its handles. */
const CURVE = 4 / 3;

type Props = { readonly register: RegisterDocument; readonly watching: Watching };

/** The ways that records took, the wider the more often: onwards above the line of stages, back below it; designed ways that none took, dotted. */
export function WaysMap({ register: { definition }, watching: { ways, stages } }: Props) {
  const shown = definition.stages.filter(({ kind }) => kind !== 'junction');
  const span = (WIDTH - 2 * EDGE) / Math.max(1, shown.length - 1);
  const xOf = new Map(shown.map(({ key }, index) => [key, EDGE + index * span]));
  const nameOf = new Map(shown.map(({ key, name }) => [key, name]));
  const waiting = new Map(stages.map((one) => [one.stage, one.waiting]));
  const most = Math.max(1, ...ways.map(({ times }) => times));
  const drawn = ways.flatMap((way) => {
    const [from, to] = [xOf.get(way.from), xOf.get(way.to)];
    if (from === undefined || to === undefined || from === to) return [];
    const bow = Math.min(MOST_BOW, BOW * (Math.abs(to - from) / span) + 14);
    return [{ ...way, ends: [from, to] as const, bow: to > from ? -bow : bow }];
  });
  const line = MOST + 10 - Math.min(0, ...drawn.map(({ bow }) => bow));
  const bottom = line + Math.max(14, ...drawn.map(({ bow }) => bow)) + NAMES;
  const pathOf = ({ ends: [from, to], bow }: (typeof drawn)[number]): string =>
    `M ${from} ${line} C ${from} ${line + bow * CURVE}, ${to} ${line + bow * CURVE}, ${to} ${line}`;
  const text = (way: Watching['ways'][number]): string =>
    `${nameOf.get(way.from) ?? way.from} to ${nameOf.get(way.to) ?? way.to}: ${way.times === 0 ? 'never' : `${way.times} times`}${way.isDesigned ? '' : ', no way of the newest version'}`;
  return (
    <svg className={classes.ways} viewBox={`0 0 ${WIDTH} ${bottom}`} role="img" aria-label="Ways that records took">
      {drawn.map((way) => (
        <path
          key={`${way.from} ${way.to}`}
          d={pathOf(way)}
          className={way.times === 0 ? classes.untaken : classes.taken}
          data-strange={!way.isDesigned || undefined}
          strokeWidth={way.times === 0 ? 1.5 : LEAST + Math.sqrt(way.times / most) * (MOST - LEAST)}
        >
          <title>{text(way)}</title>
        </path>
      ))}
      {shown.map(({ key, name, kind, tracks }) => {
        const x = xOf.get(key) ?? 0;
        const count = waiting.get(key) ?? 0;
        return (
          <g key={key}>
            <Station kind={kind} x={x} y={line} colour={colourOfTrack(definition, tracks[0] ?? '')} isHere={false} scale={1} />
            <text x={x} y={bottom - 22} className={classes.stageName}>
              {name.length > 17 ? `${name.slice(0, 16)}…` : name}
            </text>
            <text x={x} y={bottom - 6} className={classes.stageCount}>
              {count > 0 ? `${count} here` : ''}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
