import {
  checkExpression,
  describeExpression,
  parseExpression,
  type Scope,
  TYPES,
  type Type,
  type Wording,
  type Workflow,
} from '@ypomet/core';
import type { ConditionPlace } from '../conditions/place.ts';

/** A value that can be put into a text: its expression, and what it is called. */
export type ValueChoice = { readonly expression: string; readonly name: string };

/** Where a template stands: what can stand in it, and what that is called. */
export type TemplatePlace = {
  readonly scope: Scope;
  /** The scope of rows, for an expression that reads `row`; null for any other. */
  readonly rowScopeOf: (expression: string) => Scope | null;
  readonly wording: Wording;
  readonly values: readonly ValueChoice[];
  readonly tables: readonly { readonly key: string; readonly name: string }[];
  /** The number of rows of the first table, if there is one: what plurals are mostly about. */
  readonly counted: string | null;
  readonly condition: Type;
  readonly number: Type;
};

const FACTS: readonly ValueChoice[] = [
  { expression: 'record.number', name: 'Number of the record' },
  { expression: 'destination.name', name: 'Stage it goes to' },
  { expression: 'actor.name', name: 'Whoever pressed' },
  { expression: 'today()', name: 'Today' },
];

export function makeTemplatePlace(
  definition: Workflow,
  { scope, wording }: Pick<ConditionPlace, 'scope' | 'wording'>,
  rowScopes: ReadonlyMap<string, Scope>,
): TemplatePlace {
  const fields = definition.fields.filter(({ type }) => type !== 'note');
  const tables = fields.filter(({ type }) => type === 'table');
  const columns = tables.flatMap((table) =>
    table.type === 'table'
      ? table.fields.map((own) => ({ expression: `row.${own.key}`, name: `${table.name}, each: ${own.name}` }))
      : [],
  );
  return {
    scope,
    rowScopeOf: (expression) => {
      if (!/\brow\b/.test(expression)) return null;
      // Of several tables, the one whose rows have what is read.
      const fits = [...rowScopes.values()].find((own) => isSound(expression, own));
      return fits ?? [...rowScopes.values()][0] ?? null;
    },
    wording,
    values: [...fields.map(({ key, name }) => ({ expression: key, name })), ...columns, ...FACTS],
    tables: tables.map(({ key, name }) => ({ key, name })),
    counted: tables[0] ? `count(${tables[0].key})` : null,
    condition: TYPES.boolean,
    number: TYPES.number,
  };
}

function isSound(text: string, scope: Scope): boolean {
  const parsed = parseExpression(text);
  return parsed.ok && checkExpression(parsed.value, scope).diagnostics.length === 0;
}

/** What stands for an insert in the editor: its words; a mark of a passage; or a text that can't be read. */
export function saysOf(
  raw: string,
  place: TemplatePlace,
): { readonly text: string; readonly isMark: boolean; readonly isFaulty: boolean } {
  const mark = /^\s*([#/])([a-z]*)\s*([\s\S]*)$/.exec(raw);
  if (mark) {
    const [, sign, word, rest = ''] = mark;
    if (sign === '/') return { text: 'end', isMark: true, isFaulty: false };
    if (word === 'else') return { text: 'otherwise', isMark: true, isFaulty: false };
    if (word === 'plural') return { text: (rest.split(':').at(-1) ?? '').trim(), isMark: true, isFaulty: false };
    if (word === 'when') return { ...said(rest, place), text: `only when ${said(rest, place).text}`, isMark: true };
    return { text: raw, isMark: true, isFaulty: true };
  }
  return { ...said(raw, place), isMark: false };
}

function said(text: string, place: TemplatePlace): { readonly text: string; readonly isFaulty: boolean } {
  const parsed = parseExpression(text);
  if (!parsed.ok) return { text, isFaulty: true };
  const scope = place.rowScopeOf(text) ?? place.scope;
  const isFaulty = checkExpression(parsed.value, scope).diagnostics.length > 0;
  const wording = /\brow\b/.test(text) && place.tables[0] ? place.wording.within('row', [place.tables[0].key]) : place.wording;
  return { text: describeExpression(parsed.value, wording), isFaulty };
}
