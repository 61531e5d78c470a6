import type { RegisterDocument, RegisterSettings } from '@ypomet/contract';
import { firstColumns } from './columns.ts';

/** How a register is laid out: a list, its stages as columns, or what goes on in it. */
export type Layout = RegisterSettings['layout'] | 'watching';
export type Shown = Omit<RegisterSettings, 'layout'> & { readonly layout: Layout };

const LAYOUTS: readonly Layout[] = ['list', 'stages', 'watching'];

/** What the address asks for; what it doesn't say is as a register is at first. Columns that are gone are left out. */
export function readAddress(address: URLSearchParams, register: Pick<RegisterDocument, 'definition'>): Shown {
  const known = new Set(register.definition.fields.map(({ key }) => key));
  const columns = (address.get('columns') ?? '').split(',').filter((id) => id.startsWith('record.') || known.has(id));
  return {
    columns: columns.length > 0 ? columns : [...firstColumns(register)],
    sort: address.get('sort') ?? 'record.createdAt',
    direction: address.get('direction') === 'up' ? 'up' : 'down',
    filter: address.get('filter') ?? '',
    find: address.get('find') ?? '',
    layout: LAYOUTS.find((one) => one === address.get('layout')) ?? 'list',
  };
}

/** The address of what is shown; what is as at first is left out, so that addresses stay short. */
export function writeAddress(shown: Shown, register: Pick<RegisterDocument, 'definition'>): URLSearchParams {
  const first = readAddress(new URLSearchParams(), register);
  const address = new URLSearchParams();
  const put = (name: string, value: string, usual: string): void => {
    if (value !== usual) address.set(name, value);
  };
  put('layout', shown.layout, first.layout);
  put('find', shown.find, '');
  put('filter', shown.filter, '');
  put('sort', shown.sort, first.sort);
  put('direction', shown.direction, first.direction);
  put('columns', shown.columns.join(','), first.columns.join(','));
  return address;
}

/** What a click on a column's heading orders by: the other way about, or this column upwards. */
export const orderedBy = (shown: Shown, column: string): Shown =>
  shown.sort === column
    ? { ...shown, direction: shown.direction === 'up' ? 'down' : 'up' }
    : { ...shown, sort: column, direction: 'up' };

/** Puts a column on show, or takes it away. The last one stays. */
export function withColumn(shown: Shown, column: string, isShown: boolean): Shown {
  const others = shown.columns.filter((id) => id !== column);
  if (isShown) return { ...shown, columns: [...others, column] };
  return others.length === 0 ? shown : { ...shown, columns: others };
}

/** Moves a column one place to the left or the right. */
export function withMoved(shown: Shown, column: string, by: -1 | 1): Shown {
  const at = shown.columns.indexOf(column);
  const to = at + by;
  if (at < 0 || to < 0 || to >= shown.columns.length) return shown;
  const columns = [...shown.columns];
  [columns[at], columns[to]] = [columns[to] as string, columns[at] as string];
  return { ...shown, columns };
}
