import { UnstyledButton } from '@mantine/core';
import { type Diagnostic, findStage, loadPatternEngine } from '@ypomet/core';
import { lazy, memo, Suspense } from 'react';
import { Notice } from '../../shared/Notice.tsx';
import { LaterDraft, useDraft } from '../drafts/draft-context.tsx';
import { FoundList } from '../drafts/FoundList.tsx';
import { Word } from '../help/Word.tsx';
import classes from './Inspector.module.css';
import { NamedList } from './panels/NamedList.tsx';
import { WorkflowPanel } from './panels/WorkflowPanel.tsx';
import type { Selection } from './selection.ts';

/** Loaded, with what conditions and patterns need, when something is selected for the first time. */
const SelectedPanel = lazy(async () => {
  const [{ SelectedPanel: loaded }] = await Promise.all([import('./panels/SelectedPanel.tsx'), loadPatternEngine()]);
  return { default: loaded };
});

type Props = { readonly selection: Selection; readonly onSelect: (selection: Selection) => void };

/** Edits what is selected, in sentences; with nothing selected it lists what can be. An edit made elsewhere is painted there first. */
export const Inspector = memo(function Inspector({ selection, onSelect }: Props) {
  return (
    <aside className={classes.inspector} aria-label="Inspector" data-shown="" tabIndex={-1}>
      {selection.kind !== 'nothing' && (
        <UnstyledButton className={classes.back} onClick={() => onSelect({ kind: 'nothing' })}>
          ← The whole workflow
        </UnstyledButton>
      )}
      {selection.kind === 'nothing' ? (
        <LaterDraft>
          <Overview onSelect={onSelect} />
        </LaterDraft>
      ) : (
        <Suspense>
          <SelectedPanel selection={selection} onSelect={onSelect} />
        </Suspense>
      )}
    </aside>
  );
});

function Overview({ onSelect }: { readonly onSelect: Props['onSelect'] }) {
  const { definition, faults, warnings } = useDraft();
  return (
    <>
      <Found tone="fault" title="Faults of the draft" found={faults} />
      <Found tone="caution" title="Warnings, to be accepted when it is published" found={warnings} />
      <WorkflowPanel />
      <h2>
        <Word of="handOff">Hand-offs</Word>
      </h2>
      {definition.stages.map((stage) => (
        <StageHandOffs key={stage.key} stage={stage.key} onSelect={onSelect} />
      ))}
      <h2>
        <Word of="adjustment">Adjustments</Word>
      </h2>
      {definition.adjustments.length === 0 && (
        <p className={classes.soft}>None: every cell is as the plan says. Select a cell to adjust it under a condition.</p>
      )}
      <ul className={classes.plain}>
        {definition.adjustments.map((adjustment) => (
          <li key={adjustment.key}>
            <UnstyledButton className={classes.link} onClick={() => onSelect({ kind: 'adjustment', adjustment: adjustment.key })}>
              {adjustment.name}
            </UnstyledButton>{' '}
            <span className={classes.soft}>{adjustment.treatment}</span>
          </li>
        ))}
      </ul>
      <NamedList list="tracks" title="Tracks" />
      <NamedList list="roles" title="Roles" />
      <NamedList list="sections" title="Sections" />
    </>
  );
}

function StageHandOffs({ stage: key, onSelect }: { readonly stage: string; readonly onSelect: Props['onSelect'] }) {
  const { definition } = useDraft();
  const nameOf = (stage: string): string => findStage(definition, stage)?.name ?? stage;
  const handOffs = definition.handOffs.filter((handOff) => handOff.from === key);
  if (handOffs.length === 0) return null;
  return (
    <section className={classes.stage}>
      <h3>
        <UnstyledButton className={classes.quiet} onClick={() => onSelect({ kind: 'stage', stage: key })}>
          {nameOf(key)}
        </UnstyledButton>
      </h3>
      {handOffs.map((handOff) => (
        <div key={handOff.key} className={classes.handOff}>
          <span>
            <UnstyledButton className={classes.link} onClick={() => onSelect({ kind: 'hand-off', handOff: handOff.key })}>
              {handOff.name}
            </UnstyledButton>
          </span>
          <ul className={classes.plain}>
            {handOff.branches.map((branch) => (
              <li key={branch.key}>
                <UnstyledButton
                  className={classes.link}
                  onClick={() => onSelect({ kind: 'branch', handOff: handOff.key, branch: branch.key })}
                >
                  {branch.name}
                </UnstyledButton>{' '}
                <span className={classes.soft}>→ {nameOf(branch.to)}</span>
              </li>
            ))}
            {handOff.otherwise && (
              <li className={classes.soft}>
                {handOff.branches.length > 0 ? 'otherwise ' : ''}→ {nameOf(handOff.otherwise.to)}
              </li>
            )}
          </ul>
        </div>
      ))}
    </section>
  );
}

/** How much of what is wrong is shown beside the plan at first. */
const FIRST = 3;

function Found({
  tone,
  title,
  found,
}: {
  readonly tone: 'fault' | 'caution';
  readonly title: string;
  readonly found: readonly Diagnostic[];
}) {
  if (found.length === 0) return null;
  return (
    <Notice tone={tone} title={title}>
      <FoundList found={found} first={FIRST} />
    </Notice>
  );
}
