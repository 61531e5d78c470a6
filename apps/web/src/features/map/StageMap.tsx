import { type KeyboardEvent, memo, useState } from 'react';
import { type DrawnWay, drawWays, type MapGeometry, type TrackMark, trackMarks, trackPath } from './geometry.ts';
import { LinkMark } from './LinkMark.tsx';
import type { MapLink } from './links.ts';
import classes from './StageMap.module.css';
import { Station } from './Station.tsx';
import { colourOfTrack } from './track-colours.ts';
import { type OnDraw, useDrawing } from './use-drawing.ts';
import { countHidden, type Focus, type Mapped, waysOf } from './ways.ts';

type Props = {
  readonly workflow: Mapped;
  readonly geometry: MapGeometry;
  /** What is pointed out while the pointer is elsewhere. */
  readonly focus: Focus | null;
  /** Stages that a record has been at, the present one last; empty where no record is shown. */
  readonly path: readonly string[];
  /** Where the record would go next, drawn dotted; null where that isn't known. */
  readonly next?: string | null;
  /** Stages that are pointed out. */
  readonly lit?: ReadonlySet<string> | undefined;
  /** What a click or Enter on a station says to those who can't see it, such as "Rehearse at". */
  readonly verb: string;
  readonly onStage: (stage: string) => void;
  readonly onWay?: ((way: DrawnWay['way']) => void) | undefined;
  /** When a way is taken, in a sentence; null where there is nothing to say. */
  readonly sayWay?: ((way: DrawnWay['way']) => string | null) | undefined;
  /** Other workflows whose records are opened here, or that open records of this one. */
  readonly links?: readonly MapLink[] | undefined;
  /** Another workflow is wanted. */
  readonly onWorkflow?: ((workflow: string) => void) | undefined;
  /** A way was drawn from a station to another, which stands at the point. */
  readonly onDraw?: OnDraw | undefined;
  /** A stage is to be put into the line, after another. */
  readonly onInsert?: ((after: string) => void) | undefined;
  /** A stage is to go a column on or back, or a track up or down. */
  readonly onMove?: ((stage: string, along: 'column' | 'track', by: -1 | 1) => void) | undefined;
};

const NO_LINKS: readonly MapLink[] = [];

/** From one station to another, leaving and reaching both along their tracks. */
function nextPath({ xOf, stationY }: MapGeometry, from: string, to: string): string {
  const [x, y, toX, toY] = [xOf(from), stationY(from), xOf(to), stationY(to)];
  const middle = (x + toX) / 2;
  return `M${x} ${y}C${middle} ${y} ${middle} ${toY} ${toX} ${toY}`;
}

/**
 * The stage map. At rest it shows the tracks, and a stub with a count for the ways that leave them; the ways of a stage appear when
 * it is pointed at, each in a lane of its own: what goes on above, what returns below. Marks tell the direction.
 */
export const StageMap = memo(function StageMap(props: Props) {
  const { workflow, geometry, focus, path, next = null, lit, verb, onStage, onWay, sayWay, onDraw, onInsert, onMove } = props;
  const { links = NO_LINKS, onWorkflow } = props;
  const [pointed, setPointed] = useState<string | null>(null);
  const shown: Focus | null = focus?.kind === 'all' ? focus : pointed ? { kind: 'stage', stage: pointed } : focus;
  const drawn = drawWays(workflow, geometry, shown);
  const hidden = countHidden(waysOf(workflow));
  const visited = new Set(path);
  const here = path.at(-1);
  const { drawing, pointer, onKey: onDrawingKey, onReach, wasDragged } = useDrawing(workflow, geometry, onDraw);
  const onKey = (event: KeyboardEvent<SVGGElement>, index: number): void => {
    const stage = workflow.stages[index]?.key ?? '';
    const moving = event.altKey && onMove ? MOVES[event.key] : undefined;
    const to = { ArrowRight: index + 1, ArrowLeft: index - 1, Home: 0, End: workflow.stages.length - 1 }[event.key];
    if (onDrawingKey(event, stage)) event.stopPropagation();
    else if (moving) onMove?.(stage, ...moving);
    else if (event.key === 'Insert' && onInsert) onInsert(stage);
    else if (event.key === 'Enter' || event.key === ' ') onStage(stage);
    else if (to === undefined) return;
    else event.currentTarget.ownerSVGElement?.querySelector<SVGGElement>(`[data-station="${to}"]`)?.focus();
    event.preventDefault();
  };
  return (
    <>
      <span className={classes.spoken} role="status">
        {drawing &&
          (drawing.to
            ? `From ${nameOf(workflow, drawing.from)} to ${nameOf(workflow, drawing.to)}`
            : `From ${nameOf(workflow, drawing.from)} to which stage?`)}
      </span>
      <svg
        className={classes.map}
        width={geometry.width}
        height={geometry.height}
        role="group"
        aria-label="Stage map"
        data-focus={shown ? shown.kind : undefined}
      >
        {workflow.tracks.map((track) => (
          <g key={track.key} className={classes.line} stroke={colourOfTrack(workflow, track.key)}>
            <path d={trackPath(workflow, geometry, track.key)} className={classes.track} />
            {trackMarks(workflow, geometry, track.key).map((mark) => (
              <Bead key={mark.x} mark={mark} stages={workflow.stages} onInsert={onInsert} />
            ))}
          </g>
        ))}
        {shown?.kind !== 'all' &&
          workflow.stages.map(({ key }) => {
            const ways = hidden.get(key);
            if (!ways || drawn.some(({ way }) => way.from === key)) return null;
            return <Stub key={key} x={geometry.xOf(key)} y={geometry.stationY(key)} {...ways} />;
          })}
        {next !== null && here !== undefined && next !== here && (
          <path className={classes.next} d={nextPath(geometry, here, next)} />
        )}
        {drawing && (
          <path
            className={classes.drawing}
            data-reached={drawing.to !== null || undefined}
            d={`M${geometry.xOf(drawing.from)} ${geometry.stationY(drawing.from)}L${drawing.x} ${drawing.y}`}
          />
        )}
        {drawn.map((one) => (
          <WayView key={one.way.id} drawn={one} focus={shown} onWay={onWay} sayWay={sayWay} />
        ))}
        {workflow.stages.map(({ key }) =>
          (['opened-by', 'opens'] as const).map((kind) => (
            <LinkMark
              key={`${key} ${kind}`}
              links={links.filter((link) => link.stage === key && link.kind === kind)}
              geometry={geometry}
              isShown={shown?.kind === 'stage' && shown.stage === key}
              onWorkflow={onWorkflow}
            />
          )),
        )}
        {workflow.stages.map((stage, index) => {
          const [x, y] = [geometry.xOf(stage.key), geometry.stationY(stage.key)];
          const ways = hidden.get(stage.key);
          return (
            <g
              key={stage.key}
              role="button"
              tabIndex={index === 0 ? 0 : -1}
              aria-label={`${verb} ${stage.name}${ways ? `, ${ways.forward + ways.back} further ways` : ''}`}
              aria-current={stage.key === here ? 'step' : undefined}
              data-station={index}
              data-visited={visited.has(stage.key) || undefined}
              data-lit={lit?.has(stage.key) || undefined}
              data-focused={(shown?.kind === 'stage' && shown.stage === stage.key) || undefined}
              className={classes.stop}
              onPointerEnter={() => setPointed(stage.key)}
              onPointerLeave={() => setPointed(null)}
              data-target={drawing?.to === stage.key || undefined}
              {...pointer(stage.key)}
              onFocus={() => {
                setPointed(stage.key);
                onReach(stage.key);
              }}
              onBlur={() => setPointed(null)}
              onClick={() => wasDragged() || onStage(stage.key)}
              onKeyDown={(event) => onKey(event, index)}
            >
              <title>{stage.name}</title>
              <circle cx={x} cy={y} r={15} className={classes.halo} />
              <Station
                kind={stage.kind}
                x={x}
                y={y}
                colour={colourOfTrack(workflow, stage.tracks[0] ?? '')}
                isHere={stage.key === here}
              />
            </g>
          );
        })}
      </svg>
    </>
  );
});

