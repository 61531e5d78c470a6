import { UnstyledButton } from '@mantine/core';
import { useElementSize, useMergedRef } from '@mantine/hooks';
import { type Edit, loadPatternEngine, readAtStages, TREATMENTS, type Treatment } from '@ypomet/core';
import { lazy, memo, Suspense, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { usePresence } from '../../features/drafts/presence.tsx';
import { showKeys } from '../../features/help/Keys.tsx';
import { Walk } from '../../features/help/Walk.tsx';
import { Inspector } from '../../features/plan/Inspector.tsx';
import { makePlanLayout, type Zoom } from '../../features/plan/layout.ts';
import { lightUp } from '../../features/plan/lighting.ts';
import { PlanGrid } from '../../features/plan/PlanGrid.tsx';
import { PlanHead } from '../../features/plan/PlanHead.tsx';
import { planRows } from '../../features/plan/rows.ts';
import { partOf, type Selection, selectionOf } from '../../features/plan/selection.ts';
import { TreatmentMark } from '../../features/plan/TreatmentMark.tsx';
import { useRehearsalPath } from '../../features/rehearsal/rehearsal-context.tsx';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';
import { isSameList, isSameSet, useSame } from '../../shared/use-same.ts';
import classes from './PlanPage.module.css';

/** Loaded, with what forms need, when it is first opened. */
const RehearsalDrawer = lazy(async () => {
  const [{ RehearsalDrawer: loaded }] = await Promise.all([
    import('../../features/rehearsal/RehearsalDrawer.tsx'),
    loadPatternEngine(),
  ]);
  return { default: loaded };
});

/**
 * Who is here: the analyst. First they want to see what each stage asks and where records go next; then to change a
 * cell with one key, or a branch's condition, seeing at once what it depends on.
 */
export function PlanPage() {
  const { store, definition, used } = useDraft();
  const path = useSame(useRehearsalPath(), isSameList);
  const { ref, width } = useElementSize<HTMLDivElement>();
  const head = useElementSize<HTMLDivElement>();
  const scroller = useRef<HTMLDivElement>(null);
  const drawing = useMergedRef(ref, scroller);
  const [selection, setSelection] = useState<Selection>({ kind: 'nothing' });
  const [zoom, setZoom] = useState<Zoom>('readable');
  const [find, setFind] = useState('');
  const [isRehearsing, setRehearsing] = useState(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (!event.altKey || !event.shiftKey || event.code !== 'KeyR') return;
      event.preventDefault();
      setRehearsing((before) => !before);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const [closed, setClosed] = useState<ReadonlySet<string>>(new Set());
  const { sections, fields, stages } = definition;
  const layout = useMemo(() => makePlanLayout(stages.length, width || 900, zoom), [stages.length, width, zoom]);
  const rows = useMemo(() => planRows({ sections, fields }, { closed, find }), [sections, fields, closed, find]);
  const edit = useCallback((change: Edit) => store.edit(change), [store]);
  const { handOffs, adjustments, checks } = definition;
  const flow = useMemo(() => ({ handOffs, adjustments, checks }), [handOffs, adjustments, checks]);
  const lighting = useMemo(() => lightUp(flow, used, selection), [flow, used, selection]);
  const lit = { fields: useSame(lighting.fields, isSameSet), stages: useSame(lighting.stages, isSameSet) };
  const reads = useMemo(() => readAtStages(flow, used), [flow, used]);
  const [address, setAddress] = useSearchParams();
  const asked = address.get('at');
  useEffect(() => {
    const wanted = asked === null ? null : selectionOf(asked);
    if (wanted) setSelection(wanted);
    if (asked !== null) setAddress({}, { replace: true });
  }, [asked, setAddress]);
  const { standAt } = usePresence();
  useEffect(() => standAt(partOf(selection)), [standAt, selection]);
  const toggle = useCallback((section: string) => {
    setClosed((before) => new Set(before.has(section) ? [...before].filter((own) => own !== section) : [...before, section]));
  }, []);
  return (
    <div className={classes.page}>
      <div className={classes.drawing} ref={drawing}>
        <PlanHead
          ref={head.ref}
          workflow={definition}
          layout={layout}
          scroller={scroller}
          width={width}
          path={path}
          lit={lit.stages}
          selection={selection}
          onSelect={setSelection}
          onEdit={edit}
          onZoom={setZoom}
          find={find}
          onFind={setFind}
        />
        <PanelBoundary name="The field plan" resetKey={definition}>
          <PlanGrid
            workflow={definition}
            rows={rows}
            closed={closed}
            onToggle={toggle}
            layout={layout}
            lit={lit.fields}
            reads={reads}
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
          {fields.length > 0 && find !== '' && !rows.some(({ kind }) => kind === 'field') && (
            <p className={classes.nothing}>No field is called “{find}”. Escape shows all of them again.</p>
          )}
        </PanelBoundary>
      </div>
      {isRehearsing && (
        <Suspense>
          <RehearsalDrawer onClose={() => setRehearsing(false)} />
        </Suspense>
      )}
      <PanelBoundary name="The inspector" resetKey={selection}>
        <Inspector selection={selection} onSelect={setSelection} />
      </PanelBoundary>
      <Legend isRehearsing={isRehearsing} onRehearse={setRehearsing} />
    </div>
  );
}

type LegendProps = { readonly isRehearsing: boolean; readonly onRehearse: (isRehearsing: boolean) => void };

/** What the marks mean, and the ways from here; an edit doesn't draw it again. */
const Legend = memo(function Legend({ isRehearsing, onRehearse }: LegendProps) {
  return (
    <footer className={classes.legend}>
      {[...TREATMENTS].reverse().map((treatment: Treatment) => (
        <span key={treatment}>
          <TreatmentMark treatment={treatment} /> {treatment}
        </span>
      ))}
      <span>
        <span className={classes.adjusted}>◣</span> adjusted
      </span>
      <span>
        <span className={classes.read}>▖</span> read here
      </span>
      <span className={classes.keys}>
        <UnstyledButton
          className={classes.allKeys}
          aria-pressed={isRehearsing}
          aria-keyshortcuts="Alt+Shift+R"
          onClick={() => onRehearse(!isRehearsing)}
        >
          {isRehearsing ? 'Close the rehearsal' : 'Rehearse beside'}
        </UnstyledButton>
        <Walk />
        <UnstyledButton className={classes.allKeys} onClick={showKeys}>
          <span className="mono">RNOVH</span> · all keys <span className="mono">?</span>
        </UnstyledButton>
      </span>
    </footer>
  );
});
