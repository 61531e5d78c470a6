import { UnstyledButton } from '@mantine/core';
import {
  type CompiledHandOff,
  type Diagnostic,
  describeDiagnostic,
  findField,
  findHandOff,
  findStage,
  findSubField,
  howToMend,
  namesReadBy,
  TREATMENTS,
  writeText,
} from '@ypomet/core';
import { Notice } from '../../shared/Notice.tsx';
import { ConditionEditor } from '../conditions/ConditionEditor.tsx';
import { useDraft } from '../drafts/draft-context.tsx';
import { useRehearsal } from '../rehearsal/rehearsal-context.tsx';
import classes from './Inspector.module.css';
import { adjustmentsAt, cellTreatment, submitterSees } from './rows.ts';
import type { Selection } from './selection.ts';
import { KEY_OF, TreatmentMark } from './TreatmentMark.tsx';

type Props = { readonly selection: Selection; readonly onSelect: (selection: Selection) => void };

/** Edits what is selected, in sentences; with nothing selected it lists what can be. */
export function Inspector({ selection, onSelect }: Props) {
  return (
    <aside className={classes.inspector} aria-label="Inspector">
      {selection.kind !== 'nothing' && (
        <UnstyledButton className={classes.back} onClick={() => onSelect({ kind: 'nothing' })}>
          ← Hand-offs and adjustments
        </UnstyledButton>
      )}
      {selection.kind === 'nothing' && <Overview onSelect={onSelect} />}
      {selection.kind === 'branch' && <BranchPanel key={`${selection.handOff}/${selection.branch}`} selection={selection} />}
      {selection.kind === 'adjustment' && <AdjustmentPanel key={selection.adjustment} selection={selection} />}
      {selection.kind === 'submitter' && <SubmitterPanel field={selection.field} />}
      {selection.kind === 'cell' && <CellPanel selection={selection} onSelect={onSelect} />}
    </aside>
  );
}

