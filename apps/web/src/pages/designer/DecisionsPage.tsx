import { Button, Select, UnstyledButton } from '@mantine/core';
import { findStage, type HandOff, joinPath, loadPatternEngine, makeKey, splitPath, type Workflow } from '@ypomet/core';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { ConditionEditor } from '../../features/conditions/ConditionEditor.tsx';
import { useConditionPlace } from '../../features/conditions/use-place.ts';
import { BranchGrid } from '../../features/decisions/BranchGrid.tsx';
import { CheckPanel } from '../../features/decisions/CheckPanel.tsx';
import { TableFaults, TablePanel } from '../../features/decisions/TablePanel.tsx';
import { ValuesPicture } from '../../features/decisions/ValuesPicture.tsx';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { freshName } from '../../features/plan/panels/new-parts.ts';
import { UsedBy } from '../../features/plan/panels/PartActions.tsx';
import { useChangeCondition } from '../../features/plan/panels/properties.tsx';
import { partOf, type Selection } from '../../features/plan/selection.ts';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';
import classes from './DecisionsPage.module.css';

/** What conditions may need, loaded with the page. */
export const ready = loadPatternEngine();

/**
 * Who is here: the analyst who must say, and defend, where records go. First they want to see all branches of a hand-off at once;
 * then which values go where, and to change a cell and see it again.
 */
export function DecisionsPage() {
  const { definition } = useDraft();
  const [address, setAddress] = useSearchParams();
  const navigate = useNavigate();
  const branching = definition.handOffs.filter(({ branches }) => branches.length > 0);
  const [list, key] = splitPath(address.get('at') ?? '') ?? [];
  const handOff = list === 'handOffs' ? definition.handOffs.find((own) => own.key === key) : undefined;
  const table = list === 'decisionTables' ? definition.decisionTables.find((own) => own.key === key) : undefined;
  const check = list === 'checks' ? definition.checks.find((own) => own.key === key) : undefined;
  const shown = handOff ?? (table || check ? undefined : branching[0]);
  const go = (path: string): void => setAddress({ at: path }, { replace: true });
  const toPlan = (selection: Selection): void => {
    const part = partOf(selection);
    if (part !== null) navigate(`/workflows/${definition.key}/plan?at=${encodeURIComponent(part)}`);
  };
  return (
    <div className={classes.page}>
      <Contents
        definition={definition}
        here={
          table
            ? joinPath('decisionTables', table.key)
            : check
              ? joinPath('checks', check.key)
              : shown
                ? joinPath('handOffs', shown.key)
                : ''
        }
        onGo={go}
      />
      <PanelBoundary name="this decision" resetKey={`${list}/${key}`}>
        {table ? (
          <div className={classes.wide} data-shown="" tabIndex={-1}>
            <p className={classes.where}>Decision table</p>
            <h2>{table.name}</h2>
            <TableFaults table={table} />
            <TablePanel key={table.key} table={table} onSelect={toPlan} />
          </div>
        ) : check ? (
          <div className={classes.narrow} data-shown="" tabIndex={-1}>
            <p className={classes.where}>Check</p>
            <h2>{check.name}</h2>
            <CheckPanel
              check={check}
              onGone={() => setAddress({}, { replace: true })}
              onCopied={(copied) => go(joinPath('checks', copied))}
            />
          </div>
        ) : shown ? (
          <Branches key={shown.key} handOff={shown} onSelect={toPlan} />
        ) : (
          <Nothing onGo={go} />
        )}
      </PanelBoundary>
    </div>
  );
}

