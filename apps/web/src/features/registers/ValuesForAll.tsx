import { ActionIcon, Select } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import type { RecordDocument } from '@ypomet/contract';
import { decidedOf, type Field, isEnterable, makeCalendar, makeOutside, openStoredWorkflow, prepareWorkflow } from '@ypomet/core';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Loaded } from '../../shared/Loaded.tsx';
import { FieldInput } from '../forms/FieldInput.tsx';
import { type Entered, makeFormState } from '../forms/form-state.ts';
import { type FormWorld, FormWorldProvider } from '../forms/form-world.tsx';
import { toRecord } from '../forms/to-record.ts';
import { findRecordChoices, recordQuery } from '../records/queries.ts';
import { useSession } from '../session/queries.ts';
import classes from './Register.module.css';

/** Types of fields that can be entered for many records at once: one input each, and no files or signatures. */
const FOR_ALL: ReadonlySet<Field['type']> = new Set([
  'text',
  'long-text',
  'number',
  'money',
  'yes-no',
  'date',
  'time',
  'date-time',
  'choice',
  'multi-choice',
  'member',
]);

type Props = {
  /** A record on which the hand-off can be pressed: its form says what can be entered. */
  readonly sample: string;
  readonly entered: Entered;
  readonly isDisabled: boolean;
  readonly onEnter: (entered: Entered) => void;
};

/**
 * Who is here: somebody who hands many records on and owes each the same answer, such as a reason. They want to enter it once.
 * What is entered replaces what the records hold; one that doesn't take it is refused by itself.
 */
export function ValuesForAll({ sample, ...rest }: Props) {
  const query = useQuery(recordQuery(sample));
  return (
    <Loaded query={query} rows={1}>
      {(found) => <Fields found={found} {...rest} />}
    </Loaded>
  );
}

function Fields({ found, entered, isDisabled, onEnter }: Omit<Props, 'sample'> & { readonly found: RecordDocument }) {
  const { member, workspace } = useSession();
  const { record: header, form: document } = found;
  const fields = useMemo(() => {
    const { zone, locale } = workspace;
    const outside = makeOutside({ now: Date.now(), zone, locale, calendar: makeCalendar(workspace.calendar) });
    const workflow = prepareWorkflow(openStoredWorkflow(document.definition));
    const { form } = makeFormState({ workflow, record: toRecord(header, document), actor: member, outside }, {});
    return workflow.forms.fields.flatMap((of) =>
      FOR_ALL.has(of.field.type) && isEnterable(decidedOf(form, of).treatment) ? [of.field] : [],
    );
  }, [header, document, member, workspace]);
  const world = useMemo<FormWorld>(
    () => ({
      zone: workspace.zone,
      locale: workspace.locale,
      names: document.names,
      findChoices: (path, search) => findRecordChoices(header.id, path, search),
      handOver: () => Promise.reject(new Error('no files are entered for many records')),
      filesOf: null,
      signer: member.name,
      brokenSignOffs: [],
    }),
    [workspace, document, header.id, member.name],
  );
  /** The field that was added last: its input has the focus once it is there. */
  const [added, setAdded] = useState<string | null>(null);
  const inputs = useRef<HTMLFieldSetElement>(null);
  useEffect(() => {
    if (added !== null) inputs.current?.querySelector<HTMLElement>(`#for-all-${CSS.escape(added)}`)?.focus();
  }, [added]);
  const open = fields.filter(({ key }) => Object.hasOwn(entered, key));
  const rest = fields.filter(({ key }) => !Object.hasOwn(entered, key));
  if (fields.length === 0) return null;
  return (
    <FormWorldProvider value={world}>
      <fieldset ref={inputs} className={classes.forAll} disabled={isDisabled}>
        <legend>The same for all of them</legend>
        {open.map((field) => (
          <div key={field.key} className={classes.valueForAll}>
            <label htmlFor={`for-all-${field.key}`}>{field.name}</label>
            <FieldInput
              id={`for-all-${field.key}`}
              field={field}
              path={field.key}
              value={entered[field.key] ?? null}
              stored={null}
              hasError={false}
              onEnter={(value) => onEnter({ ...entered, [field.key]: value })}
            />
            <ActionIcon
              variant="subtle"
              color="gray"
              aria-label={`Leave ${field.name} as it is`}
              onClick={() => onEnter(Object.fromEntries(Object.entries(entered).filter(([key]) => key !== field.key)))}
            >
              <IconX size={14} />
            </ActionIcon>
          </div>
        ))}
        {rest.length > 0 && (
          <Select
            size="xs"
            w={260}
            aria-label="Enter a value for all"
            placeholder="Enter a value for all …"
            searchable
            data={rest.map(({ key, name }) => ({ value: key, label: name }))}
            value={null}
            onChange={(key) => {
              if (key === null) return;
              setAdded(key);
              onEnter({ ...entered, [key]: null });
            }}
          />
        )}
        {open.length > 0 && <p className={classes.soft}>It replaces what the records hold there.</p>}
      </fieldset>
    </FormWorldProvider>
  );
}
