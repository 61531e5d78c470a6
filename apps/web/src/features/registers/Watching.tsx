import { SegmentedControl, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { RegisterDocument, Watching as Watched } from '@ypomet/contract';
import { type ReactNode, useState } from 'react';
import { Bar, BarChart, CartesianGrid, Legend, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { Loaded } from '../../shared/Loaded.tsx';
import { useSession } from '../session/queries.ts';
import { watchingQuery } from './queries.ts';
import type { Shown } from './register-state.ts';
import classes from './Watching.module.css';
import { WaysMap } from './WaysMap.tsx';

type Props = {
  readonly register: RegisterDocument;
  /** Shows the records behind a figure. */
  readonly onShow: (narrowed: Pick<Shown, 'filter' | 'find'>) => void;
};

const SPANS = [
  { value: '13', label: 'a quarter' },
  { value: '26', label: 'half a year' },
  { value: '52', label: 'a year' },
  { value: '104', label: 'two years' },
];

/** Who is here: whoever answers for how the work flows. First they want to see where it stands still, then what came and went. */
export function Watching({ register, onShow }: Props) {
  const [weeks, setWeeks] = useState('26');
  const query = useQuery(watchingQuery(register.definition.key, Number(weeks)));
  return (
    <div className={classes.page}>
      <Loaded query={query} rows={8}>
        {(watching) => (
          <>
            <Waiting watching={watching} onShow={onShow} />
            <div className={classes.since}>
              <h2>What came and went in the last</h2>
              <SegmentedControl size="xs" aria-label="Since when" data={SPANS} value={weeks} onChange={setWeeks} />
            </div>
            <Flow watching={watching} />
            <Ways register={register} watching={watching} />
          </>
        )}
      </Loaded>
    </div>
  );
}

const AXIS = { fontSize: 12, fill: 'var(--ink-soft)' };
const TIP = { background: 'var(--sheet)', border: '1px solid var(--rule-strong)', borderRadius: 4, fontSize: 13 };

/** A chart with its figures as a table beneath. */
function Figure({
  title,
  chart,
  head,
  rows,
}: {
  readonly title: string;
  readonly chart: ReactNode;
  readonly head: readonly string[];
  readonly rows: readonly (readonly ReactNode[])[];
}) {
  return (
    <figure className={classes.figure} aria-label={title}>
      <figcaption>{title}</figcaption>
      <div aria-hidden="true">{chart}</div>
      <details>
        <summary>The figures</summary>
        <table className={classes.table}>
          <thead>
            <tr>
              {head.map((name) => (
                <th key={name} scope="col">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((cells, row) => (
              <tr key={String(row)}>
                {cells.map((cell, index) => (
                  <td key={head[index]}>{cell}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </figure>
  );
}

const ROW_HEIGHT = 30;
const CHART_HEIGHT = 220;

function Waiting({ watching: { stages, holders }, onShow }: { readonly watching: Watched; readonly onShow: Props['onShow'] }) {
  const { workspace } = useSession();
  const days = (count: number | null): string =>
    count === null ? '' : count < 1 ? 'under a day' : `${count.toLocaleString(workspace.locale)} days`;
  const all = stages.reduce((sum, { waiting }) => sum + waiting, 0);
  const late = stages.reduce((sum, { overdue }) => sum + overdue, 0);
  const at =
    (stage: string, more = ''): (() => void) =>
    () =>
      onShow({ filter: `record.stage = "${stage}"${more}`, find: '' });
  return (
    <>
      <p className={classes.sum}>
        <strong>{all}</strong> under way
        {late > 0 && (
          <UnstyledButton className={classes.late} onClick={() => onShow({ filter: UNDER_WAY_LATE, find: '' })}>
            ▲ {late} overdue
          </UnstyledButton>
        )}
      </p>
      <div className={classes.pair}>
        <section className={classes.figure} aria-label="Where records wait">
          <h3>Where records wait</h3>
          <table className={classes.bars}>
            <thead>
              <tr>
                <th scope="col">Stage</th>
                <th scope="col">Waiting</th>
                <th scope="col">Half wait longer than</th>
                <th scope="col">Longest</th>
              </tr>
            </thead>
            <tbody>
              {stages.map((one) => (
                <tr key={one.stage}>
                  <th scope="row">
                    <UnstyledButton onClick={at(one.stage)}>{one.name}</UnstyledButton>
                  </th>
                  <td>
                    <Load waiting={one.waiting} overdue={one.overdue} most={Math.max(...stages.map(({ waiting }) => waiting))} />
                  </td>
                  <td data-numeric>{days(one.medianDays)}</td>
                  <td data-numeric>{days(one.longestDays)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section className={classes.figure} aria-label="With whom">
          <h3>With whom</h3>
          {holders.length === 0 && <p className={classes.none}>Nobody has anything to do.</p>}
          <table className={classes.bars}>
            <tbody>
              {holders.map((one) => (
                <tr key={`${one.isRole} ${one.name}`}>
                  <th scope="row">
                    {one.name}
                    {one.isRole && <span className={classes.soft}> role</span>}
                  </th>
                  <td>
                    <Load waiting={one.waiting} overdue={one.overdue} most={Math.max(...holders.map(({ waiting }) => waiting))} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      </div>
    </>
  );
}

/** Records under way whose due date has passed. Records at an end have none. */
const UNDER_WAY_LATE = 'record.due < now()';

/** How much waits, as a bar with its number; the overdue part of it told by mark and word. */
function Load({ waiting, overdue, most }: { readonly waiting: number; readonly overdue: number; readonly most: number }) {
  const width = (count: number): string => `${(count / Math.max(1, most)) * 100}%`;
  return (
    <span className={classes.load}>
      <span className={classes.track} aria-hidden="true">
        <span className={classes.over} style={{ width: width(overdue) }} />
        <span className={classes.calm} style={{ width: width(waiting - overdue) }} />
      </span>
      <span>
        {waiting}
        {overdue > 0 && <span className={classes.lateText}> ▲ {overdue}</span>}
      </span>
    </span>
  );
}

function Flow({ watching: { weeks } }: { readonly watching: Watched }) {
  const { workspace } = useSession();
  const day = new Intl.DateTimeFormat(workspace.locale, { day: 'numeric', month: 'short', timeZone: 'UTC' });
  const data = weeks.map(({ from, begun, ended }) => ({ week: day.format(new Date(from)), begun, ended }));
  return (
    <Figure
      title="Records begun and ended, by week"
      head={['Week from', 'Begun', 'Ended']}
      rows={data.map(({ week, begun, ended }) => [week, begun, ended])}
      chart={
        <ResponsiveContainer width="100%" height={CHART_HEIGHT}>
          <BarChart data={data} barGap={1} margin={{ top: 8, right: 8, bottom: 0, left: -22 }} accessibilityLayer={false}>
            <CartesianGrid vertical={false} stroke="var(--rule)" />
            <XAxis dataKey="week" tick={AXIS} stroke="var(--rule-strong)" interval="preserveStartEnd" minTickGap={ROW_HEIGHT} />
            <YAxis allowDecimals={false} tick={AXIS} stroke="var(--rule-strong)" />
            <Tooltip contentStyle={TIP} cursor={{ fill: 'var(--band)' }} isAnimationActive={false} />
            <Legend iconType="square" wrapperStyle={{ fontSize: 13 }} />
            <Bar dataKey="begun" name="begun" fill="var(--teal)" isAnimationActive={false} />
            <Bar dataKey="ended" name="ended" fill="var(--amber-line)" isAnimationActive={false} />
          </BarChart>
        </ResponsiveContainer>
      }
    />
  );
}

function Ways({ register, watching }: { readonly register: RegisterDocument; readonly watching: Watched }) {
  const nameOf = (key: string): string => register.definition.stages.find((stage) => stage.key === key)?.name ?? key;
  return (
    <Figure
      title="Which ways they took"
      head={['From', 'To', 'Times', 'In the newest version']}
      rows={watching.ways.map(({ from, to, times, isDesigned }) => [nameOf(from), nameOf(to), times, isDesigned ? 'yes' : 'no'])}
      chart={<WaysMap register={register} watching={watching} />}
    />
  );
}
