import { Button, FileButton, Select, Textarea } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { type Edit, type FieldType, findField, type Json, joinPath, makeCode, type Workflow } from '@ypomet/core';
import { useMemo, useState } from 'react';
import { Notice } from '../../../shared/Notice.tsx';
import { useDraft } from '../../drafts/draft-context.tsx';
import { MAX_FIELDS_AT_ONCE, type MeantField, readFields } from '../../outline/read-fields.ts';
import { readOutlineFile } from '../../outline/read-file.ts';
import inspector from '../Inspector.module.css';
import type { AddingTo, Selection } from '../selection.ts';
import { neededBy, takenKeys, typeChoices } from './field-types.ts';
import classes from './Panel.module.css';

type Props = { readonly to: AddingTo; readonly onSelect: (selection: Selection) => void };

const COLUMN_TYPES: ReadonlySet<FieldType> = new Set(typeChoices(true).map(({ value }) => value));
/** A column of a type that none can have is text. */
const asColumn = (field: MeantField): MeantField => (COLUMN_TYPES.has(field.type) ? field : { ...field, type: 'text' });

/** What a field that somebody means needs to be one. */
function partOf({ key, name, type, options, scale, columns }: MeantField): Record<string, Json> {
  const needed = neededBy(type, []);
  const codes = new Set<string>();
  const meant = options.map((label) => {
    const code = makeCode(label, codes);
    codes.add(code);
    return { code, label };
  });
  const own: Record<string, Json> = {
    ...needed,
    ...(options.length > 0 && 'options' in needed ? { options: meant } : {}),
    ...(type === 'table' && columns.length > 0 ? { fields: columns.map(asColumn).map(partOf) } : {}),
    ...(type === 'number' && scale > 0 ? { scale } : {}),
  };
  return { type, key, name, ...own };
}

/** New fields can be entered where records begin, and are looked at from there on, until the plan says more. */
function enteredAtIntakes({ stages }: Workflow, fields: readonly MeantField[]): readonly Edit[] {
  const intakes = stages.filter(({ kind }) => kind === 'intake');
  const cells = fields.flatMap(({ key, type }) =>
    type === 'note' ? [] : intakes.map((stage) => ({ field: key, stage: stage.key, treatment: 'optional' as const })),
  );
  return cells.length > 0 ? [{ type: 'set-treatments', cells }] : [];
}

/**
 * Who is here: the analyst, with a list in mind, on paper or in a sheet. They type or paste names, look over the types that
 * were guessed, and keep all of them at once.
 */
export function AddFieldsPanel({ to, onSelect }: Props) {
  const { store, definition } = useDraft();
  const [text, setText] = useState('');
  const reading = useMutation({ mutationFn: readOutlineFile, onSuccess: ([first]) => setText(first.text) });
  const [types, setTypes] = useState<ReadonlyMap<string, FieldType>>(new Map());
  const table = to.kind === 'table' ? findField(definition, to.table) : null;
  const siblings = table?.type === 'table' ? table.fields : definition.fields;
  const place = to.kind === 'table' ? table?.name : definition.sections.find(({ key }) => key === to.section)?.name;
  const { fields, leftOut } = useMemo(
    () =>
      readFields(text, takenKeys(definition, to.kind === 'table' ? to.table : null), new Set(siblings.map(({ name }) => name))),
    [text, definition, to, siblings],
  );
  const meant = fields.map((field) => {
    const chosen = { ...field, type: types.get(field.name) ?? field.type };
    return to.kind === 'table' ? asColumn(chosen) : chosen;
  });
  const add = (): void => {
    const [list, more] =
      to.kind === 'table'
        ? [joinPath('fields', to.table, 'fields'), {}]
        : ['fields', { section: to.section, treatment: 'read-only' }];
    const added = meant.map((field): Edit => ({ type: 'add-part', to: list, part: { ...partOf(field), ...more }, before: null }));
    const edits = to.kind === 'table' ? added : [...added, ...enteredAtIntakes(definition, meant)];
    const [first] = meant;
    if (!first || !store.edit(edits.length === 1 ? (edits[0] as Edit) : { type: 'together', edits })) return;
    onSelect({ kind: 'field', field: to.kind === 'table' ? `${to.table}.${first.key}` : first.key });
  };
  const count = meant.length;
  return (
    <>
      <p className={inspector.where}>{to.kind === 'table' ? 'Columns of' : 'Fields in'}</p>
      <h2 className={inspector.title}>{place}</h2>
      <div className={classes.panel}>
        <Textarea
          size="xs"
          label="Names, one a line"
          description="A type may follow: “Insured value; money”, “Kind; choice: loan, gift”. Indented lines under a table are its columns. Or paste from a sheet: a row of names, with rows of samples under it."
          autosize
          minRows={4}
          maxRows={12}
          autoFocus
          value={text}
          onChange={(event) => setText(event.currentTarget.value)}
        />
        <span>
          <FileButton
            accept=".csv,.tsv,.txt,.xlsx,.json"
            onChange={(file) => {
              if (file) reading.mutate(file);
            }}
          >
            {(props) => (
              <Button size="compact-sm" variant="default" loading={reading.isPending} {...props}>
                Read a CSV, XLSX or JSON Schema file
              </Button>
            )}
          </FileButton>
        </span>
        {reading.data && reading.data.length > 1 && (
          <Select
            size="xs"
            label="Sheet"
            data={reading.data.map(({ sheet }) => sheet)}
            defaultValue={reading.data[0].sheet}
            allowDeselect={false}
            onChange={(chosen) => setText(reading.data.find(({ sheet }) => sheet === chosen)?.text ?? '')}
          />
        )}
        {reading.isError && (
          <Notice tone="fault" title={`“${reading.variables?.name}” can’t be read`}>
            {reading.error.message}
          </Notice>
        )}
        {count > 0 && (
          <div className={classes.scroll}>
            <table className={classes.found}>
              <thead>
                <tr>
                  <th scope="col">Name</th>
                  <th scope="col">Type</th>
                </tr>
              </thead>
              <tbody>
                {meant.map((field) => (
                  <tr key={field.key}>
                    <td>
                      {field.name}
                      {field.type === 'table' && field.columns.length > 0 && (
                        <div className={inspector.soft}>{field.columns.map(({ name }) => name).join(', ')}</div>
                      )}
                      {field.options.length > 0 && <div className={inspector.soft}>{field.options.join(', ')}</div>}
                    </td>
                    <td>
                      <Select
                        size="xs"
                        aria-label={`Type of ${field.name}`}
                        data={[...typeChoices(to.kind === 'table')]}
                        value={field.type}
                        allowDeselect={false}
                        onChange={(type) => type && setTypes(new Map(types).set(field.name, type as FieldType))}
                      />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
        {leftOut.length > 0 && (
          <p className={inspector.soft} role="status">
            Left out:{' '}
            {leftOut
              .slice(0, 5)
              .map(({ name }) => name)
              .join(', ')}
            {leftOut.length > 5 ? ` and ${leftOut.length - 5} more` : ''}
            {leftOut.some(({ why }) => why === 'too-many')
              ? `; ${MAX_FIELDS_AT_ONCE} can be added at once.`
              : ', of which there is one already.'}
          </p>
        )}
        <span>
          <Button size="xs" disabled={count === 0} onClick={add}>
            {count <= 1 ? 'Add the field' : `Add ${count} fields`}
          </Button>
        </span>
      </div>
    </>
  );
}
