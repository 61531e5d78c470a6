import { findStage, TYPES } from '@ypomet/core';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import { ChoiceProperty, useChange } from '../plan/panels/properties.tsx';
import classes from './Consequences.module.css';

/** Who is here: the analyst, saying who has the work at a stage: a role, a member, whom a field or a decision table names. */
export function AssignmentPanel({ stage: key }: { readonly stage: string }) {
  const { definition } = useDraft();
  const { scope } = useConditionPlace();
  const change = useChange(`stages.${key}`);
  const stage = findStage(definition, key);
  if (!stage) return <p>This stage is gone.</p>;
  const { assignment } = stage;
  const tables = definition.decisionTables.flatMap((table) =>
    table.outputs.length === 1 ? [table.key] : table.outputs.map((output) => `${table.key}.${output.key}`),
  );
  const members = definition.fields.filter(({ type }) => type === 'member').map((field) => field.key);
  return (
    <>
      <ChoiceProperty
        label="Who has the work"
        value={assignment === null ? null : assignment.kind === 'role' ? `role ${assignment.role}` : assignment.kind}
        choices={[
          ...definition.roles.map((role) => ({ value: `role ${role.key}`, label: `role ${role.name}` })),
          { value: 'member', label: 'the member whom an expression names' },
          { value: 'role-of', label: 'the role that an expression names' },
        ]}
        none="whoever may act at the stage"
        onKeep={(value) => {
          if (value === null) return change({ assignment: null });
          if (value === 'member') return change({ assignment: { kind: value, expression: members[0] ?? 'actor.id' } });
          if (value === 'role-of')
            return change({ assignment: { kind: value, expression: tables[0] ?? `"${stage.roles[0] ?? ''}"` } });
          return change({ assignment: { kind: 'role', role: value.slice('role '.length) } });
        }}
      />
      {assignment && assignment.kind !== 'role' && (
        <ExpressionField
          label={
            assignment.kind === 'member'
              ? 'The member: a field, or a decision table'
              : 'The role: a decision table, or an expression'
          }
          text={assignment.expression}
          scope={scope}
          expected={
            assignment.kind === 'member'
              ? TYPES.text
              : { kind: 'choice', options: definition.roles.map((role) => ({ code: role.key, label: role.name })) }
          }
          at={{ workflow: definition.key, path: `stages.${key}.assignment.expression` }}
          isTold
          onKeep={(expression) => change({ assignment: { ...assignment, expression } })}
        />
      )}
      {assignment && assignment.kind !== 'member' && (
        <ChoiceProperty
          label="Within the role it is"
          value={assignment.share}
          choices={[
            { value: 'everybody', label: 'everybody’s: whoever takes it' },
            { value: 'in-turn', label: 'one member’s, in turn' },
            { value: 'least-loaded', label: 'one member’s, who has least to do' },
          ]}
          onKeep={(share) => share && change({ assignment: { ...assignment, share } })}
        />
      )}
      {assignment && (
        <ChoiceProperty
          label="When nobody fits"
          value={assignment.otherwise}
          choices={definition.roles.map((role) => ({ value: role.key, label: `role ${role.name}` }))}
          none="whoever may act at the stage"
          onKeep={(otherwise) => change({ assignment: { ...assignment, otherwise } })}
        />
      )}
      <p className={classes.soft}>That nobody fitted is told in the record’s history, with the reason.</p>
    </>
  );
}
