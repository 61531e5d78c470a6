import type { Workflow } from '@ypomet/core';
import classes from './StageMap.module.css';

type Kind = Workflow['stages'][number]['kind'];

/** A station's mark: a ring with a core where records begin, a ring for work, a diamond that nobody stops at, a square at the end. */
export function Station({
  kind,
  x,
  y,
  colour,
  isHere,
  scale = 1,
}: {
  readonly kind: Kind;
  readonly x: number;
  readonly y: number;
  readonly colour: string;
  /** Whether the record that is shown stands here. */
  readonly isHere: boolean;
  readonly scale?: number;
}) {
  return (
    <g {...(scale === 1 ? {} : { transform: `translate(${x} ${y}) scale(${scale}) translate(${-x} ${-y})` })}>
      {kind === 'end' ? (
        <rect x={x - 7} y={y - 7} width={14} height={14} className={classes.station} stroke={colour} />
      ) : kind === 'junction' ? (
        <path d={`M${x} ${y - 9}L${x + 9} ${y}L${x} ${y + 9}L${x - 9} ${y}Z`} className={classes.station} stroke={colour} />
      ) : (
        <circle cx={x} cy={y} r={7.5} className={classes.station} stroke={colour} />
      )}
      {kind === 'intake' && !isHere && <circle cx={x} cy={y} r={2.6} fill={colour} />}
      {isHere && <circle cx={x} cy={y} r={4.5} className={classes.here} />}
    </g>
  );
}
