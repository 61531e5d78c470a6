import type { Workflow } from '@ypomet/core';
import { colourOfTrack, type PlanLayout } from './layout.ts';
import classes from './StageMap.module.css';
import type { Selection } from './selection.ts';

type Props = {
  readonly workflow: Workflow;
  readonly layout: PlanLayout;
  readonly selection: Selection;
  readonly onSelect: (selection: Selection) => void;
  /** Stages of the rehearsal's record, the present one last. */
  readonly path: readonly string[];
};

/** The stage map: tracks, stations and branches, standing exactly over the plan's columns. */
export function StageMap({ workflow, layout, selection, onSelect, path }: Props) {
  const here = path.at(-1);
  const all = leaps(workflow, layout);
  // The selected one is drawn last, so that no other runs through its name.
  const isSelected = ({ branch, handOff }: LeapShape): boolean =>
    selection.kind === 'branch' && branch !== null && selection.handOff === handOff && selection.branch === branch;
  return (
    <svg className={classes.map} width={layout.width} height={layout.mapHeight} role="group" aria-label="Stage map">
      {workflow.stages.map((stage) => (
        <line
          key={stage.key}
          className={classes.guide}
          x1={layout.xOf(stage.key)}
          x2={layout.xOf(stage.key)}
          y1={layout.stationY(stage.key)}
          y2={layout.mapHeight}
        />
      ))}
      {workflow.tracks.map((track) => (
        <g key={track.key}>
          <path
            d={trackPath(workflow, layout, track.key)}
            className={classes.track}
            stroke={colourOfTrack(workflow, track.key)}
          />
          <text x={16} y={layout.yOf(track.key) + 4} className={classes.trackName} fill={colourOfTrack(workflow, track.key)}>
            {track.name}
          </text>
        </g>
      ))}
      {[...all.filter((leap) => !isSelected(leap)), ...all.filter(isSelected)].map((leap) => (
        <Leap key={leap.id} leap={leap} isSelected={isSelected(leap)} onSelect={onSelect} />
      ))}
      {workflow.stages.map((stage) => {
        const [x, y] = [layout.xOf(stage.key), layout.stationY(stage.key)];
        const colour = colourOfTrack(workflow, stage.tracks[0] ?? '');
        const role = workflow.roles.find((own) => own.key === stage.roles[0])?.name;
        return (
          <g key={stage.key}>
            {stage.kind === 'end' ? (
              <rect x={x - 7} y={y - 7} width={14} height={14} className={classes.station} stroke={colour} />
            ) : stage.kind === 'junction' ? (
              <path d={`M${x} ${y - 9}L${x + 9} ${y}L${x} ${y + 9}L${x - 9} ${y}Z`} className={classes.station} stroke={colour} />
            ) : (
              <circle cx={x} cy={y} r={7.5} className={classes.station} stroke={colour} />
            )}
            {stage.key === here && <circle cx={x} cy={y} r={3} fill={colour} />}
            <text x={x} y={y + 22} className={classes.role}>
              {role ?? (stage.kind === 'intake' ? 'Anybody' : '')}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

/** A track's line through its stages; it runs beside the first track where a station belongs to that. */
function trackPath(workflow: Workflow, layout: PlanLayout, track: string): string {
  const stages = workflow.stages.filter((stage) => stage.tracks.includes(track));
  const points = stages.map((stage) => {
    const own = stage.tracks[0] === track;
    return { x: layout.xOf(stage.key), y: layout.stationY(stage.key) + (own ? 0 : 4) };
  });
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

type LeapShape = {
  readonly id: string;
  readonly handOff: string;
  readonly branch: string | null;
  readonly label: string;
  readonly d: string;
  readonly isBack: boolean;
  readonly x: number;
  readonly y: number;
};

/** Branches that don't simply lead to the next station of a track: drawn as arcs. */
function leaps(workflow: Workflow, layout: PlanLayout): readonly LeapShape[] {
  const order = new Map(workflow.stages.map((stage, index) => [stage.key, index]));
  return workflow.handOffs.flatMap((handOff) => {
    const ways = [
      ...handOff.branches.map((branch) => ({ key: branch.key as string | null, name: branch.name, to: branch.to })),
      ...(handOff.otherwise ? [{ key: null, name: 'otherwise', to: handOff.otherwise.to }] : []),
    ];
    return ways.flatMap(({ key, name, to }) => {
      const [from, target] = [order.get(handOff.from), order.get(to)];
      if (from === undefined || target === undefined || from === target) return [];
      const [x1, y1, x2, y2] = [layout.xOf(handOff.from), layout.stationY(handOff.from), layout.xOf(to), layout.stationY(to)];
      const isBack = target < from;
      const distance = Math.abs(target - from);
      const top = Math.max(14, Math.min(y1, y2) - 16 - distance * 9);
      const low = Math.max(y1, y2) + 16 + distance * 5;
      const reach = isBack ? low : top;
      const inset = (x2 - x1) * 0.18;
      return [
        {
          id: `${handOff.key}/${key ?? 'otherwise'}`,
          handOff: handOff.key,
          branch: key,
          isBack,
          label: `${handOff.name}: ${name}`,
          d: `M${x1} ${y1}C${x1 + inset} ${reach} ${x2 - inset} ${reach} ${x2} ${y2}`,
          x: (x1 + x2) / 2,
          y: (y1 + y2) / 2 + (reach - (y1 + y2) / 2) * 0.75 - 7,
        },
      ];
    });
  });
}

function Leap({
  leap,
  isSelected,
  onSelect,
}: {
  readonly leap: LeapShape;
  readonly isSelected: boolean;
  readonly onSelect: (selection: Selection) => void;
}) {
  const { branch } = leap;
  const select = branch === null ? undefined : () => onSelect({ kind: 'branch', handOff: leap.handOff, branch });
  return (
    // The inspector lists every branch as a button: this is the pointer's shortcut to the same.
    <g
      className={classes.leap}
      data-selected={isSelected || undefined}
      data-back={leap.isBack || undefined}
      data-branch={branch !== null || undefined}
      {...(select ? { onClick: select } : {})}
    >
      <title>{leap.label}</title>
      {branch !== null && <path d={leap.d} className={classes.grip} />}
      <path d={leap.d} className={classes.arc} />
      {isSelected && (
        <text x={leap.x} y={leap.y} className={classes.leapName}>
          {leap.label.split(': ')[1]}
        </text>
      )}
    </g>
  );
}
