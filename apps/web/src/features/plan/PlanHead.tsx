import { ActionIcon, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { type Edit, findHandOff, type Workflow } from '@ypomet/core';
import { type Ref, type RefObject, useCallback, useMemo, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';
import { sayExpression } from '../conditions/in-words.ts';
import { useWording } from '../conditions/use-place.ts';
import { workflowsQuery } from '../drafts/queries.ts';
import { makeGeometry } from '../map/geometry.ts';
import { linksOf } from '../map/links.ts';
import { MapOverview } from '../map/MapOverview.tsx';
import { StageMap } from '../map/StageMap.tsx';
import { colourOfTrack } from '../map/track-colours.ts';
import type { Point } from '../map/use-drawing.ts';
import type { Focus, Way } from '../map/ways.ts';
import { DrawnWayMenu } from './DrawnWayMenu.tsx';
import { type PlanLayout, type Zoom, zoomBy } from './layout.ts';
import classes from './PlanHead.module.css';
import { moveStage, moveStageBy, moveToTrack, stageAfter } from './panels/new-parts.ts';
import { StageHeads } from './StageHeads.tsx';
import type { Selection } from './selection.ts';

type Props = {
  readonly workflow: Workflow;
  readonly layout: PlanLayout;
  /** What scrolls below it, and how much of that is in view. */
  readonly scroller: RefObject<HTMLDivElement | null>;
  readonly width: number;
  readonly path: readonly string[];
  /** Stages at which what is selected is read. */
  readonly lit: ReadonlySet<string>;
  readonly selection: Selection;
  readonly onSelect: (selection: Selection) => void;
  /** Whether it was applied. */
  readonly onEdit: (edit: Edit) => boolean;
  readonly onZoom: (zoom: Zoom) => void;
  readonly find: string;
  readonly onFind: (text: string) => void;
  readonly ref: Ref<HTMLDivElement>;
};

type Drawn = { readonly from: string; readonly to: string; readonly at: Point };

/** What stays over the plan while it scrolls: the map, drawn over the columns, and the names of the stages. */
export function PlanHead(props: Props) {
  const { workflow, layout, scroller, width, path, lit, selection, onSelect, onEdit, onZoom, find, onFind, ref } = props;
  const { stages, tracks, handOffs, roles } = workflow;
  const drawn = useMemo(() => ({ stages, tracks, handOffs }), [stages, tracks, handOffs]);
  const [isAll, setAll] = useState(false);
  const [way, setWay] = useState<Drawn | null>(null);
  const geometry = useMemo(
    () => makeGeometry(drawn, { left: layout.labelWidth, columnWidth: layout.columnWidth, columns: layout.columns }, isAll),
    [drawn, layout, isAll],
  );
  const focus = useMemo(() => (isAll ? ({ kind: 'all' } as const) : focusOf(selection)), [isAll, selection]);
  /** The workflow as it is when something is done, so that what is drawn needn't be drawn anew for each edit. */
  const latest = useRef({ workflow, onEdit, onSelect });
  latest.current = { workflow, onEdit, onSelect };
  const wording = useWording();
  const words = useRef(wording);
  words.current = wording;
  const sayWay = useCallback(({ handOff, branch }: Way): string | null => {
    const own =
      branch === null ? null : findHandOff(latest.current.workflow, handOff)?.branches.find(({ key }) => key === branch);
    return own ? sayExpression(own.when, words.current) : null;
  }, []);
  const selectStage = useCallback((stage: string) => latest.current.onSelect({ kind: 'stage', stage }), []);
  const selectWay = useCallback(
    ({ handOff, branch }: Way) =>
      latest.current.onSelect(branch === null ? { kind: 'hand-off', handOff } : { kind: 'branch', handOff, branch }),
    [],
  );
  const apply = useCallback((make: (workflow: Workflow) => Edit | null) => {
    const edit = make(latest.current.workflow);
    if (edit) latest.current.onEdit(edit);
  }, []);
  const draw = useCallback((from: string, to: string, at: Point) => setWay({ from, to, at }), []);
  const insert = useCallback((after: string) => {
    const { workflow: now, onEdit: keep, onSelect: select } = latest.current;
    const stage = now.stages.find(({ key }) => key === after);
    const made = stage && stageAfter(now, stage);
    if (made && keep(made.edit)) select({ kind: 'stage', stage: made.key });
  }, []);
  const move = useCallback(
    (stage: string, along: 'column' | 'track', by: -1 | 1) =>
      apply((now) => (along === 'column' ? moveStageBy(now, stage, by) : toNeighbour(now, stage, by))),
    [apply],
  );
  const place = useCallback((stage: string, before: string | null) => apply((now) => moveStage(now, stage, before)), [apply]);
  const lay = useCallback((stage: string, track: string) => apply((now) => moveToTrack(now, stage, track)), [apply]);
  const step = useCallback((stage: string, by: -1 | 1) => apply((now) => moveStageBy(now, stage, by)), [apply]);
  const addStage = useCallback((): void => {
    const { stages: now } = latest.current.workflow;
    const last = now.findLast(({ kind }) => kind !== 'end') ?? now.at(-1);
    if (last) insert(last.key);
  }, [insert]);
  const workflows = useQuery(workflowsQuery);
  const links = useMemo(
    () => linksOf({ key: workflow.key, stages, handOffs }, workflows.data ?? []),
    [workflow.key, stages, handOffs, workflows.data],
  );
  const navigate = useNavigate();
  const goTo = useCallback((key: string) => void navigate(`/workflows/${key}/plan`), [navigate]);
  const isWide = layout.width > width + 1;
  const [wider, narrower] = [zoomBy(layout.columnWidth, 1), zoomBy(layout.columnWidth, -1)];
  return (
    <div className={classes.head} ref={ref} style={{ width: layout.width }}>
      {isWide && (
        <div className={classes.overview} style={{ width }}>
          <MapOverview workflow={drawn} scroller={scroller} width={layout.width} />
        </div>
      )}
      <PanelBoundary name="The stage map" resetKey={workflow}>
        <div className={classes.map}>
          <div className={classes.names} style={{ width: layout.labelWidth }}>
            {tracks.map((track) => (
              <span
                key={track.key}
                className={classes.track}
                style={{ top: geometry.yOf(track.key) - 9, color: colourOfTrack(workflow, track.key) }}
              >
                {track.name}
              </span>
            ))}
            <span className={classes.tools}>
              <UnstyledButton className={classes.tool} aria-pressed={isAll} onClick={() => setAll(!isAll)}>
                {isAll ? 'Tracks only' : 'All ways'}
              </UnstyledButton>
              <span className={classes.zoom}>
                <ActionIcon
                  size={24}
                  variant="subtle"
                  color="gray"
                  aria-label="Narrower columns"
                  disabled={narrower === null}
                  onClick={() => narrower !== null && onZoom(narrower)}
                >
                  −
                </ActionIcon>
                <UnstyledButton className={classes.tool} onClick={() => onZoom('fit')}>
                  Fit
                </UnstyledButton>
                <ActionIcon
                  size={24}
                  variant="subtle"
                  color="gray"
                  aria-label="Wider columns"
                  disabled={wider === null}
                  onClick={() => wider !== null && onZoom(wider)}
                >
                  +
                </ActionIcon>
              </span>
            </span>
          </div>
          <StageMap
            workflow={drawn}
            geometry={geometry}
            focus={focus}
            path={path}
            lit={lit}
            verb="Select"
            onStage={selectStage}
            onWay={selectWay}
            sayWay={sayWay}
            links={links}
            onWorkflow={goTo}
            onDraw={draw}
            onInsert={insert}
            onMove={move}
          />
          {way && <DrawnWayMenu workflow={workflow} {...way} onEdit={onEdit} onSelect={onSelect} onClose={() => setWay(null)} />}
        </div>
      </PanelBoundary>
      <StageHeads
        stages={stages}
        tracks={tracks}
        roles={roles}
        layout={layout}
        geometry={geometry}
        selected={selection.kind === 'stage' ? selection.stage : null}
        find={find}
        onFind={onFind}
        onAdd={addStage}
        onSelect={selectStage}
        onPlace={place}
        onTrack={lay}
        onStep={step}
      />
    </div>
  );
}

/** The edit that lays a stage on the track above or below its own. */
function toNeighbour(workflow: Workflow, stage: string, by: -1 | 1): Edit | null {
  const own = workflow.stages.find(({ key }) => key === stage)?.tracks[0];
  const track = workflow.tracks[workflow.tracks.findIndex(({ key }) => key === own) + by];
  return track ? moveToTrack(workflow, stage, track.key) : null;
}

/** What the map points out of what is selected. */
function focusOf(selection: Selection): Focus | null {
  switch (selection.kind) {
    case 'stage':
      return { kind: 'stage', stage: selection.stage };
    case 'hand-off':
      return { kind: 'hand-off', handOff: selection.handOff };
    case 'branch':
      return { kind: 'hand-off', handOff: selection.handOff, branch: selection.branch };
    default:
      return null;
  }
}