function Overview({ onSelect }: { readonly onSelect: Props['onSelect'] }) {
  const { snapshot, faults, warnings } = useDraft();
  const { definition } = snapshot;
  const nameOf = (stage: string): string => findStage(definition, stage)?.name ?? stage;
  return (
    <>
      <Found tone="fault" title="Faults of the draft" found={faults} />
      <Found tone="caution" title="Warnings, to be accepted when it is published" found={warnings} />
      <h2>Hand-offs</h2>
      {definition.stages.map((stage) => {
        const handOffs = definition.handOffs.filter((handOff) => handOff.from === stage.key);
        if (handOffs.length === 0) return null;
        return (
          <section key={stage.key} className={classes.stage}>
            <h3>{stage.name}</h3>
            {handOffs.map((handOff) => (
              <div key={handOff.key} className={classes.handOff}>
                <span>{handOff.name}</span>
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
      })}
      <h2>Adjustments</h2>
      {definition.adjustments.length === 0 && <p className={classes.soft}>None: every cell is as the plan says.</p>}
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
    </>
  );
}

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
      <ul className={classes.plain}>
        {found.slice(0, 6).map((one) => (
          <li key={`${one.path}/${one.code}`} title={howToMend(one)}>
            {describeDiagnostic(one)} <code className="mono">{one.path}</code>
          </li>
        ))}
        {found.length > 6 && <li>and {found.length - 6} more</li>}
      </ul>
    </Notice>
  );
}

const ORDINALS = ['First', 'Second', 'Third', 'Fourth', 'Fifth', 'Sixth', 'Seventh', 'Eighth', 'Ninth', 'Tenth'];
const COUNTS = ['no', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten'];

function BranchPanel({ selection }: { readonly selection: Extract<Selection, { kind: 'branch' }> }) {
  const { store, snapshot, compiled } = useDraft();
  const { form } = useRehearsal();
  const { definition } = snapshot;
  const handOff = findHandOff(definition, selection.handOff);
  const index = handOff?.branches.findIndex((branch) => branch.key === selection.branch) ?? -1;
  const branch = handOff?.branches[index];
  const compiledHandOff = compiled.handOffs.get(selection.handOff);
  if (!handOff || !branch || !compiledHandOff) return <p>This branch is gone.</p>;
  const to = findStage(definition, branch.to)?.name ?? branch.to;
  return (
    <>
      <p className={classes.where}>
        {findStage(definition, handOff.from)?.name} · hand-off “{handOff.name}”
      </p>
      <h2 className={classes.title}>{branch.name}</h2>
      <p className={classes.soft}>
        {ORDINALS[index] ?? `No. ${index + 1}`} of {COUNTS[handOff.branches.length] ?? handOff.branches.length} branches ·{' '}
        {handOff.policy === 'first' ? 'first that holds is taken' : 'just one may hold'}
      </p>
      <div className={classes.card}>
        <p className={classes.lead}>
          A record goes to <strong>{to}</strong> when
        </p>
        <ConditionEditor
          text={branch.when}
          workflow={definition}
          scope={compiled.forms.layout.scope}
          form={form}
          onChange={(when) => store.edit({ type: 'set-branch-condition', handOff: handOff.key, branch: branch.key, when })}
        />
      </div>
      <Reads handOff={compiledHandOff} branch={branch.key} />
    </>
  );
}

/** The fields a branch reads, where they get their values, and what they are in the rehearsal. */
function Reads({ handOff, branch }: { readonly handOff: CompiledHandOff; readonly branch: string }) {
  const { snapshot, compiled } = useDraft();
  const { form } = useRehearsal();
  const { definition } = snapshot;
  const checked = handOff.branches.find((own) => own.branch.key === branch)?.condition.expression?.checked;
  const fields = checked ? namesReadBy(checked).flatMap((name) => compiled.forms.fieldByKey.get(name) ?? []) : [];
  if (fields.length === 0) return null;
  return (
    <section>
      <h3>Reads</h3>
      <ul className={classes.plain}>
        {fields.map((of) => {
          const entered = definition.stages.filter((stage) =>
            ['optional', 'nudged', 'required'].includes(cellTreatment(definition, of.field.key, stage.key)),
          );
          const from = of.computes
            ? `computed from ${
                of.computes.checked
                  ? namesReadBy(of.computes.checked)
                      .map((name) => findField(definition, name)?.name ?? name)
                      .join(', ')
                  : 'a faulty expression'
              }`
            : entered.length > 0
              ? `entered at ${entered.map((stage) => stage.name).join(', ')}`
              : 'never entered';
          return (
            <li key={of.field.key}>
              {of.field.name}{' '}
              <span className={classes.soft}>
                {from} · in the rehearsal {writeText(form.frame.slots[of.slot] ?? null) ?? 'empty'}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function AdjustmentPanel({ selection }: { readonly selection: Extract<Selection, { kind: 'adjustment' }> }) {
  const { store, snapshot, compiled } = useDraft();
  const { form } = useRehearsal();
  const { definition } = snapshot;
  const adjustment = definition.adjustments.find((own) => own.key === selection.adjustment);
  if (!adjustment) return <p>This adjustment is gone.</p>;
  const tables = [...new Set(adjustment.fields.filter((path) => path.includes('.')).map((path) => path.split('.')[0] ?? ''))];
  const scope = (tables[0] && compiled.forms.layout.rowScopes.get(tables[0])) || compiled.forms.layout.scope;
  const names = adjustment.fields.map(
    (path) => findField(definition, path)?.name ?? findSubField(definition, path)?.field.name ?? path,
  );
  const stages = adjustment.stages.map((stage) => findStage(definition, stage)?.name ?? stage);
  return (
    <>
      <p className={classes.where}>Adjustment</p>
      <h2 className={classes.title}>{adjustment.name}</h2>
      <div className={classes.card}>
        <p className={classes.lead}>
          <strong>{names.join(', ')}</strong> is <strong>{adjustment.treatment}</strong> at{' '}
          {stages.length > 0 ? stages.join(', ') : 'every stage'} while
        </p>
        <ConditionEditor
          text={adjustment.when}
          workflow={definition}
          scope={scope}
          form={form}
          onChange={(when) => store.edit({ type: 'set-adjustment-condition', adjustment: adjustment.key, when })}
        />
      </div>
    </>
  );
}

const SUBMITTER_CHOICES = [
  { sees: 'shown', name: 'shown' },
  { sees: 'hidden', name: 'hidden' },
  { sees: null, name: 'as the intake showed it' },
] as const;

/** What the submitter sees of a field when looking in on a record that others have. */
function SubmitterPanel({ field: path }: { readonly field: string }) {
  const { store, snapshot } = useDraft();
  const { definition } = snapshot;
  const field = findField(definition, path) ?? findSubField(definition, path)?.field;
  if (!field) return <p>This cell is gone.</p>;
  const present = definition.submitterSees[path] ?? null;
  return (
    <>
      <p className={classes.where}>Submitter</p>
      <h2 className={classes.title}>{field.name}</h2>
      <p className={classes.soft}>when the submitter looks in on a record that others have</p>
      <div className={classes.treatments} role="radiogroup" aria-label="What the submitter sees">
        {SUBMITTER_CHOICES.map(({ sees, name }) => (
          <UnstyledButton
            key={name}
            role="radio"
            aria-checked={present === sees}
            className={classes.treatment}
            data-present={present === sees || undefined}
            onClick={() => store.edit({ type: 'set-submitter-sees', cells: [{ field: path, sees }] })}
          >
            <TreatmentMark treatment={sees === 'hidden' ? 'hidden' : 'read-only'} /> {name}
          </UnstyledButton>
        ))}
      </div>
      {present === null && (
        <p className={classes.soft}>Now it is {submitterSees(definition, path) ? 'shown' : 'hidden'}: so the intake has it.</p>
      )}
    </>
  );
}

function CellPanel({
  selection,
  onSelect,
}: {
  readonly selection: Extract<Selection, { kind: 'cell' }>;
  readonly onSelect: Props['onSelect'];
}) {
  const { store, snapshot } = useDraft();
  const { definition } = snapshot;
  const field = findField(definition, selection.field) ?? findSubField(definition, selection.field)?.field;
  const stage = findStage(definition, selection.stage);
  if (!field || !stage) return <p>This cell is gone.</p>;
  const present = cellTreatment(definition, selection.field, selection.stage);
  const adjusting = adjustmentsAt(definition, selection.field, selection.stage);
  return (
    <>
      <p className={classes.where}>Field plan</p>
      <h2 className={classes.title}>{field.name}</h2>
      <p className={classes.soft}>at {stage.name}</p>
      <div className={classes.treatments} role="radiogroup" aria-label="Treatment">
        {[...TREATMENTS].reverse().map((treatment) => (
          <UnstyledButton
            key={treatment}
            role="radio"
            aria-checked={present === treatment}
            className={classes.treatment}
            data-present={present === treatment || undefined}
            onClick={() =>
              store.edit({ type: 'set-treatments', cells: [{ field: selection.field, stage: selection.stage, treatment }] })
            }
          >
            <TreatmentMark treatment={treatment} /> {treatment} <kbd className="mono">{KEY_OF[treatment]}</kbd>
          </UnstyledButton>
        ))}
      </div>
      <h3>Adjusted by</h3>
      {adjusting.length === 0 && <p className={classes.soft}>Nothing: it is always as the plan says.</p>}
      <ul className={classes.plain}>
        {adjusting.map((adjustment) => (
          <li key={adjustment.key}>
            <UnstyledButton className={classes.link} onClick={() => onSelect({ kind: 'adjustment', adjustment: adjustment.key })}>
              {adjustment.name}
            </UnstyledButton>{' '}
            <span className={classes.soft}>→ {adjustment.treatment}</span>
          </li>
        ))}
      </ul>
    </>
  );
}
