import { useElementSize } from '@mantine/hooks';
import { namesReadBy, TREATMENTS, type Treatment } from '@ypomet/core';
import { useMemo, useState } from 'react';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { Inspector } from '../../features/plan/Inspector.tsx';
import { makePlanLayout } from '../../features/plan/layout.ts';
import { PlanGrid } from '../../features/plan/PlanGrid.tsx';
import { fieldsReadBy, planRows } from '../../features/plan/rows.ts';
import { StageMap } from '../../features/plan/StageMap.tsx';
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
  const { store, snapshot, compiled } = useDraft();
  const { definition } = snapshot;
  const { path } = useRehearsal();
  const { ref, width } = useElementSize();
  const [selection, setSelection] = useState<Selection>({ kind: 'nothing' });
  const layout = useMemo(() => makePlanLayout(definition, width || 900), [definition, width]);
  const { sections, fields } = definition;
  const rows = useMemo(() => planRows({ sections, fields }), [sections, fields]);
  const lit = useMemo(() => litFields(compiled, selection), [compiled, selection]);
  return (
    <div className={classes.page}>
      <div className={classes.drawing} ref={ref}>
        <div className={classes.head} style={{ width: layout.width }}>
          <PanelBoundary name="The stage map" resetKey={definition}>
            <StageMap workflow={definition} layout={layout} selection={selection} onSelect={setSelection} path={path} />
          </PanelBoundary>
          <div
            className={classes.stages}
            style={{
              gridTemplateColumns: `${layout.labelWidth}px repeat(${definition.stages.length + 1}, ${layout.columnWidth}px)`,
            }}
          >
            <span />
            {definition.stages.map((stage) => (
              <span key={stage.key} className={classes.stage}>
                {stage.name}
              </span>
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
            onEdit={(edit) => store.edit(edit)}
          />
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
