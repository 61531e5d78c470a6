import { Button, Select, TextInput, UnstyledButton } from '@mantine/core';
import { canBeAnswered, type Field, findField, isComputed, type Json, makeKey, type Path, within } from '@ypomet/core';
import type { ReactNode } from 'react';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import inspector from '../plan/Inspector.module.css';
import { TextProperty } from '../plan/panels/properties.tsx';
import classes from './Consequences.module.css';

type Pair = { readonly key: string; readonly name: string };
type List = ReturnType<typeof useList>;

function useList(list: Path, pairs: readonly Pair[]) {
  const { store } = useDraft();
  return {
    add: (base: string, part: Readonly<Record<string, Json>>): void => {
      const key = makeKey(base, new Set(pairs.map((own) => own.key)), 'part');
      store.edit({ type: 'add-part', to: list, part: { key, ...part }, before: null });
    },
    set: (key: string, set: Readonly<Record<string, Json>>): boolean =>
      store.edit({ type: 'change-part', part: within(list, key), set }),
    remove: (key: string): void => void store.edit({ type: 'delete-part', part: within(list, key), withUses: true }),
  };
}

/** Pairs under a label: each with its name, what it is paired with and a way to take it away, then a way to add one. */
function Pairs<T extends Pair>({
  label,
  nameLabel,
  pairs,
  list,
  note = null,
  paired,
  children,
}: {
  readonly label: string;
  readonly nameLabel: string;
  readonly pairs: readonly T[];
  readonly list: List;
  readonly note?: string | null;
  readonly paired: (pair: T) => ReactNode;
  /** How one is added. */
  readonly children: ReactNode;
}) {
  return (
    <div className={classes.labelled} role="group" aria-label={label}>
      <span className={classes.label}>{label}</span>
      {note !== null && <p className={inspector.soft}>{note}</p>}
      {pairs.map((one) => (
        <div key={one.key} className={classes.pair}>
          <TextProperty label={nameLabel} value={one.name} isCode onKeep={(name) => list.set(one.key, { name })} />
          {paired(one)}
          <UnstyledButton className={inspector.link} aria-label={`Without ${one.name}`} onClick={() => list.remove(one.key)}>
            ×
          </UnstyledButton>
        </div>
      ))}
      {children}
    </div>
  );
}

/** One more, of a field. */
const AddOfField = ({
  label,
  placeholder,
  fields,
  onAdd,
}: {
  readonly label: string;
  readonly placeholder: string;
  readonly fields: readonly Field[];
  readonly onAdd: (field: string) => void;
}) => (
  <Select
    size="xs"
    aria-label={label}
    placeholder={placeholder}
    searchable
    data={fields.map((field) => ({ value: field.key, label: field.name }))}
    value={null}
    onChange={(field) => field && onAdd(field)}
  />
);

/** What a request or a file holds: names with the values they have. None: every field that may be read. */
export function PropertiesProperty({
  list,
  properties,
}: {
  readonly list: Path;
  readonly properties: readonly (Pair & { readonly value: string })[];
}) {
  const { definition } = useDraft();
  const { scope } = useConditionPlace();
  const own = useList(list, properties);
  return (
    <Pairs
      label="What it holds"
      nameLabel="Name"
      pairs={properties}
      list={own}
      note={properties.length === 0 ? 'The whole record: every field that its readers may read. Add properties to choose.' : null}
      paired={({ key, name, value }) => (
        <ExpressionField
          label={`Value of ${name}`}
          text={value}
          scope={scope}
          expected={undefined}
          at={{ workflow: definition.key, path: within(list, key, 'value') }}
          onKeep={(text) => own.set(key, { value: text })}
        />
      )}
    >
      <AddOfField
        label="Add a property"
        placeholder="+ a property"
        fields={definition.fields.filter(({ type }) => type !== 'note')}
        onAdd={(field) => own.add(field, { name: field, value: field })}
      />
    </Pairs>
  );
}

/** Values taken from an answer: where in it, and the field each goes to. */
export function AnswersProperty({
  list,
  answers,
}: {
  readonly list: Path;
  readonly answers: readonly (Pair & { readonly field: string })[];
}) {
  const { definition } = useDraft();
  const own = useList(list, answers);
  const open = definition.fields.filter((field) => canBeAnswered(field) && !isComputed(field));
  return (
    <Pairs
      label="Taken from the answer"
      nameLabel="In the answer"
      pairs={answers}
      list={own}
      paired={({ field }) => (
        <p className={classes.into}>
          into <strong>{findField(definition, field)?.name ?? field}</strong>
        </p>
      )}
    >
      <AddOfField
        label="Take a value into a field"
        placeholder="+ into a field"
        fields={open}
        onAdd={(field) => own.add(field, { name: field, field })}
      />
    </Pairs>
  );
}

/** Headers of a request. */
export function HeadersProperty({
  list,
  headers,
}: {
  readonly list: Path;
  readonly headers: readonly (Pair & { readonly value: string })[];
}) {
  const own = useList(list, headers);
  return (
    <Pairs
      label="Headers"
      nameLabel="Name"
      pairs={headers}
      list={own}
      paired={({ key, name, value }) => (
        <TextInput
          size="xs"
          label={`Value of ${name}`}
          defaultValue={value}
          onBlur={(event) => own.set(key, { value: event.currentTarget.value })}
        />
      )}
    >
      <div>
        <Button
          size="compact-xs"
          variant="subtle"
          onClick={() => own.add('header', { name: 'X-Loan', value: '{{record.number}}' })}
        >
          + a header
        </Button>
      </div>
    </Pairs>
  );
}
