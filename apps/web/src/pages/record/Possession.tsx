import { Button, Select } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import type { RecordDocument } from '@ypomet/contract';
import { useState } from 'react';
import { colleaguesQuery, usePossess } from '../../features/records/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import type { Keeping } from '../../features/unfinished/keeper.ts';
import { problemText } from '../../shared/problems.ts';
import classes from './RecordPage.module.css';

/** Who has the record, and what can be done about that: take it, give it back, hand it over to a colleague. */
export function Possession({
  document: { record, possession, mayAct },
  keeping,
}: {
  readonly document: RecordDocument;
  /** Where what was entered is: the record isn't given away before that is on the server. */
  readonly keeping: Keeping;
}) {
  const { member } = useSession();
  const change = usePossess(record.id);
  const [isHandingOver, setHandingOver] = useState(false);
  const { mayTake, mayGiveBack, mayHandOver } = possession;
  const isUnkept = keeping.status === 'here';
  const isMine = record.assignee?.kind === 'member' && record.assignee.member === member.id;
  if (!mayTake && !mayGiveBack && !mayHandOver && record.assigneeName === null) return null;
  const who = isMine
    ? 'You have it.'
    : record.assigneeName !== null
      ? `${record.assigneeName} has it.`
      : mayAct
        ? 'Nobody has taken it yet.'
        : 'Others have it.';
  const act = (kind: 'take' | 'give-back'): void => change.mutate({ kind, revision: record.revision });
  return (
    <section className={classes.possession} aria-label="Who has it">
      <span>{who}</span>
      {mayTake && (
        <Button size="compact-sm" variant="default" loading={change.isPending} onClick={() => act('take')}>
          {record.assigneeName === null ? 'Take it' : 'Take it over'}
        </Button>
      )}
      {mayGiveBack && (
        <Button
          size="compact-sm"
          variant="default"
          disabled={isUnkept}
          loading={change.isPending}
          onClick={() => act('give-back')}
        >
          Give it back
        </Button>
      )}
      {mayHandOver && !isHandingOver && (
        <Button size="compact-sm" variant="subtle" disabled={isUnkept} onClick={() => setHandingOver(true)}>
          Hand it over …
        </Button>
      )}
      {isHandingOver && (
        <Colleagues
          id={record.id}
          onChosen={(to) => change.mutate({ kind: 'hand-over', to, revision: record.revision })}
          onLeave={() => setHandingOver(false)}
        />
      )}
      {keeping.status !== 'nothing' && (mayGiveBack || mayHandOver) && (
        <span className={classes.soft}>What you entered stays with you: nobody else gets it before you hand on.</span>
      )}
      {change.isError && (
        <span role="alert" className={classes.soft}>
          {problemText(change.error)}
        </span>
      )}
    </section>
  );
}

function Colleagues({
  id,
  onChosen,
  onLeave,
}: {
  readonly id: string;
  readonly onChosen: (member: string) => void;
  readonly onLeave: () => void;
}) {
  const [typed, setTyped] = useState('');
  const [search] = useDebouncedValue(typed, 200);
  const { data = [], isSuccess } = useQuery(colleaguesQuery(id, search));
  return (
    <Select
      size="xs"
      aria-label="Hand it over to"
      placeholder="to whom?"
      data={data.map(({ id: value, name }) => ({ value, label: name }))}
      searchable
      searchValue={typed}
      onSearchChange={setTyped}
      nothingFoundMessage={
        !isSuccess ? '…' : typed === '' ? 'Nobody else may act here.' : 'No colleague by that name may act here.'
      }
      defaultDropdownOpened
      autoFocus
      onChange={(value) => value && onChosen(value)}
      onKeyDown={(event) => event.key === 'Escape' && onLeave()}
    />
  );
}
