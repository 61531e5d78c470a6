import { Button } from '@mantine/core';
import type { RegisterDocument } from '@ypomet/contract';
import { makeCalendar, makeWording, registerScope } from '@ypomet/core';
import { useMemo } from 'react';
import { ConditionEditor } from '../conditions/ConditionEditor.tsx';
import type { ConditionPlace } from '../conditions/place.ts';
import { useSession } from '../session/queries.ts';
import classes from './Register.module.css';
import { useRegisterStyle } from './use-register-style.ts';

/** Holds for every record: what an outline without clauses says. */
const ALL = 'true';

/** The condition that a register's records are filtered by: the same editor that designs conditions. */
export function FilterPanel({
  register,
  filter,
  onFilter,
}: {
  readonly register: RegisterDocument;
  readonly filter: string;
  readonly onFilter: (filter: string) => void;
}) {
  const place = useRegisterPlace(register);
  return (
    <section className={classes.filter} aria-label="Filter">
      <ConditionEditor
        text={filter === '' ? ALL : filter}
        label="Records are shown for which this holds"
        path={null}
        place={place}
        onChange={(text) => onFilter(text === ALL ? '' : text)}
      />
      {filter !== '' && (
        <Button size="compact-xs" variant="subtle" onClick={() => onFilter('')}>
          Take the filter away
        </Button>
      )}
    </section>
  );
}

/** Where the condition stands: over what the register can be searched by. */
function useRegisterPlace(register: RegisterDocument): ConditionPlace {
  const { workspace } = useSession();
  const style = useRegisterStyle({});
  const { locale, zone } = style;
  return useMemo(() => {
    const known = new Set(register.searchable);
    const workflow = { ...register.definition, fields: register.definition.fields.filter(({ key }) => known.has(key)) };
    const names = new Map(register.members.map(({ id, name }) => [id, name]));
    const named = { locale, zone, nameOf: (id: string) => names.get(id) ?? null };
    return {
      workflow,
      findWorkflow: () => null,
      scope: registerScope(register),
      wording: makeWording(workflow, named),
      style: named,
      members: register.members,
      environment: { now: Date.now(), zone, calendar: makeCalendar(workspace.calendar) },
      explain: () => null,
      rows: null,
      mayBeNamed: false,
    };
  }, [register, locale, zone, workspace.calendar]);
}
