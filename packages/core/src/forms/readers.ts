import type { CompiledDecision } from '../decisions/compile-decision.ts';
import type { CheckedExpression } from '../expressions/check.ts';
import { referencesOf } from '../expressions/rewrite.ts';
import { isDisclosed } from '../model/computed.ts';
import type { CompiledField } from './compiled-field.ts';

/**
 * Who may read something: of each of these lists of roles, whoever reads must hold one. Empty: all who see the record.
 * Readers follow the values: what is made from a confidential value has that value's readers too.
 */
export type Readers = readonly (readonly string[])[];

/** The readers of everything in a workflow that has a value. */
export type ReadersTable = {
  /** Of a field or decision table, whole. */
  readonly of: (name: string) => Readers;
  /** Of a table's sub-field. */
  readonly ofPart: (table: string, part: string) => Readers;
  /** Of what an expression yields. `table`: the table whose row the name `row` stands for. */
  readonly ofExpression: (checked: CheckedExpression | null | undefined, table?: string) => Readers;
  /** The confidential fields that something is made from, itself included. */
  readonly sourcesOf: (checked: CheckedExpression | null | undefined, table?: string) => readonly string[];
};

/** Whether a holder of these roles is among the readers. */
export const isReader = (readers: Readers, roles: readonly string[]): boolean =>
  readers.every((list) => list.some((role) => roles.includes(role)));

/** Whether everybody who reads under `narrow` may also read under `wide`. */
export const areWithin = (narrow: Readers, wide: Readers): boolean =>
  wide.every((list) => narrow.some((own) => own.every((role) => list.includes(role))));

/** The fields whose readers something has, by key: the confidential fields behind it. */
type Behind = ReadonlyMap<string, readonly string[]>;

const NOTHING: Behind = new Map();

/** Follows values through computed fields and cells and decision tables. */
export function makeReaders(fields: readonly CompiledField[], decisions: readonly CompiledDecision[]): ReadersTable {
  const fieldByKey = new Map(fields.map((of) => [of.field.key, of]));
  const decisionByKey = new Map(decisions.map((decision) => [decision.table.key, decision]));
  const known = new Map<string, Behind>();

  /** Cycles are faults of the design; here they end. */
  const once = (key: string, make: () => Behind): Behind => {
    const found = known.get(key);
    if (found) return found;
    known.set(key, NOTHING);
    const made = make();
    known.set(key, made);
    return made;
  };
  const join = (parts: readonly Behind[]): Behind => {
    const filled = parts.filter((part) => part.size > 0);
    return filled.length <= 1 ? (filled[0] ?? NOTHING) : new Map(filled.flatMap((part) => [...part]));
  };
  const ofField = (key: string): Behind =>
    once(key, () => {
      const of = fieldByKey.get(key);
      if (!of) return ofDecision(key);
      const { field, computes } = of;
      const own: Behind = field.confidentialTo.length > 0 ? new Map([[key, field.confidentialTo]]) : NOTHING;
      return computes && !isDisclosed(field) ? join([own, ofChecked(computes.checked)]) : own;
    });
  const ofDecision = (key: string): Behind => join((decisionByKey.get(key)?.reads ?? []).map((checked) => ofChecked(checked)));
  const ofCell = (table: string, part: string): Behind =>
    once(`${table}.${part}`, () => {
      const cell = fieldByKey.get(table)?.subFields.find(({ field }) => field.key === part);
      const made = cell?.computes && !isDisclosed(cell.field) ? ofChecked(cell.computes.checked, table) : NOTHING;
      return join([ofField(table), made]);
    });
  const ofWhole = (key: string): Behind => {
    const cells = fieldByKey.get(key)?.subFields ?? [];
    return join([ofField(key), ...cells.map(({ field }) => ofCell(key, field.key))]);
  };
  const ofChecked = (checked: CheckedExpression | null | undefined, table?: string): Behind => {
    if (!checked) return NOTHING;
    return join(
      referencesOf(checked).map(({ name, part, whole }) => {
        const key = name === 'row' && table !== undefined ? table : name;
        if (whole) return ofWhole(key);
        return part !== null && fieldByKey.get(key)?.field.type === 'table' ? ofCell(key, part) : ofField(key);
      }),
    );
  };
  const toReaders = (behind: Behind): Readers => {
    const lists = new Map([...behind.values()].map((roles) => [[...roles].sort().join(), roles]));
    return [...lists.values()];
  };
  return {
    of: (name) => toReaders(ofField(name)),
    ofPart: (table, part) => toReaders(ofCell(table, part)),
    ofExpression: (checked, table) => toReaders(ofChecked(checked, table)),
    sourcesOf: (checked, table) => [...ofChecked(checked, table).keys()],
  };
}
