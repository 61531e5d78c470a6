import type { CompiledExpression } from '../expressions/compiler.ts';
import { makeFrame } from '../expressions/frame.ts';
import type { FieldStep } from '../forms/compiled-forms.ts';
import { type Decided, type Form, givenValueOf } from '../forms/evaluate-form.ts';
import { SubField } from '../model/field.ts';
import { isEmpty, writeFieldValue } from '../model/field-value.ts';
import type { Json } from '../shared/json.ts';
import { type ContextValue, isList } from '../values/value.ts';

type Answer = {
  readonly field: SubField;
  readonly expression: CompiledExpression;
  /** The computed sub-field whose value it is: where that is hidden in its row, there is no answer. Null for a condition. */
  readonly of: number | null;
};

/** What a condition over a row comes to. */
export const ANSWER: SubField = SubField.parse({ type: 'yes-no', key: 'answer', name: 'Answer' });

/**
 * Answers about the rows of tables that only the server can give, because they read what the reader may not see. Each
 * goes to the browser as a hidden cell of its row, which conditions and computed cells there read instead.
 */
export class RowAnswers {
  private readonly byTable = new Map<string, Answer[]>();

  /** Takes note of an expression over a table's rows; the key of the sub-field with its answer, of the type given. */
  add(table: string, type: SubField, expression: CompiledExpression, of: number | null): string {
    const answers = this.byTable.get(table) ?? [];
    const key = `answer__${answers.length}`;
    const plain = 'expression' in type ? { ...type, expression: null } : type;
    this.byTable.set(table, [...answers, { field: { ...plain, key }, expression, of }]);
    return key;
  }

  fieldsOf(table: string): readonly SubField[] {
    return (this.byTable.get(table) ?? []).map(({ field }) => field);
  }

  /** The answers for one row of an evaluated form, whose cells are treated like this. */
  valuesOf(
    table: string,
    row: ContextValue,
    form: Form,
    treatments: readonly Decided[] | undefined,
  ): Readonly<Record<string, Json>> {
    const answers = this.byTable.get(table);
    if (!answers) return {};
    const slots = [...form.frame.slots];
    slots[form.forms.layout.rowSlot] = row;
    const frame = makeFrame(slots, form.frame.environment);
    const open = answers.filter(({ of }) => of === null || (treatments?.[of]?.treatment ?? 'hidden') !== 'hidden');
    return Object.fromEntries(
      open.map(({ field, expression }) => [field.key, writeFieldValue(field, expression.evaluate(frame))]),
    );
  }
}

/** `table.subField` for each cell with a value that is hidden in its row: it counts, or will once it is shown, but isn't sent. */
export function withheldCellsOf(form: Form, steps: readonly FieldStep[]): ReadonlySet<string> {
  const withheld = new Set<string>();
  for (const { of } of steps) {
    const rows = givenValueOf(form, of);
    if (of.field.type !== 'table' || !isList(rows)) continue;
    for (const row of rows as readonly ContextValue[]) {
      const treatments = form.rows.get(of.slot)?.get(row.id ?? '');
      for (const { field, index, computes } of of.subFields) {
        const isHidden = treatments?.[index]?.treatment === 'hidden' && computes === null;
        if (isHidden && !isEmpty(row.entries[field.key] ?? null)) withheld.add(`${of.field.key}.${field.key}`);
      }
    }
  }
  return withheld;
}
