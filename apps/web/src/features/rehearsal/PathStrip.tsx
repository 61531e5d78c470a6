import { useElementSize } from '@mantine/hooks';
import { memo, useCallback, useMemo, useRef } from 'react';
import { makeGeometry } from '../map/geometry.ts';
import { StageMap } from '../map/StageMap.tsx';
import classes from './PathStrip.module.css';
import { useRehearsal } from './rehearsal-context.tsx';

const LEAST_COLUMN = 72;

/** The map with the rehearsal's path lit; a stage can be chosen to rehearse there. */
export const PathStrip = memo(function PathStrip() {
  const { workflow, played, record, reasons, goTo } = useRehearsal();
  const { path } = played;
  const here = record.stage;
  const next = reasons.find(({ offered }) => offered.truth === true)?.leadsTo ?? null;
  const latest = useRef(goTo);
  latest.current = goTo;
  const rehearseAt = useCallback((stage: string) => latest.current(stage), []);
  // Of a step that is looked back at, the path up to it is lit.
  const lit = useMemo(() => path.slice(0, path.lastIndexOf(here) + 1), [path, here]);
  const { ref, width } = useElementSize<HTMLDivElement>();
  const { stages, tracks, handOffs } = workflow.definition;
  const drawn = useMemo(() => ({ stages, tracks, handOffs }), [stages, tracks, handOffs]);
  const columns = stages.length;
  const columnWidth = Math.max(LEAST_COLUMN, Math.floor((width || 900) / Math.max(1, columns)));
  const geometry = useMemo(() => makeGeometry(drawn, { left: 0, columnWidth, columns }), [drawn, columnWidth, columns]);
  return (
    <div className={classes.strip} ref={ref} role="region" aria-label="Path">
      <StageMap
        workflow={drawn}
        geometry={geometry}
        focus={null}
        path={lit}
        next={next}
        verb="Rehearse at"
        onStage={rehearseAt}
      />
      <div className={classes.names} style={{ gridTemplateColumns: `repeat(${columns}, ${columnWidth}px)` }} aria-hidden="true">
        {stages.map((stage) => (
          <span key={stage.key} data-here={stage.key === here || undefined}>
            {stage.name}
          </span>
        ))}
      </div>
    </div>
  );
});