const nameOf = ({ stages }: Mapped, stage: string): string => stages.find(({ key }) => key === stage)?.name ?? stage;

const MOVES: Readonly<Record<string, readonly ['column' | 'track', -1 | 1]>> = {
  ArrowLeft: ['column', -1],
  ArrowRight: ['column', 1],
  ArrowUp: ['track', -1],
  ArrowDown: ['track', 1],
};

/** Tells a track's direction. Where stages can be put into the line, it becomes a plus under the pointer; at a station, the key Insert does it. */
function Bead({
  mark: { x, y, after },
  stages,
  onInsert,
}: {
  readonly mark: TrackMark;
  readonly stages: Mapped['stages'];
  readonly onInsert: Props['onInsert'];
}) {
  const chevron = <path d={`M${x - 3} ${y - 6}L${x + 3} ${y}L${x - 3} ${y + 6}`} className={classes.bead} />;
  if (!onInsert) return chevron;
  return (
    // The key Insert at the station does the same: this is the pointer's shortcut.
    <g className={classes.insert} {...{ onClick: () => onInsert(after) }}>
      <title>Insert a stage after {stages.find(({ key }) => key === after)?.name ?? after}</title>
      <circle cx={x} cy={y} r={11} className={classes.grip} />
      {chevron}
      <path d={`M${x - 5} ${y}H${x + 5}M${x} ${y - 5}V${y + 5}`} className={classes.plus} />
    </g>
  );
}

/** Says that more ways leave a station than its track shows. */
function Stub({
  x,
  y,
  forward,
  back,
}: {
  readonly x: number;
  readonly y: number;
  readonly forward: number;
  readonly back: number;
}) {
  return (
    <g className={classes.stub}>
      {forward > 0 && (
        <>
          <path d={`M${x} ${y - 10}V${y - 22}`} />
          <text x={x + 5} y={y - 15}>
            +{forward}
          </text>
        </>
      )}
      {back > 0 && <path d={`M${x - 4} ${y + 10}V${y + 20}`} data-back="" />}
    </g>
  );
}

function WayView({
  drawn: { way, d, mark, label },
  focus,
  onWay,
  sayWay,
}: {
  readonly drawn: DrawnWay;
  readonly focus: Focus | null;
  readonly onWay: Props['onWay'];
  readonly sayWay: Props['sayWay'];
}) {
  const isChosen = focus?.kind === 'hand-off' && focus.branch !== undefined && way.branch === focus.branch;
  return (
    // The inspector lists every way as a button: this is the pointer's shortcut to the same.
    <g
      className={classes.way}
      data-kind={way.kind}
      data-chosen={isChosen || undefined}
      data-can={onWay !== undefined || undefined}
      {...(onWay ? { onClick: () => onWay(way) } : {})}
    >
      <title>{[way.name, sayWay?.(way)].filter(Boolean).join(': ')}</title>
      {onWay && <path d={d} className={classes.grip} />}
      <path d={d} className={classes.lane} />
      <path d="M-5 -4L0 0L-5 4" className={classes.head} transform={`translate(${mark.x} ${mark.y}) rotate(${mark.turn})`} />
      {focus?.kind !== 'all' && (
        <text x={label.x} y={label.y} className={classes.wayName}>
          {way.name}
        </text>
      )}
    </g>
  );
}
