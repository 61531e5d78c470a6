import { Button } from '@mantine/core';
import { useInfiniteQuery, useMutation, useQuery } from '@tanstack/react-query';
import type { RegisterDocument, RegisterEntry, RegisterTotals } from '@ypomet/contract';
import { formatValue, readExact, type Style } from '@ypomet/core';
import { lazy, Suspense, useState } from 'react';
import { LoadedPages } from '../../shared/LoadedPages.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { problemText } from '../../shared/problems.ts';
import { columnsOf, fieldOf, fieldsOn } from './columns.ts';
import type { Chosen } from './HandOnMany.tsx';
import { readAllMatching, registerRecordsQuery, registerTotalsQuery } from './queries.ts';
import classes from './Register.module.css';
import { RegisterTable } from './RegisterTable.tsx';
import { orderedBy, type Shown } from './register-state.ts';
import { useRegisterStyle } from './use-register-style.ts';

const HandOnMany = lazy(async () => ({ default: (await import('./HandOnMany.tsx')).HandOnMany }));
/** How many records are handed on at once. */
const MAX_CHOSEN = 1000;

type Props = { readonly register: RegisterDocument; readonly shown: Shown; readonly onShow: (shown: Shown) => void };

/** The records as narrowed, as a list, with how many there are and what their numbers come to. */
export function RegisterList({ register, shown, onShow }: Props) {
  const { key } = register.definition;
  const list = useInfiniteQuery(registerRecordsQuery(key, shown, fieldsOn(register, shown.columns)));
  const summed = shown.columns.filter((column) => {
    const type = fieldOf(register, column)?.type;
    return (type === 'number' || type === 'money') && register.searchable.includes(column);
  });
  const totals = useQuery(registerTotalsQuery(key, shown, summed));
  const names = Object.assign({}, ...(list.data?.pages ?? []).map((page) => page.names)) as Record<string, string>;
  const style = useRegisterStyle(names);
  const known = new Map(columnsOf(register).map((column) => [column.id, column]));
  const columns = shown.columns.flatMap((id) => known.get(id) ?? []);
  const [chosen, setChosen] = useState<Chosen>(new Map());
  const [isHandingOn, setHandingOn] = useState(false);
  const choose = (records: readonly RegisterEntry['record'][], isChosen: boolean): void =>
    setChosen((before) => {
      const next = new Map(before);
      for (const record of records) {
        if (isChosen) next.set(record.id, record);
        else next.delete(record.id);
      }
      return next;
    });
  const all = useMutation({ mutationFn: () => readAllMatching(key, shown, MAX_CHOSEN) });
  // Nobody hands on what they don't see: records that were chosen in another list are let go, and that is said.
  const narrowing = JSON.stringify([shown.find, shown.filter]);
  const [seen, setSeen] = useState(narrowing);
  const [letGo, setLetGo] = useState(0);
  if (seen !== narrowing) {
    setSeen(narrowing);
    setLetGo(chosen.size);
    setChosen(new Map());
  }
  const isNarrowed = shown.find !== '' || shown.filter !== '';
  return (
    <div className={classes.list}>
      <LoadedPages
        list={list}
        rows={10}
        empty={
          <Notice tone="calm" title={isNarrowed ? 'No record is like that' : 'There are no records yet'}>
            {isNarrowed
              ? 'Take the filter back, or look for something else.'
              : 'Records appear here as soon as somebody has begun one.'}
          </Notice>
        }
      >
        {(entries) => (
          <RegisterTable
            {...{ register, columns, entries, style, shown, chosen }}
            onChoose={choose}
            onOrder={(id) => onShow(orderedBy(shown, id))}
          />
        )}
      </LoadedPages>
      {letGo > 0 && chosen.size === 0 && (
        <p className={classes.chosen} role="status">
          {letGo === 1 ? 'The record that was chosen is' : `The ${letGo} records that were chosen are`} chosen no more, as the
          list shows other records now.
        </p>
      )}
      {chosen.size > 0 && (
        <div className={classes.chosen} role="status">
          <strong>{chosen.size} chosen</strong>
          <Button size="compact-sm" disabled={chosen.size > MAX_CHOSEN} onClick={() => setHandingOn(true)}>
            Hand on …
          </Button>
          <Button size="compact-sm" variant="default" onClick={() => setChosen(new Map())}>
            Choose none
          </Button>
          {totals.data && totals.data.count > chosen.size && (
            <Button
              size="compact-sm"
              variant="default"
              loading={all.isPending}
              onClick={() => all.mutate(undefined, { onSuccess: (records) => choose(records, true) })}
            >
              Choose all that match ({totals.data.count.toLocaleString(style.locale)})
            </Button>
          )}
          {all.data?.length === chosen.size && (
            <span className={classes.soft}>{sayAll(all.data.length, totals.data?.count ?? 0)}</span>
          )}
          {all.error && (
            <span className={classes.soft} role="alert">
              {problemText(all.error)}
            </span>
          )}
          {chosen.size > MAX_CHOSEN && <span className={classes.soft}>At most {MAX_CHOSEN} go on at once.</span>}
        </div>
      )}
      {isHandingOn && (
        <Suspense>
          <HandOnMany
            workflow={key}
            chosen={chosen}
            onClose={() => {
              setHandingOn(false);
              setChosen(new Map());
            }}
          />
        </Suspense>
      )}
      {totals.data && <Totals register={register} totals={totals.data} style={style} />}
    </div>
  );
}

/** Tells how many of the matching records were chosen: finished records can't be handed on, and a hand-off takes a limited number. */
const sayAll = (chosen: number, count: number): string =>
  chosen === MAX_CHOSEN
    ? `The first ${MAX_CHOSEN} that are not finished are chosen: no more go on at once.`
    : chosen < count
      ? `${count - chosen} of them ${count - chosen === 1 ? 'is' : 'are'} finished.`
      : '';

/** How many records there are as narrowed, and the sums of the columns on show. */
function Totals({
  register,
  totals,
  style,
}: {
  readonly register: RegisterDocument;
  readonly totals: RegisterTotals;
  readonly style: Style;
}) {
  return (
    <dl className={classes.totals} aria-label="Totals">
      <div>
        <dt>Records</dt>
        <dd>{totals.count.toLocaleString(style.locale)}</dd>
      </div>
      {totals.sums.map(({ field: key, sum }) => {
        const field = fieldOf(register, key);
        return (
          <div key={key}>
            <dt>Sum of {field?.short || field?.name}</dt>
            <dd>{formatValue(readExact(sum), field, style)}</dd>
          </div>
        );
      })}
    </dl>
  );
}
