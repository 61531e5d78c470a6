import { Button, Select, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { type Json, type MailDelivery, makeKey, type Path, TYPES, within } from '@ypomet/core';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { membersQuery } from '../drafts/queries.ts';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import inspector from '../plan/Inspector.module.css';
import classes from './Consequences.module.css';

type Recipient = MailDelivery['to'][number];

/** Who gets a mail: roles, members, the submitter, or addresses that an expression gives. */
export function RecipientsProperty({
  label,
  list,
  recipients,
  isNeeded = false,
}: {
  readonly label: string;
  readonly list: Path;
  readonly recipients: readonly Recipient[];
  /** Whether the last one can't go. */
  readonly isNeeded?: boolean;
}) {
  const { store, definition } = useDraft();
  const members = useQuery(membersQuery);
  const add = (part: Readonly<Record<string, Json>>): void => {
    const key = makeKey(String(part.role ?? part.kind), new Set(recipients.map((own) => own.key)), 'to');
    store.edit({ type: 'add-part', to: list, part: { key, ...part }, before: null });
  };
  const choices = [
    {
      group: 'Somebody',
      items: [
        { value: 'submitter', label: 'the submitter' },
        { value: 'expression', label: 'an address from the record' },
      ],
    },
    { group: 'Roles', items: definition.roles.map(({ key, name }) => ({ value: `role ${key}`, label: `role ${name}` })) },
    { group: 'Members', items: (members.data ?? []).map(({ id, name }) => ({ value: `member ${id}`, label: name })) },
  ];
  const choose = (value: string): void => {
    const [kind = '', of = ''] = value.split(' ');
    if (kind === 'role') add({ kind, role: of });
    else if (kind === 'member') add({ kind, member: of });
    else if (kind === 'submitter') add({ kind });
    else {
      const field =
        definition.fields.find((own) => own.type === 'text' && /mail/i.test(own.key)) ??
        definition.fields.find(({ type }) => type === 'text');
      add({ kind: 'expression', expression: field?.key ?? '""' });
    }
  };
  const nameOf = (one: Recipient): string => {
    if (one.kind === 'role') return `role ${definition.roles.find(({ key }) => key === one.role)?.name ?? one.role}`;
    if (one.kind === 'member') return members.data?.find(({ id }) => id === one.member)?.name ?? 'a member who is gone';
    return one.kind === 'submitter' ? 'the submitter' : 'address';
  };
  return (
    <div className={classes.labelled} role="group" aria-label={label}>
      <span className={classes.label}>{label}</span>
      <div className={classes.recipients}>
        {recipients.map((one) => (
          <div key={one.key} className={one.kind === 'expression' ? classes.addressed : classes.recipient}>
            {one.kind === 'expression' ? <Address list={list} recipient={one} /> : <span>{nameOf(one)}</span>}
            <UnstyledButton
              className={inspector.link}
              aria-label={`${label}: without ${nameOf(one)}`}
              disabled={isNeeded && recipients.length === 1}
              onClick={() => store.edit({ type: 'delete-part', part: within(list, one.key), withUses: true })}
            >
              ×
            </UnstyledButton>
          </div>
        ))}
        <Select
          size="xs"
          className={classes.add}
          aria-label={`${label}: add somebody`}
          placeholder="+ somebody"
          searchable
          data={choices}
          value={null}
          onChange={(value) => value && choose(value)}
        />
      </div>
    </div>
  );
}

function Address({ list, recipient }: { readonly list: Path; readonly recipient: Extract<Recipient, { kind: 'expression' }> }) {
  const { store, definition } = useDraft();
  const { scope } = useConditionPlace();
  const part = within(list, recipient.key);
  return (
    <ExpressionField
      label="An address, or a list of them"
      text={recipient.expression}
      scope={scope}
      expected={recipient.expression.includes('.') ? undefined : TYPES.text}
      at={{ workflow: definition.key, path: within(part, 'expression') }}
      isTold
      onKeep={(expression) => store.edit({ type: 'change-part', part, set: { expression } })}
    />
  );
}

export const MoveButtons = ({
  name,
  earlier,
  later,
}: {
  readonly name: string;
  readonly earlier: (() => void) | null;
  readonly later: (() => void) | null;
}) => (
  <span>
    <Button size="compact-xs" variant="subtle" aria-label={`${name} earlier`} disabled={!earlier} onClick={() => earlier?.()}>
      ↑
    </Button>
    <Button size="compact-xs" variant="subtle" aria-label={`${name} later`} disabled={!later} onClick={() => later?.()}>
      ↓
    </Button>
  </span>
);
