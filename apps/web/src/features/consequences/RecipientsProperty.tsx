import { Button, Select, TextInput, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { isMailAddress, type Json, type MailDelivery, makeKey, type Path, TYPES, type Type, within } from '@ypomet/core';
import { useState } from 'react';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { membersQuery } from '../drafts/queries.ts';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import inspector from '../plan/Inspector.module.css';
import classes from './Consequences.module.css';

type Recipient = MailDelivery['to'][number];

/** Who gets a mail: somebody who is named, or whoever the record or an expression names. */
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
  const [isAdding, setAdding] = useState(false);
  const fieldsOf = (type: 'text' | 'member') => definition.fields.filter((field) => field.type === type);
  const choices = [
    {
      group: 'Somebody',
      items: [
        { value: 'submitter', label: 'the submitter' },
        { value: 'address', label: 'an address …' },
      ],
    },
    { group: 'Roles', items: definition.roles.map(({ key, name }) => ({ value: `role ${key}`, label: `role ${name}` })) },
    { group: 'Members', items: (members.data ?? []).map(({ id, name }) => ({ value: `member ${id}`, label: name })) },
    {
      group: 'From the record',
      items: [
        ...fieldsOf('member').map(({ key, name }) => ({ value: `member-of ${key}`, label: `the member in ${name}` })),
        ...fieldsOf('text').map(({ key, name }) => ({ value: `expression ${key}`, label: `the address in ${name}` })),
      ],
    },
    {
      group: 'By table or expression',
      items: [
        { value: 'expression ""', label: 'addresses by an expression' },
        { value: 'member-of ""', label: 'a member by an expression' },
        ...(definition.roles.length > 0 ? [{ value: 'role-of', label: 'a role by an expression' }] : []),
      ],
    },
  ];
  const choose = (value: string): void => {
    const [kind = '', of = ''] = value.split(' ');
    if (kind === 'address') setAdding(true);
    else if (kind === 'role') add({ kind, role: of });
    else if (kind === 'member') add({ kind, member: of });
    else if (kind === 'submitter') add({ kind });
    else if (kind === 'role-of') add({ kind, expression: JSON.stringify(definition.roles[0]?.key ?? '') });
    else add({ kind, expression: of });
  };
  const nameOf = (one: Recipient): string => {
    switch (one.kind) {
      case 'role':
        return `role ${definition.roles.find(({ key }) => key === one.role)?.name ?? one.role}`;
      case 'member':
        return members.data?.find(({ id }) => id === one.member)?.name ?? 'a member who is gone';
      case 'submitter':
        return 'the submitter';
      case 'address':
        return one.address;
      default:
        return WORDS[one.kind];
    }
  };
  return (
    <div className={classes.labelled} role="group" aria-label={label}>
      <span className={classes.label}>{label}</span>
      <div className={classes.recipients}>
        {recipients.map((one) => (
          <div key={one.key} className={'expression' in one ? classes.addressed : classes.recipient}>
            {'expression' in one ? <Named list={list} recipient={one} /> : <span>{nameOf(one)}</span>}
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
        {isAdding && (
          <NewAddress
            label={label}
            onKeep={(address) => {
              setAdding(false);
              if (address !== null) add({ kind: 'address', address });
            }}
          />
        )}
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

type Expressed = Extract<Recipient, { readonly expression: string }>;
const WORDS: Readonly<Record<Expressed['kind'], string>> = {
  expression: 'address',
  'member-of': 'member by an expression',
  'role-of': 'role by an expression',
};
const LABELS: Readonly<Record<Expressed['kind'], string>> = {
  expression: 'An address, or a list of them',
  'member-of': 'The member whom this names',
  'role-of': 'The role whose key this names',
};

/** An address that is typed: it is added when it is one, and given up by Escape or when nothing was typed. */
function NewAddress({ label, onKeep }: { readonly label: string; readonly onKeep: (address: string | null) => void }) {
  const [text, setText] = useState('');
  const [isTold, setTold] = useState(false);
  const settle = (): void => {
    const address = text.trim();
    if (address === '') onKeep(null);
    else if (isMailAddress(address)) onKeep(address);
    else setTold(true);
  };
  return (
    <TextInput
      size="xs"
      type="text"
      inputMode="email"
      aria-label={`${label}: address`}
      placeholder="name@example.org"
      autoFocus
      value={text}
      maxLength={254}
      error={isTold ? 'This is not one e-mail address. Write it like name@example.org.' : undefined}
      onChange={(event) => {
        setText(event.currentTarget.value);
        setTold(false);
      }}
      onBlur={settle}
      onKeyDown={(event) => {
        if (event.key === 'Enter') settle();
        if (event.key === 'Escape') onKeep(null);
      }}
    />
  );
}

/** A receiver that an expression names. */
function Named({ list, recipient }: { readonly list: Path; readonly recipient: Expressed }) {
  const { store, definition } = useDraft();
  const { scope } = useConditionPlace();
  const part = within(list, recipient.key);
  const roles: Type = { kind: 'choice', options: definition.roles.map(({ key, name }) => ({ code: key, label: name })) };
  const isList = recipient.kind === 'expression' && recipient.expression.includes('.');
  return (
    <ExpressionField
      label={LABELS[recipient.kind]}
      text={recipient.expression}
      scope={scope}
      expected={recipient.kind === 'role-of' ? roles : isList ? undefined : TYPES.text}
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
