import { Button, UnstyledButton } from '@mantine/core';
import { findField, findStage, findSubField, plannedTreatment, TREATMENTS } from '@ypomet/core';
import { useDraft } from '../../drafts/draft-context.tsx';
import { Word } from '../../help/Word.tsx';
import inspector from '../Inspector.module.css';
import { adjustmentsAt, submitterSees } from '../rows.ts';
import type { Selection } from '../selection.ts';
import { KEY_OF, TreatmentMark } from '../TreatmentMark.tsx';
import { newAdjustment } from './new-parts.ts';

type Props = {
  readonly selection: Extract<Selection, { kind: 'cell' }>;
  readonly onSelect: (selection: Selection) => void;
};

/** What a field is at one stage, and what may change that. */
export function CellPanel({ selection, onSelect }: Props) {
  const { store, definition } = useDraft();
  const field = findField(definition, selection.field) ?? findSubField(definition, selection.field)?.field;
  const stage = findStage(definition, selection.stage);
  if (!field || !stage) return <p>This cell is gone.</p>;
  const present = plannedTreatment(definition, selection.field, selection.stage);
  const adjusting = adjustmentsAt(definition, selection.field, selection.stage);
  const adjust = (): void => {
    const made = newAdjustment(definition, [selection.field], [selection.stage]);
    if (store.edit(made.edit)) onSelect({ kind: 'adjustment', adjustment: made.key });
  };
  return (
    <>
      <p className={inspector.where}>Field plan</p>
      <h2 className={inspector.title}>
        <UnstyledButton className={inspector.titleLink} onClick={() => onSelect({ kind: 'field', field: selection.field })}>
          {field.name}
        </UnstyledButton>
      </h2>
      <p className={inspector.soft}>
        its <Word of="treatment">treatment</Word> at {stage.name}
      </p>
      <div className={inspector.treatments} role="radiogroup" aria-label="Treatment">
        {[...TREATMENTS].reverse().map((treatment) => (
          <UnstyledButton
            key={treatment}
            role="radio"
            aria-checked={present === treatment}
            className={inspector.treatment}
            data-present={present === treatment || undefined}
            onClick={() =>
              store.edit({ type: 'set-treatments', cells: [{ field: selection.field, stage: selection.stage, treatment }] })
            }
          >
            <TreatmentMark treatment={treatment} /> {treatment} <kbd className="mono">{KEY_OF[treatment]}</kbd>
          </UnstyledButton>
        ))}
      </div>
      <h3>
        <Word of="adjustment">Adjusted by</Word>
      </h3>
      {adjusting.length === 0 && <p className={inspector.soft}>Nothing: it is always as the plan says.</p>}
      <ul className={inspector.plain}>
        {adjusting.map((adjustment) => (
          <li key={adjustment.key}>
            <UnstyledButton
              className={inspector.link}
              onClick={() => onSelect({ kind: 'adjustment', adjustment: adjustment.key })}
            >
              {adjustment.name}
            </UnstyledButton>{' '}
            <span className={inspector.soft}>→ {adjustment.treatment}</span>
          </li>
        ))}
      </ul>
      <Button size="compact-sm" variant="default" mt={8} onClick={adjust}>
        Adjust it under a condition
      </Button>
    </>
  );
}

/** Several cells at once: what all of them are, and an adjustment that covers all of them. */
export function CellsPanel({
  selection: { fields, stages },
  onSelect,
}: {
  readonly selection: Extract<Selection, { kind: 'cells' }>;
  readonly onSelect: (selection: Selection) => void;
}) {
  const { store, definition } = useDraft();
  const cells = fields.flatMap((field) => stages.map((stage) => ({ field, stage })));
  const present = new Set(cells.map(({ field, stage }) => plannedTreatment(definition, field, stage)));
  const named = (list: readonly (string | undefined)[]): string =>
    list.length > 4 ? `${list.slice(0, 3).join(', ')} and ${list.length - 3} more` : list.join(', ');
  const nameOf = (path: string) => (findField(definition, path) ?? findSubField(definition, path)?.field)?.name ?? path;
  const adjust = (): void => {
    const made = newAdjustment(definition, fields, stages);
    if (store.edit(made.edit)) onSelect({ kind: 'adjustment', adjustment: made.key });
  };
  return (
    <>
      <p className={inspector.where}>Field plan</p>
      <h2 className={inspector.title}>{cells.length} cells</h2>
      <p className={inspector.soft}>
        {named(fields.map(nameOf))}
        <br />
        at {named(stages.map((stage) => findStage(definition, stage)?.name))}
      </p>
      <div className={inspector.treatments} role="radiogroup" aria-label="Treatment of all of them">
        {[...TREATMENTS].reverse().map((treatment) => {
          const isPresent = present.size === 1 && present.has(treatment);
          return (
            <UnstyledButton
              key={treatment}
              role="radio"
              aria-checked={isPresent}
              className={inspector.treatment}
              data-present={isPresent || undefined}
              onClick={() => store.edit({ type: 'set-treatments', cells: cells.map((cell) => ({ ...cell, treatment })) })}
            >
              <TreatmentMark treatment={treatment} /> {treatment} <kbd className="mono">{KEY_OF[treatment]}</kbd>
            </UnstyledButton>
          );
        })}
      </div>
      <Button size="compact-sm" variant="default" mt={12} onClick={adjust}>
        Adjust them under a condition
      </Button>
    </>
  );
}

const SUBMITTER_CHOICES = [
  { sees: 'shown', name: 'shown' },
  { sees: 'hidden', name: 'hidden' },
  { sees: null, name: 'as the intake showed it' },
] as const;

/** What the submitter sees of a field when looking in on a record that others have. */
export function SubmitterPanel({ field: path }: { readonly field: string }) {
  const { store, definition } = useDraft();
  const field = findField(definition, path) ?? findSubField(definition, path)?.field;
  if (!field) return <p>This cell is gone.</p>;
  const present = definition.submitterSees[path] ?? null;
  return (
    <>
      <p className={inspector.where}>
        <Word of="submitter">Submitter</Word>
      </p>
      <h2 className={inspector.title}>{field.name}</h2>
      <p className={inspector.soft}>when the submitter looks in on a record that others have</p>
      <div className={inspector.treatments} role="radiogroup" aria-label="What the submitter sees">
        {SUBMITTER_CHOICES.map(({ sees, name }) => (
          <UnstyledButton
            key={name}
            role="radio"
            aria-checked={present === sees}
            className={inspector.treatment}
            data-present={present === sees || undefined}
            onClick={() => store.edit({ type: 'set-submitter-sees', cells: [{ field: path, sees }] })}
          >
            <TreatmentMark treatment={sees === 'hidden' ? 'hidden' : 'read-only'} /> {name}
          </UnstyledButton>
        ))}
      </div>
      {present === null && (
        <p className={inspector.soft}>Now it is {submitterSees(definition, path) ? 'shown' : 'hidden'}: so the intake has it.</p>
      )}
    </>
  );
}
