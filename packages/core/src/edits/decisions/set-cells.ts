import { z } from 'zod';
import { Key } from '../../model/keys.ts';
import { joinPath } from '../../model/path.ts';
import { success } from '../../shared/result.ts';
import { replaceAt } from '../../structure/places.ts';
import type { EditKind } from '../edit.ts';
import { unknownPart } from '../naming.ts';
import { keyInListAfter } from '../renamed-paths.ts';

const Cell = z.strictObject({
  rule: Key,
  /** The key of an input or an output. */
  column: Key,
  side: z.enum(['when', 'then']),
  /** Null empties the cell: a test that takes everything, an output left to its default. */
  text: z.string().min(1).max(20_000).nullable(),
});
const schema = z.strictObject({ type: z.literal('set-cells'), table: Key, cells: z.array(Cell).min(1).max(20_000) });
export type SetCells = z.infer<typeof schema>;

/** Writes cells of a decision table's rules. Code `edit/unknown-part`. */
export const setCells: EditKind<SetCells, never> = {
  type: 'set-cells',
  schema,
  apply: (definition, { table: key, cells }) => {
    const path = joinPath('decisionTables', key);
    const table = definition.decisionTables.find((own) => own.key === key);
    if (!table) return unknownPart(path);
    const rules = new Map(table.rules.map((rule) => [rule.key, rule]));
    for (const { rule: ruleKey, column, side, text } of cells) {
      const rule = rules.get(ruleKey);
      if (!rule) return unknownPart(`${path}.rules.${ruleKey}`);
      const isColumn = (side === 'when' ? table.inputs : table.outputs).some((own) => own.key === column);
      if (!isColumn) return unknownPart(`${path}.${side === 'when' ? 'inputs' : 'outputs'}.${column}`);
      const { [column]: _, ...rest } = rule[side];
      rules.set(ruleKey, { ...rule, [side]: text === null ? rest : { ...rest, [column]: text } });
    }
    return success(replaceAt(definition, `${path}.rules`, [...rules.values()]));
  },
  map: (edit, { rename, find }) => {
    const path = joinPath('decisionTables', edit.table);
    const table = keyInListAfter('decisionTables', edit.table, rename);
    const found = find();
    const rules = found?.renamedAfter.decisionTables.find(({ key }) => key === table)?.rules;
    const cells = edit.cells.map((cell) => {
      const rule = keyInListAfter(`${path}.rules`, cell.rule, rename);
      const column = keyInListAfter(`${path}.${cell.side === 'when' ? 'inputs' : 'outputs'}`, cell.column, rename);
      const written = rules?.find(({ key }) => key === rule)?.[cell.side][column];
      return { ...cell, rule, column, text: cell.text === null ? null : (written ?? cell.text) };
    });
    return { ...edit, table, cells };
  },
  describe: ({ table: key, cells }, before) => {
    const table = before.decisionTables.find((own) => own.key === key);
    return { code: 'set-cells', params: { count: cells.length, table: table?.name ?? key } };
  },
};
