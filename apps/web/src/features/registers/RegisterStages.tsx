import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import type { RegisterDocument, RegisterTotals } from '@ypomet/contract';
import { Link } from 'react-router';
import { Due } from '../../shared/Due.tsx';
import { Loaded } from '../../shared/Loaded.tsx';
import { LoadedPages } from '../../shared/LoadedPages.tsx';
import { useSession } from '../session/queries.ts';
import { type Column, cellText, columnsOf, fieldsOn } from './columns.ts';
import { registerRecordsQuery, registerTotalsQuery } from './queries.ts';
import classes from './Register.module.css';
import type { Shown } from './register-state.ts';
import { useRegisterStyle } from './use-register-style.ts';

type Props = { readonly register: RegisterDocument; readonly shown: Shown };
/** Lines of a card beneath its number. */
const LINES = 3;

/** The stages as columns: at each the records that are there. */
export function RegisterStages({ register, shown }: Props) {
  const totals = useQuery(registerTotalsQuery(register.definition.key, shown));
  return (
    <Loaded query={totals}>
      {({ stages }) => {
        const known = register.definition.stages.filter(({ kind }) => kind !== 'junction');
        const counts = new Map(stages.map((one) => [one.stage, one.count]));
        const others = stages.filter(({ stage }) => !known.some(({ key }) => key === stage));
        const columns = [...known.map(({ key, name }) => ({ stage: key, name, count: counts.get(key) ?? 0 })), ...others].filter(
          ({ stage, count }) => count > 0 || register.definition.stages.find(({ key }) => key === stage)?.kind === 'work',
        );
        return (
          // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard
          <section className={classes.stages} aria-label="Stages" tabIndex={0}>
            {columns.map((stage) => (
              <Stage key={stage.stage} register={register} shown={shown} of={stage} />
            ))}
          </section>
        );
      }}
    </Loaded>
  );
}

function Stage({ register, shown, of }: Props & { readonly of: RegisterTotals['stages'][number] }) {
  const known = columnsOf(register);
  const lines = shown.columns
    .filter((id) => !['record.number', 'record.stage', 'record.due'].includes(id))
    .slice(0, LINES)
    .flatMap((id): readonly Column[] => known.filter((column) => column.id === id));
  const fields = fieldsOn(
    register,
    lines.map(({ id }) => id),
  );
  const list = useInfiniteQuery({
    ...registerRecordsQuery(register.definition.key, shown, fields, of.stage),
    enabled: of.count > 0,
  });
  const names = Object.assign({}, ...(list.data?.pages ?? []).map((page) => page.names)) as Record<string, string>;
  const style = useRegisterStyle(names);
  const { workspace } = useSession();
  return (
    <section className={classes.stage} aria-label={`${of.name}, ${of.count}`}>
      <h2>
        {of.name} <span>{of.count}</span>
      </h2>
      {of.count > 0 && (
        <LoadedPages list={list} rows={2} empty={null}>
          {(entries) => (
            <ul>
              {entries.map((entry) => (
                <li key={entry.record.id}>
                  <Link to={`/records/${entry.record.id}`} className={classes.card}>
                    <strong className="mono">{entry.record.number}</strong>
                    {lines.map((column) => {
                      const text = cellText(column, entry, style, register);
                      return text === '' ? null : (
                        <span key={column.id} title={column.name}>
                          {text}
                        </span>
                      );
                    })}
                    {entry.record.due !== null && (
                      <Due due={entry.record.due} isOverdue={entry.record.isOverdue} place={workspace} />
                    )}
                  </Link>
                </li>
              ))}
            </ul>
          )}
        </LoadedPages>
      )}
    </section>
  );
}
