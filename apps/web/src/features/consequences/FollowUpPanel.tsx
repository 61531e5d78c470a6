import { Button, Select, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import {
  type Field,
  findField,
  findPart,
  isAssignable,
  isComputed,
  makeKey,
  typeOfField,
  type Workflow,
  within,
} from '@ypomet/core';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { workflowsQuery } from '../drafts/queries.ts';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import inspector from '../plan/Inspector.module.css';
import { ChoiceProperty, SwitchProperty, TextProperty, useChange } from '../plan/panels/properties.tsx';
import classes from './Consequences.module.css';
import type { Item } from './listing.ts';
import { WhenProperty } from './WhenProperty.tsx';

type FollowUp = Workflow['handOffs'][number]['followUps'][number];

/** Who is here: the analyst, saying which record is opened elsewhere, for what, and what it begins with. */
export function FollowUpPanel({ item }: { readonly item: Item }) {
  const { definition, compiled } = useDraft();
  const change = useChange(item.path);
  const workflows = useQuery(workflowsQuery);
  const found = findPart(definition, item.path);
  if (found?.kind !== 'follow-up') return <p>This follow-up is gone.</p>;
  const followUp = found.part as unknown as FollowUp;
  const target = compiled.findWorkflow(followUp.workflow);
  const intakes = new Set(target?.stages.filter(({ kind }) => kind === 'intake').map(({ key }) => key));
  const entries = target?.handOffs.filter(({ from }) => intakes.has(from)) ?? [];
  const links = target?.fields.filter((field) => field.type === 'reference') ?? [];
  const others = (workflows.data ?? []).filter(
    ({ key, publishedVersion }) => key !== definition.key && publishedVersion !== null,
  );
  const choose = (workflow: string): boolean =>
    change({ workflow, handOff: followUp.handOff, carried: [], link: null, assignee: null });
  return (
    <>
      <TextProperty label="Name" value={followUp.name} onKeep={(name) => change({ name })} />
      <ChoiceProperty
        label="Opens a record of"
        value={followUp.workflow}
        choices={[
          ...others.map(({ key, name }) => ({ value: key, label: name })),
          ...(others.some(({ key }) => key === followUp.workflow)
            ? []
            : [{ value: followUp.workflow, label: target?.name ?? followUp.workflow }]),
        ]}
        onKeep={(workflow) => workflow !== null && choose(workflow)}
      />
      {target ? (
        <>
          <div className={classes.two}>
            <ChoiceProperty
              label="Entered by"
              value={entries.some(({ key }) => key === followUp.handOff) ? followUp.handOff : null}
              choices={entries.map(({ key, name }) => ({ value: key, label: name }))}
              none="choose"
              onKeep={(handOff) => handOff && change({ handOff })}
            />
            <ChoiceProperty
              label="How many"
              value={followUp.perRow}
              choices={definition.fields
                .filter(({ type }) => type === 'table')
                .map(({ key, name }) => ({ value: key, label: `one for each of ${name}` }))}
              none="one"
              onKeep={(perRow) => change({ perRow })}
            />
          </div>
          <WhenProperty path={item.path} when={followUp.when} name={followUp.name} table={followUp.perRow} />
          <ChoiceProperty
            label="Points back by"
            value={followUp.link}
            choices={links.map(({ key, name }) => ({ value: key, label: name }))}
            none={links.length === 0 ? `${target.name} has no reference field` : 'nothing'}
            onKeep={(link) => change({ link })}
          />
          <Carrying path={item.path} followUp={followUp} target={target} />
          <SwitchProperty
            label="Files and sign-offs are carried too"
            value={followUp.carriesFiles}
            onKeep={(carriesFiles) => change({ carriesFiles })}
          />
          <Assignee path={item.path} followUp={followUp} target={target} />
          <p className={classes.soft}>
            What {target.name} refuses is opened all the same: it waits at its intake with what is missing. To wait for it here,
            let a hand-off be offered only when <span className="mono">followUps.open = 0</span>.
          </p>
        </>
      ) : (
        <p className={classes.soft}>Its fields are known once it has a published version.</p>
      )}
    </>
  );
}

/** The values it begins with: by expression, each checked against the field it goes to. */
function Carrying({ path, followUp, target }: { readonly path: string; readonly followUp: FollowUp; readonly target: Workflow }) {
  const { store, definition, compiled } = useDraft();
  const { scope, wording } = useConditionPlace(followUp.perRow);
  const list = within(path, 'carried');
  const taken = new Set([...followUp.carried.map(({ field }) => field), followUp.link]);
  const open = target.fields.filter((field) => field.type !== 'note' && !taken.has(field.key) && !isComputed(field));
  const carry = (fields: readonly { readonly field: string; readonly value: string }[]): void => {
    const keys = new Set(followUp.carried.map(({ key }) => key));
    const edits = fields.map(({ field, value }) => {
      const key = makeKey(field, keys, 'carry');
      keys.add(key);
      return { type: 'add-part', to: list, part: { key, field, value }, before: null } as const;
    });
    store.edit({ type: 'together', edits });
  };
  const proposed = proposals(definition, followUp, open, compiled.findWorkflow);
  return (
    <div className={classes.labelled} role="group" aria-label="Carried values">
      <span className={classes.label}>Carried values</span>
      {followUp.carried.map((one) => {
        const field = findField(target, one.field);
        return (
          <div key={one.key} className={classes.carried}>
            <ExpressionField
              label={field?.name ?? one.field}
              text={one.value}
              scope={scope}
              expected={field ? typeOfField(field, compiled.findWorkflow) : undefined}
              at={{ workflow: definition.key, path: within(list, one.key, 'value') }}
              wording={wording}
              isTold
              onKeep={(value) => store.edit({ type: 'change-part', part: within(list, one.key), set: { value } })}
            />
            <UnstyledButton
              className={inspector.link}
              aria-label={`Don’t carry ${field?.name ?? one.field}`}
              onClick={() => store.edit({ type: 'delete-part', part: within(list, one.key), withUses: true })}
            >
              ×
            </UnstyledButton>
          </div>
        );
      })}
      {proposed.length > 0 && (
        <div>
          <Button size="compact-xs" variant="light" onClick={() => carry(proposed)}>
            Carry {proposed.length === 1 ? '1 value' : `${proposed.length} values`} of equal name and type
          </Button>
        </div>
      )}
      <Select
        size="xs"
        aria-label="Carry a value into"
        placeholder="+ a value into a field"
        searchable
        data={open.map((field) => ({ value: field.key, label: field.name }))}
        value={null}
        onChange={(field) => field && carry([{ field, value: proposed.find((one) => one.field === field)?.value ?? 'null' }])}
      />
    </div>
  );
}

/** Fields of the target with the source's value of equal name and type: of the row, then of the record. */
function proposals(
  definition: Workflow,
  { perRow }: FollowUp,
  open: readonly Field[],
  findWorkflow: Parameters<typeof typeOfField>[1],
): readonly { readonly field: string; readonly value: string }[] {
  const table = perRow === null ? null : findField(definition, perRow);
  const columns = table?.type === 'table' ? table.fields : [];
  return open.flatMap((field) => {
    const isLike = (own: { readonly key: string; readonly name: string }): boolean =>
      own.key === field.key || own.name.toLowerCase() === field.name.toLowerCase();
    const type = typeOfField(field, findWorkflow);
    const column = columns.find((own) => isLike(own) && isAssignable(typeOfField(own, findWorkflow), type));
    if (column) return [{ field: field.key, value: `row.${column.key}` }];
    const own = definition.fields.find((one) => isLike(one) && isAssignable(typeOfField(one, findWorkflow), type));
    return own && field.type !== 'file' && field.type !== 'sign-off' ? [{ field: field.key, value: own.key }] : [];
  });
}

function Assignee({ path, followUp, target }: { readonly path: string; readonly followUp: FollowUp; readonly target: Workflow }) {
  const { definition } = useDraft();
  const { scope } = useConditionPlace(followUp.perRow);
  const change = useChange(path);
  const { assignee } = followUp;
  const member = definition.fields.find(({ type }) => type === 'member');
  return (
    <>
      <ChoiceProperty
        label="Who has it"
        value={assignee === null ? null : assignee.kind === 'role' ? `role ${assignee.role}` : 'member'}
        choices={[
          ...target.roles.map(({ key, name }) => ({ value: `role ${key}`, label: `role ${name}` })),
          { value: 'member', label: 'a member whom the record names' },
        ]}
        none="whoever may act at the stage it comes to"
        onKeep={(value) =>
          change({
            assignee:
              value === null
                ? null
                : value === 'member'
                  ? { kind: 'member', expression: member?.key ?? 'actor.id' }
                  : { kind: 'role', role: value.slice('role '.length) },
          })
        }
      />
      {assignee?.kind === 'member' && (
        <ExpressionField
          label="The member"
          text={assignee.expression}
          scope={scope}
          expected={undefined}
          isTold
          onKeep={(expression) => change({ assignee: { kind: 'member', expression } })}
        />
      )}
    </>
  );
}
