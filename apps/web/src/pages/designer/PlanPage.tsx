import { UnstyledButton } from '@mantine/core';
import { useElementSize, useMergedRef } from '@mantine/hooks';
import { type Edit, namesReadBy, TREATMENTS, type Treatment, type Workflow } from '@ypomet/core';
import { useCallback, useMemo, useRef, useState } from 'react';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { makeGeometry } from '../../features/map/geometry.ts';
import { StageMap } from '../../features/map/StageMap.tsx';
import { colourOfTrack } from '../../features/map/track-colours.ts';
import type { Focus, Way } from '../../features/map/ways.ts';
import { Inspector } from '../../features/plan/Inspector.tsx';
import { makePlanLayout } from '../../features/plan/layout.ts';
import { PlanGrid } from '../../features/plan/PlanGrid.tsx';
import { stageAfter } from '../../features/plan/panels/new-parts.ts';
import { fieldsReadBy, planRows } from '../../features/plan/rows.ts';
import type { Selection } from '../../features/plan/selection.ts';
import { TreatmentMark } from '../../features/plan/TreatmentMark.tsx';
import { useRehearsal } from '../../features/rehearsal/rehearsal-context.tsx';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';
import classes from './PlanPage.module.css';

/**
 * Who is here: the analyst. First they want to see what each stage asks and where records go next; then to change a
 * cell with one key, or a branch's condition, seeing at once what it depends on.
 */
export function PlanPage() {
  const { store, definition, compiled } = useDraft();
  const { path } = useRehearsal();
  const { ref, width } = useElementSize<HTMLDivElement>();
  const head = useElementSize<HTMLDivElement>();
  const scroller = useRef<HTMLDivElement>(null);
  const drawing = useMergedRef(ref, scroller);
  const [selection, setSelection] = useState<Selection>({ kind: 'nothing' });
  const { sections, fields, stages, tracks, handOffs, roles } = definition;
  const layout = useMemo(() => makePlanLayout(stages.length, width || 900), [stages.length, width]);
  const drawn = useMemo(() => ({ stages, tracks, handOffs }), [stages, tracks, handOffs]);
  const [isAll, setAll] = useState(false);
  const geometry = useMemo(
    () => makeGeometry(drawn, { left: layout.labelWidth, columnWidth: layout.columnWidth, columns: layout.columns }, isAll),
    [drawn, layout, isAll],
  );
  const focus = useMemo(() => (isAll ? ({ kind: 'all' } as const) : focusOf(selection)), [isAll, selection]);
  const rows = useMemo(() => planRows({ sections, fields }), [sections, fields]);
  const edit = useCallback((change: Edit) => void store.edit(change), [store]);
  const lit = useMemo(() => litFields(compiled, selection), [compiled, selection]);
  const selectStage = useCallback((stage: string) => setSelection({ kind: 'stage', stage }), []);
  const selectWay = useCallback(
    ({ handOff, branch }: Way) =>
      setSelection(branch === null ? { kind: 'hand-off', handOff } : { kind: 'branch', handOff, branch }),
    [],
  );
  const addStage = (): void => {
    const last = stages.findLast(({ kind }) => kind !== 'end') ?? stages.at(-1);
    if (!last) return;
    const made = stageAfter(definition, last);
    if (store.edit(made.edit)) selectStage(made.key);
  };
  return (
    <div className={classes.page}>
      <div className={classes.drawing} ref={drawing}>
        <div className={classes.head} ref={head.ref} style={{ width: layout.width }}>
          <PanelBoundary name="The stage map" resetKey={definition}>
            <div className={classes.map}>
              <div className={classes.mapNames} style={{ width: layout.labelWidth }}>
                {tracks.map((track) => (
                  <span
                    key={track.key}
                    className={classes.trackName}
                    style={{ top: geometry.yOf(track.key) - 9, color: colourOfTrack(definition, track.key) }}
                  >
                    {track.name}
                  </span>
                ))}
                <UnstyledButton className={classes.allWays} aria-pressed={isAll} onClick={() => setAll(!isAll)}>
                  {isAll ? 'Tracks only' : 'All ways'}
                </UnstyledButton>
              </div>
              <StageMap
                workflow={drawn}
                geometry={geometry}
                focus={focus}
                path={path}
                verb="Select"
                onStage={selectStage}
                onWay={selectWay}
              />
            </div>
          </PanelBoundary>
          <div
            className={classes.stages}
            style={{ gridTemplateColumns: `${layout.labelWidth}px repeat(${layout.columns}, ${layout.columnWidth}px)` }}
          >
            <span className={classes.corner}>
              <UnstyledButton className={classes.add} onClick={addStage}>
                + Stage
              </UnstyledButton>
            </span>
            {stages.map((stage) => (
              <UnstyledButton
                key={stage.key}
                className={classes.stage}
                data-selected={(selection.kind === 'stage' && selection.stage === stage.key) || undefined}
                onClick={() => selectStage(stage.key)}
              >
                {stage.name}
                <span className={classes.roles}>{whoActs(stage, roles)}</span>
              </UnstyledButton>
            ))}
            <span className={classes.stage} data-submitter="">
              Submitter
            </span>
          </div>
        </div>
        <PanelBoundary name="The field plan" resetKey={definition}>
          <PlanGrid
            workflow={definition}
            rows={rows}
            layout={layout}
            lit={lit}
            selection={selection}
            onSelect={setSelection}
            onEdit={edit}
            scroller={scroller}
            headHeight={head.height}
          />
          {fields.length === 0 && (
            <p className={classes.nothing}>
              Nothing is asked yet. “+ Field” beside a section adds fields, many at once if you like; then each cell says what a
              stage does with them. A click on a station of the map, or on a stage’s name, opens the stage.
            </p>
          )}
        </PanelBoundary>
      </div>
      <PanelBoundary name="The inspector" resetKey={selection}>
        <Inspector selection={selection} onSelect={setSelection} />
      </PanelBoundary>
      <footer className={classes.legend}>
        {[...TREATMENTS].reverse().map((treatment: Treatment) => (
          <span key={treatment}>
            <TreatmentMark treatment={treatment} /> {treatment}
          </span>
        ))}
        <span>
          <span className={classes.adjusted}>◣</span> adjusted by condition
        </span>
        <span className={classes.keys}>
          <span className="mono">R N O V H</span> set · arrows move · ⇧ select · Ctrl C, V · Ctrl Z undo
        </span>
      </footer>
    </div>
  );
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

/** Who acts at a stage, in a word or two. */
function whoActs({ kind, roles }: Workflow['stages'][number], all: Workflow['roles']): string {
  if (kind === 'end' || kind === 'junction') return '';
  const [first, ...more] = roles.map((role) => all.find(({ key }) => key === role)?.name ?? role);
  if (first === undefined) return kind === 'intake' ? 'Anybody' : 'Submitter';
  return more.length === 0 ? first : `${first} +${more.length}`;
}

/** The fields that what is selected reads. */
function litFields(compiled: ReturnType<typeof useDraft>['compiled'], selection: Selection): ReadonlySet<string> {
  const condition =
    selection.kind === 'branch'
      ? compiled.handOffs.get(selection.handOff)?.branches.find(({ branch }) => branch.key === selection.branch)?.condition
      : selection.kind === 'adjustment'
        ? compiled.forms.adjustments.find(({ adjustment }) => adjustment.key === selection.adjustment)?.condition
        : undefined;
  const checked = condition?.expression?.checked;
  return checked ? fieldsReadBy(compiled, namesReadBy(checked)) : new Set();
}
