import { type Edit, type Json, joinPath, makeKey, type Path } from '@ypomet/core';
import { freshName } from '../plan/panels/new-parts.ts';
import type { ItemKind } from './listing.ts';

type Named = { readonly key: string; readonly name: string };

const START: Readonly<
  Record<Exclude<ItemKind, 'assign' | 'due'>, { readonly name: string; readonly part: Readonly<Record<string, Json>> }>
> = {
  answer: { name: 'New answer', part: { text: 'Thank you. We have {{record.number}}.' } },
  mail: {
    name: 'New mail',
    part: { kind: 'mail', to: [{ key: 'to1', kind: 'submitter' }], subject: 'About {{record.number}}', body: '{{#fields}}' },
  },
  web: { name: 'New web request', part: { kind: 'web', outlet: '' } },
  file: { name: 'New file', part: { kind: 'file', outlet: '', fileName: '{{record.number}}' } },
  record: { name: 'New record', part: {} },
};

/** The edit that adds something to a list, and the key it gets there. `more`: what must be said from the start. */
export function newConsequence(
  list: Path,
  kind: Exclude<ItemKind, 'assign' | 'due'>,
  there: readonly Named[],
  more: Readonly<Record<string, Json>> = {},
): { readonly key: string; readonly edit: Edit } {
  const { name: base, part } = START[kind];
  const name = freshName(base, there);
  const key = makeKey(name, new Set(there.map((one) => one.key)), kind);
  return { key, edit: { type: 'add-part', to: list, part: { key, name, ...part, ...more }, before: null } };
}

/** A working week from now: what most due dates begin as. */
export const START_DUE = 'working days(today(), 5)';

/** The edit that adds a reminder to a stage, with a mail to whoever may act there, and the key it gets. */
export function newReminder(stage: string, there: readonly Named[]): { readonly key: string; readonly edit: Edit } {
  const name = freshName('New reminder', there);
  const key = makeKey(name, new Set(there.map((one) => one.key)), 'reminder');
  const mail = {
    key: 'mail',
    name: 'Reminder',
    kind: 'mail',
    to: [{ key: 'to1', kind: 'submitter' }],
    subject: '{{record.number}} is due',
    body: '{{record.number}} is to be done by {{record.due}}.',
  };
  const part = { key, name, offset: { count: 1, unit: 'working-days', side: 'before' }, deliveries: [mail] };
  return { key, edit: { type: 'add-part', to: joinPath('stages', stage, 'reminders'), part, before: null } };
}
