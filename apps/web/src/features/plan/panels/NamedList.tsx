import { ActionIcon, Button, Select, TextInput } from '@mantine/core';
import { joinPath, type Path, type RegisterRight } from '@ypomet/core';
import { useDraft } from '../../drafts/draft-context.tsx';
import { Word } from '../../help/Word.tsx';
import { newNamed } from './new-parts.ts';
import classes from './Panel.module.css';
import { useDelete, useMove } from './PartActions.tsx';
import { SwitchProperty, TextProperty, useChange } from './properties.tsx';

type List = 'roles' | 'tracks' | 'sections';
const WORDS: Readonly<Record<List, { readonly one: string; readonly fresh: string }>> = {
  roles: { one: 'role', fresh: 'New role' },
  tracks: { one: 'track', fresh: 'New track' },
  sections: { one: 'section', fresh: 'New section' },
};

/** Roles, tracks or sections: renamed in place, ordered, added, deleted. */
export function NamedList({ list, title }: { readonly list: List; readonly title: string }) {
  const { store, definition } = useDraft();
  return (
    <section aria-label={title}>
      <h2>{list === 'tracks' ? <Word of="track">{title}</Word> : title}</h2>
      {definition[list].map((part) => (
        <NamedRow
          key={part.key}
          list={list}
          part={part.key}
          name={part.name}
          notes={'notes' in part ? part.notes : undefined}
          page={'page' in part ? part.page : undefined}
          register={'register' in part ? part.register : undefined}
        />
      ))}
      <Button size="compact-sm" variant="default" onClick={() => store.edit(newNamed(definition, list, WORDS[list].fresh).edit)}>
        Add a {WORDS[list].one}
      </Button>
    </section>
  );
}

/** What colleagues should know of a track. */
function TrackNotes({ part, name, notes }: { readonly part: Path; readonly name: string; readonly notes: string }) {
  const change = useChange(part);
  return (
    <details className={classes.about}>
      <summary>Notes{notes === '' ? '' : ` (${notes.length > 40 ? `${notes.slice(0, 40)}…` : notes})`}</summary>
      <TextProperty
        label={`Notes of ${name}, for colleagues`}
        value={notes}
        lines={2}
        onKeep={(next) => change({ notes: next })}
      />
    </details>
  );
}

/** Whether a section begins a page of the participant's form. */
function StartsPage({ part, name, page }: { readonly part: Path; readonly name: string; readonly page: boolean }) {
  const change = useChange(part);
  return <SwitchProperty label={`${name} begins a page of the form`} value={page} onKeep={(next) => change({ page: next })} />;
}

const RIGHTS: readonly { readonly value: RegisterRight; readonly label: string }[] = [
  { value: 'none', label: 'sees no register' },
  { value: 'shown', label: 'sees the register as its stages show it' },
  { value: 'all', label: 'sees every field in the register' },
];

/** What of the register holders of a role see. */
function RightToRegister({ part, name, right }: { readonly part: Path; readonly name: string; readonly right: RegisterRight }) {
  const change = useChange(part);
  return (
    <Select
      size="xs"
      variant="unstyled"
      classNames={{ root: classes.right, input: classes.rightInput }}
      aria-label={`What ${name} sees of the register`}
      data={[...RIGHTS]}
      value={right}
      allowDeselect={false}
      onChange={(next) => next !== null && change({ register: next })}
    />
  );
}

type RowProps = {
  readonly list: List;
  readonly part: string;
  readonly name: string;
  readonly notes: string | undefined;
  readonly page: boolean | undefined;
  readonly register: RegisterRight | undefined;
};

function NamedRow({ list, part: key, name, notes, page, register }: RowProps) {
  const { store } = useDraft();
  const part = joinPath(list, key);
  const { earlier, later } = useMove(part);
  const { ask, question } = useDelete(part, () => {});
  return (
    <>
      <div className={classes.row}>
        <TextInput
          key={name}
          size="xs"
          variant="unstyled"
          aria-label={`Name of the ${WORDS[list].one} ${name}`}
          defaultValue={name}
          onBlur={(event) => {
            const next = event.currentTarget.value.trim();
            if (next === name) return;
            if (next === '' || !store.edit({ type: 'change-part', part, set: { name: next } })) event.currentTarget.value = name;
          }}
          onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
        />
        <ActionIcon size={24} variant="subtle" aria-label={`Move ${name} up`} disabled={!earlier} onClick={() => earlier?.()}>
          ↑
        </ActionIcon>
        <ActionIcon size={24} variant="subtle" aria-label={`Move ${name} down`} disabled={!later} onClick={() => later?.()}>
          ↓
        </ActionIcon>
        <ActionIcon size={24} variant="subtle" aria-label={`Delete ${name}`} onClick={ask}>
          ×
        </ActionIcon>
      </div>
      {question}
      {page !== undefined && <StartsPage part={part} name={name} page={page} />}
      {register !== undefined && <RightToRegister part={part} name={name} right={register} />}
      {notes !== undefined && <TrackNotes part={part} name={name} notes={notes} />}
    </>
  );
}
