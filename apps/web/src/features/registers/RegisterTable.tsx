import { UnstyledButton } from '@mantine/core';
import type { RegisterDocument, RegisterEntry } from '@ypomet/contract';
import type { Style } from '@ypomet/core';
import { Link } from 'react-router';
import { type Column, cellText } from './columns.ts';
import type { Chosen } from './HandOnMany.tsx';
import classes from './Register.module.css';
import type { Shown } from './register-state.ts';

type Props = {
  readonly register: RegisterDocument;
  readonly columns: readonly Column[];
  readonly entries: readonly RegisterEntry[];
  readonly style: Style;
  readonly shown: Shown;
  readonly onOrder: (column: string) => void;
  readonly chosen: Chosen;
  readonly onChoose: (records: readonly RegisterEntry['record'][], isChosen: boolean) => void;
};

/** Records as rows. The first cell leads to the record; headings order the list. */
export function RegisterTable({ register, columns, entries, style, shown, onOrder, chosen, onChoose }: Props) {
  const open = entries.map(({ record }) => record).filter(({ stageKind }) => stageKind !== 'end');
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard
    <section className={classes.scroller} aria-label="Records" tabIndex={0}>
      <table className={classes.table}>
        <thead>
          <tr>
            <th className={classes.choose}>
              <input
                type="checkbox"
                aria-label="Choose all that are shown and not finished"
                disabled={open.length === 0}
                checked={open.length > 0 && open.every(({ id }) => chosen.has(id))}
                onChange={(event) => onChoose(open, event.currentTarget.checked)}
              />
            </th>
            {columns.map((column) => (
              <Heading key={column.id} column={column} shown={shown} onOrder={onOrder} />
            ))}
          </tr>
        </thead>
        <tbody>
          {entries.map((entry) => (
            <tr key={entry.record.id} data-chosen={chosen.has(entry.record.id) || undefined}>
              <td className={classes.choose}>
                {entry.record.stageKind !== 'end' && (
                  <input
                    type="checkbox"
                    aria-label={`Choose ${entry.record.number}`}
                    checked={chosen.has(entry.record.id)}
                    onChange={(event) => onChoose([entry.record], event.currentTarget.checked)}
                  />
                )}
              </td>
              {columns.map((column, index) => (
                <Cell key={column.id} {...{ register, column, entry, style }} isFirst={index === 0} />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Heading({
  column: { id, name, canOrder, isNumeric },
  shown,
  onOrder,
}: {
  readonly column: Column;
  readonly shown: Shown;
  readonly onOrder: (column: string) => void;
}) {
  const isOrdered = shown.sort === id;
  const sorted = isOrdered ? (shown.direction === 'up' ? 'ascending' : 'descending') : undefined;
  return (
    <th scope="col" aria-sort={sorted} data-numeric={isNumeric || undefined}>
      {canOrder ? (
        <UnstyledButton className={classes.order} onClick={() => onOrder(id)} title={name}>
          <span>{name}</span>
          <span aria-hidden="true" className={classes.way}>
            {isOrdered ? (shown.direction === 'up' ? '▲' : '▼') : ''}
          </span>
        </UnstyledButton>
      ) : (
        <span title={name}>{name}</span>
      )}
    </th>
  );
}

function Cell({
  register,
  column,
  entry,
  style,
  isFirst,
}: Pick<Props, 'register' | 'style'> & { readonly column: Column; readonly entry: RegisterEntry; readonly isFirst: boolean }) {
  const text = cellText(column, entry, style, register);
  const isLate = column.id === 'record.due' && entry.record.isOverdue;
  const said = isLate ? `▲ ${text}` : text;
  const isEnd = column.id === 'record.stage' && entry.record.stageKind === 'end';
  return (
    <td
      data-numeric={column.isNumeric || undefined}
      data-late={isLate || undefined}
      data-end={isEnd || undefined}
      data-stage={column.id === 'record.stage' || undefined}
      title={text}
    >
      {isFirst ? (
        <Link to={`/records/${entry.record.id}`} className={column.id === 'record.number' ? 'mono' : undefined}>
          {said === '' ? '(no text)' : said}
        </Link>
      ) : (
        said
      )}
    </td>
  );
}
