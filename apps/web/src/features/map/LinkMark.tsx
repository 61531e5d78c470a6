import type { MapGeometry } from './geometry.ts';
import type { MapLink } from './links.ts';
import classes from './StageMap.module.css';

const FAR = 22;
const SIDE = 5;

/**
 * Says that records of other workflows are opened at a stage, below it, or that others open its own, before it. Their names
 * appear when the stage is pointed at.
 */
export function LinkMark({
  links,
  geometry,
  isShown,
  onWorkflow,
}: {
  /** Those of one stage and kind. */
  readonly links: readonly MapLink[];
  readonly geometry: MapGeometry;
  readonly isShown: boolean;
  readonly onWorkflow: ((workflow: string) => void) | undefined;
}) {
  const [first] = links;
  if (!first) return null;
  const [x, y] = [geometry.xOf(first.stage), geometry.stationY(first.stage)];
  const isOut = first.kind === 'opens';
  // Out to the lower right, in from the upper left: neither lies on a track or under the stubs of further ways.
  const sign = isOut ? 1 : -1;
  const [atX, atY] = [x + sign * FAR * 0.9, y + sign * FAR];
  const names = links.map(({ name }) => name).join(', ');
  const words = isOut ? `Opens ${names}` : `Opened by ${names}`;
  return (
    // The inspector and the consequences have the same as links: this is the pointer's shortcut.
    <g
      className={classes.link}
      data-can={onWorkflow !== undefined || undefined}
      {...(onWorkflow ? { onClick: () => onWorkflow(first.workflow) } : {})}
    >
      <title>{words}</title>
      <path d={`M${x + sign * 9} ${y + sign * 9}L${atX - sign * 3} ${atY - sign * 4}`} />
      <rect x={atX - SIDE} y={atY - SIDE} width={2 * SIDE} height={2 * SIDE} />
      {links.length > 1 && !isShown && (
        <text x={atX + SIDE + 4} y={atY + 4}>
          {links.length}
        </text>
      )}
      {isShown && (
        <text x={isOut ? atX + SIDE + 4 : atX - SIDE - 4} y={atY + 4} textAnchor={isOut ? 'start' : 'end'}>
          {names}
        </text>
      )}
    </g>
  );
}
