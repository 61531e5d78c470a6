import { UnstyledButton } from '@mantine/core';
import { useDraft } from '../drafts/draft-context.tsx';
import { colourOfTrack } from '../plan/layout.ts';
import classes from './PathStrip.module.css';
import { useRehearsal } from './rehearsal-context.tsx';

/** The stages in a row with the rehearsal's path lit; a stage can be chosen to rehearse there. */
export function PathStrip() {
  const { snapshot } = useDraft();
  const { path, reasons, goTo } = useRehearsal();
  const { stages } = snapshot.definition;
  const here = path.at(-1);
  const next = reasons[0]?.leadsTo ?? null;
  return (
    <ol className={classes.strip} aria-label="Path">
      {stages.map((stage) => {
        const state = stage.key === here ? 'here' : path.includes(stage.key) ? 'passed' : stage.key === next ? 'next' : 'open';
        return (
          <li key={stage.key} className={classes.stage} data-state={state}>
            <UnstyledButton
              className={classes.button}
              onClick={() => goTo(stage.key)}
              title={`Rehearse at ${stage.name}`}
              {...(state === 'here' ? { 'aria-current': 'step' as const } : {})}
            >
              <span className={classes.dot} style={{ borderColor: colourOfTrack(snapshot.definition, stage.tracks[0] ?? '') }} />
              <span className={classes.name}>{stage.name}</span>
              {state === 'next' && <span className="visually-hidden">, next</span>}
            </UnstyledButton>
          </li>
        );
      })}
    </ol>
  );
}
