import type { DeskSettings } from '@ypomet/contract';

/** What the address asks the desk for. */
export function readAddress(address: URLSearchParams): DeskSettings {
  const [workflow = '', stage = ''] = (address.get('at') ?? '').split('/');
  return {
    sort: address.get('sort') === 'due' ? 'due' : 'arrived',
    workflow: workflow === '' ? null : workflow,
    stage: stage === '' ? null : stage,
    find: address.get('find') ?? '',
    // A condition is over the records of one workflow.
    filter: workflow === '' ? '' : (address.get('filter') ?? ''),
  };
}

/** The address of what is shown; what is as usual is left out. */
export function writeAddress({ sort, workflow, stage, find, filter }: DeskSettings): URLSearchParams {
  const address = new URLSearchParams();
  if (workflow !== null) address.set('at', stage === null ? workflow : `${workflow}/${stage}`);
  if (sort === 'due') address.set('sort', sort);
  if (find !== '') address.set('find', find);
  if (filter !== '' && workflow !== null) address.set('filter', filter);
  return address;
}

/** The desk narrowed to a workflow, or a stage of it. A condition stays as long as its workflow does. */
export const narrowedTo = (shown: DeskSettings, workflow: string | null, stage: string | null): DeskSettings => ({
  ...shown,
  workflow,
  stage,
  filter: workflow === shown.workflow ? shown.filter : '',
});

/** When something is due, as the desk groups it: over, within a day, within a week, later, or never. */
export type Term = 'overdue' | 'day' | 'week' | 'later' | 'none';

const DAY_MS = 86_400_000;

/** In which group a due date falls; `end`: the instant it is over. */
export function termOf(end: number | null, now: number): Term {
  if (end === null) return 'none';
  if (end < now) return 'overdue';
  if (end - now <= DAY_MS) return 'day';
  return end - now <= 7 * DAY_MS ? 'week' : 'later';
}

export const TERMS: Readonly<Record<Term, string>> = {
  overdue: 'Overdue',
  day: 'Due within a day',
  week: 'Due within a week',
  later: 'Due later',
  none: 'Without a due date',
};

/** What a list in the order of due dates falls into; `endOf`: the instant that something is due, null for never. */
export function groupByTerm<T>(
  list: readonly T[],
  endOf: (item: T) => number | null,
  now: number,
): readonly { readonly term: Term; readonly own: readonly T[] }[] {
  const groups: { term: Term; own: T[] }[] = [];
  for (const item of list) {
    const term = termOf(endOf(item), now);
    const group = groups.find((one) => one.term === term);
    if (group) group.own.push(item);
    else groups.push({ term, own: [item] });
  }
  return groups;
}
