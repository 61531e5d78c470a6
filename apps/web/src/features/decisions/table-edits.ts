import { type DecisionRule, type DecisionTable, type Edit, joinPath, type SingleEdit } from '@ypomet/core';

/** A cell of a decision table: of an input, of an output, or the rule's notes. */
export type CellAt = { readonly side: 'when' | 'then' | 'notes'; readonly key: string };

/** A table's columns, left to right: inputs, outputs, notes. */
export const columnsOf = ({ inputs, outputs }: DecisionTable): readonly CellAt[] => [
  ...inputs.map(({ key }): CellAt => ({ side: 'when', key })),
  ...outputs.map(({ key }): CellAt => ({ side: 'then', key })),
  { side: 'notes', key: 'notes' },
];

/** The stored text of a cell; undefined where it is empty. */
export const textOfCell = (rule: DecisionRule, { side, key }: CellAt): string | undefined =>
  side === 'notes' ? rule.notes || undefined : rule[side][key];

/** A key for a rule that none has. */
export function ruleKeys(table: DecisionTable, count: number): readonly string[] {
  const taken = new Set(table.rules.map(({ key }) => key));
  const keys: string[] = [];
  for (let number = table.rules.length + 1; keys.length < count; number++)
    if (!taken.has(`rule${number}`)) keys.push(`rule${number}`);
  return keys;
}

export type WrittenCell = { readonly rule: string; readonly at: CellAt; readonly text: string | null };

/** Rules that are added one by one; more are written as a whole. */
const MAX_ADDED = 50;

/** The edit that writes cells, with new rules at the end where `added` names some. Null where nothing would change. */
export function writeCells(table: DecisionTable, cells: readonly WrittenCell[], added: readonly string[] = []): Edit | null {
  if (added.length > MAX_ADDED) return replaceRules(table, rulesWith(table, cells, added));
  const rules = new Map(table.rules.map((rule) => [rule.key, rule]));
  const isNew = new Set(added);
  const adds = added.map(
    (key): SingleEdit => ({
      type: 'add-part',
      to: joinPath('decisionTables', table.key, 'rules'),
      part: { key, when: {}, then: {} },
      before: null,
    }),
  );
  const changed = cells.filter(({ rule, at, text }) => {
    const own = rules.get(rule);
    return isNew.has(rule) ? text !== null : own !== undefined && (textOfCell(own, at) ?? null) !== text;
  });
  const tests = changed.flatMap(({ rule, at, text }) =>
    at.side === 'notes' ? [] : [{ rule, column: at.key, side: at.side, text }],
  );
  const notes = changed.flatMap(({ rule, at, text }): readonly SingleEdit[] =>
    at.side === 'notes'
      ? [{ type: 'change-part', part: joinPath('decisionTables', table.key, 'rules', rule), set: { notes: text ?? '' } }]
      : [],
  );
  const edits: readonly SingleEdit[] = [
    ...adds,
    ...(tests.length > 0 ? [{ type: 'set-cells' as const, table: table.key, cells: tests }] : []),
    ...notes,
  ];
  const [only] = edits;
  if (!only) return null;
  return edits.length === 1 ? only : { type: 'together', edits };
}

/** The rules as they are with cells written, those that are added at their end. */
function rulesWith({ rules }: DecisionTable, cells: readonly WrittenCell[], added: readonly string[]): readonly DecisionRule[] {
  const written = new Map(rules.map((rule) => [rule.key, rule]));
  for (const key of added) written.set(key, { key, when: {}, then: {}, notes: '' });
  for (const { rule, at, text } of cells) {
    const own = written.get(rule);
    if (own) written.set(rule, withCell(own, at, text));
  }
  return [...written.values()];
}

function withCell(rule: DecisionRule, { side, key }: CellAt, text: string | null): DecisionRule {
  if (side === 'notes') return { ...rule, notes: text ?? '' };
  const { [key]: _, ...rest } = rule[side];
  return { ...rule, [side]: text === null ? rest : { ...rest, [key]: text } };
}

/** All rules replaced at once: by what was read from a file. */
export const replaceRules = (table: DecisionTable, rules: readonly DecisionRule[]): Edit => ({
  type: 'change-part',
  part: joinPath('decisionTables', table.key),
  set: { rules: rules.map((rule) => ({ ...rule })) },
});