function Contents({
  definition,
  here,
  onGo,
}: {
  readonly definition: Workflow;
  readonly here: string;
  readonly onGo: (path: string) => void;
}) {
  const { store } = useDraft();
  const entry = (path: string, name: string, note?: string) => (
    <li key={path}>
      <UnstyledButton
        className={classes.entry}
        data-here={path === here || undefined}
        aria-current={path === here || undefined}
        onClick={() => onGo(path)}
      >
        {name} {note && <span className={classes.soft}>{note}</span>}
      </UnstyledButton>
    </li>
  );
  const addTable = (): void => {
    const name = freshName('New table', definition.decisionTables);
    const key = makeKey(name, new Set([...definition.fields, ...definition.decisionTables].map((own) => own.key)), 'table');
    const [first] = definition.fields.filter(({ type }) => type !== 'table' && type !== 'note');
    const part = {
      key,
      name,
      hitPolicy: 'F',
      inputs: [{ key: 'input1', name: first?.name ?? 'Today', expression: first?.key ?? 'today()' }],
      outputs: [{ key: 'output1', name: 'Output', type: 'text' }],
    };
    if (store.edit({ type: 'add-part', to: 'decisionTables', part, before: null })) onGo(joinPath('decisionTables', key));
  };
  const addCheck = (): void => {
    const name = freshName('New check', definition.checks);
    const key = makeKey(name, new Set(definition.checks.map((own) => own.key)), 'check');
    const part = { key, name, condition: 'true', message: 'This must be put right first.' };
    if (store.edit({ type: 'add-part', to: 'checks', part, before: null })) onGo(joinPath('checks', key));
  };
  const branching = definition.stages.flatMap((stage) =>
    definition.handOffs.filter(({ from, branches }) => from === stage.key && branches.length > 0),
  );
  return (
    <nav className={classes.contents} aria-label="Decisions">
      <h3>Hand-offs with branches</h3>
      {branching.length === 0 && <p className={classes.soft}>None yet. Draw a second way off a stage in the Plan.</p>}
      <ul>{branching.map((own) => entry(joinPath('handOffs', own.key), own.name, findStage(definition, own.from)?.name))}</ul>
      <h3>Decision tables</h3>
      <ul>{definition.decisionTables.map((own) => entry(joinPath('decisionTables', own.key), own.name))}</ul>
      <UnstyledButton className={classes.add} onClick={addTable}>
        + decision table
      </UnstyledButton>
      <h3>Checks</h3>
      <ul>{definition.checks.map((own) => entry(joinPath('checks', own.key), own.name))}</ul>
      <UnstyledButton className={classes.add} onClick={addCheck}>
        + check
      </UnstyledButton>
    </nav>
  );
}

function Branches({ handOff, onSelect }: { readonly handOff: HandOff; readonly onSelect: (selection: Selection) => void }) {
  const { store, definition, compiled } = useDraft();
  const [chosen, setChosen] = useState<string | null>(null);
  const selected = handOff.branches.find(({ key }) => key === chosen) ?? handOff.branches[0];
  const own = compiled.handOffs.get(handOff.key);
  return (
    <div className={classes.two}>
      <div className={classes.main}>
        <p className={classes.where}>{findStage(definition, handOff.from)?.name} · hand-off</p>
        <div className={classes.title}>
          <h2>{handOff.name}</h2>
          <Select
            size="xs"
            variant="unstyled"
            aria-label="Where several hold"
            className={classes.policy}
            data={[
              { value: 'first', label: 'the first row that holds decides' },
              { value: 'single', label: 'just one row may hold, else it is refused' },
            ]}
            value={handOff.policy}
            allowDeselect={false}
            onChange={(policy) =>
              policy && store.edit({ type: 'change-part', part: joinPath('handOffs', handOff.key), set: { policy } })
            }
          />
        </div>
        <BranchGrid handOff={handOff} selected={selected?.key ?? null} onSelect={setChosen} />
        {own && handOff.branches.length > 0 && <ValuesPicture handOff={own} />}
      </div>
      {selected && <Row key={selected.key} handOff={handOff} branch={selected} onSelect={onSelect} />}
    </div>
  );
}

/** The selected row in words, with its condition to be edited. */
function Row({
  handOff,
  branch,
  onSelect,
}: {
  readonly handOff: HandOff;
  readonly branch: HandOff['branches'][number];
  readonly onSelect: (selection: Selection) => void;
}) {
  const { definition } = useDraft();
  const place = useConditionPlace();
  const part = joinPath('handOffs', handOff.key, 'branches', branch.key);
  const change = useChangeCondition(part, 'when');
  const index = handOff.branches.findIndex(({ key }) => key === branch.key);
  return (
    <aside className={classes.row} aria-label="The selected branch">
      <p className={classes.where}>Row {index + 1}</p>
      <p className={classes.lead}>
        A record goes to <strong>{findStage(definition, branch.to)?.name ?? branch.to}</strong> when
      </p>
      <ConditionEditor
        text={branch.when}
        label={`When ${branch.name} is taken`}
        path={joinPath('handOffs', handOff.key, 'branches', branch.key, 'when')}
        place={place}
        onChange={change}
      />
      <UsedBy part={part} onSelect={onSelect} />
    </aside>
  );
}

function Nothing({ onGo }: { readonly onGo: (path: string) => void }) {
  const { definition } = useDraft();
  const navigate = useNavigate();
  return (
    <div className={classes.narrow}>
      <h2>Nothing is decided yet</h2>
      <p>
        Decisions begin where a hand-off leads to more than one stage. Draw a second way off a stage in the Plan, or add a
        decision table or a check at the left.
      </p>
      <Button onClick={() => navigate(`/workflows/${definition.key}/plan`)}>To the Plan</Button>{' '}
      {definition.decisionTables[0] && (
        <Button variant="default" onClick={() => onGo(joinPath('decisionTables', definition.decisionTables[0]?.key ?? ''))}>
          To the decision tables
        </Button>
      )}
    </div>
  );
}
