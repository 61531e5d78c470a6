import type { CompiledExpression } from '../expressions/compiler.ts';
import type { Field, SubField } from '../model/field.ts';

export type CompiledField = {
  readonly field: Field;
  readonly slot: number;
  /** Of a computed field: its expression, whose value is brought into the form in which the field keeps values. */
  readonly computes: CompiledExpression | null;
  /** What it holds when it is shown for the first time and empty; reads as an entered value would. */
  readonly fills: CompiledExpression | null;
  /** Of a table field: its sub-fields. */
  readonly subFields: readonly CompiledSubField[];
};

export type CompiledSubField = {
  readonly field: SubField;
  readonly index: number;
  readonly computes: CompiledExpression | null;
  /** What its cell holds in a row that is added. Reads the record, not the row. */
  readonly fills: CompiledExpression | null;
};
