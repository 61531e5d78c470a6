import type { CheckedExpression } from '../expressions/check.ts';
import type { Frame } from '../expressions/frame.ts';
import { referencesOf } from '../expressions/rewrite.ts';
import { childrenOf, type Node } from '../expressions/tree.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import type { Readers } from '../forms/readers.ts';
import type { Filling } from '../templates/fill-template.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { Moment } from './moment.ts';

/**
 * Makes a function that says whether an expression of a text is withheld from the text's reader. It is, if it is made from a
 * confidential value that they may not read, or if it reads a field of a referenced record or a follow-up that the frame lacks
 * because they may not see it. A withheld expression counts as unknown, whatever it evaluates to without those values (semantics 7).
 */
export function makeWithholding(
  { workflow, record }: Pick<Moment, 'workflow' | 'record'>,
  frame: Frame,
  mayRead: (readers: Readers) => boolean,
): Filling['isWithheld'] {
  const { forms } = workflow;
  const lacking = makeLacking(workflow, record, frame);
  return ({ expression: { checked }, table }) => {
    const needed = forms.readers.ofExpression(checked, table ?? undefined);
    return (needed.length > 0 && !mayRead(needed)) || (checked !== null && lacking.reads(checked, table));
  };
}

type Lacking = { readonly reads: (checked: CheckedExpression, table: string | null) => boolean };
const LACKS_NOTHING: Lacking = { reads: () => false };

/** Finds the fields that are missing from the referenced records and follow-ups in a frame. */
function makeLacking({ forms, findWorkflow }: Moment['workflow'], { followUps }: Moment['record'], frame: Frame): Lacking {
  const hasFollowUps = forms.opens.length > 0 && followUps.open + followUps.done > 0;
  if (!forms.hasReferences && !hasFollowUps) return LACKS_NOTHING;
  /** Returns the keys of the target workflow's fields that at least one of the records lacks. */
  const missingOf = (target: string, records: readonly Value[]): ReadonlySet<string> => {
    const known = records.flatMap((one) => (one === null ? [] : [(one as ContextValue).entries]));
    const keys = known.length > 0 ? (findWorkflow(target)?.fields ?? []).map(({ key }) => key) : [];
    return new Set(keys.filter((key) => known.some((entries) => !Object.hasOwn(entries, key))));
  };
  const ofField = ({ field, slot, subFields }: CompiledField): ReadonlySet<string> => {
    const value = frame.slots[slot] ?? null;
    if (field.type === 'reference') return missingOf(field.workflow, [value]);
    if (field.type !== 'table' || !isList(value)) return new Set();
    const rows = value as readonly ContextValue[];
    return new Set(
      subFields.flatMap(({ field: own }) =>
        own.type === 'reference'
          ? [
              ...missingOf(
                own.workflow,
                rows.map((row) => row.entries[own.key] ?? null),
              ),
            ]
          : [],
      ),
    );
  };
  const ofFollowUps = (target: string | null): ReadonlySet<string> | 'some' => {
    if (!hasFollowUps || target === 'open' || target === 'done') return new Set();
    const { entries } = frame.slots[forms.layout.systemSlots.followUps] as ContextValue;
    const seen = forms.opens.map((key) => (entries[key] ?? []) as readonly ContextValue[]);
    // Some follow-ups aren't visible, and it isn't known in which of the lists they are missing: all lists count as incomplete.
    if (seen.reduce((sum, { length }) => sum + length, 0) < followUps.open + followUps.done) return 'some';
    return new Set(
      forms.opens.flatMap((key, index) => (target === null || key === target ? [...missingOf(key, seen[index] ?? [])] : [])),
    );
  };
  const reads = (checked: CheckedExpression, table: string | null, seen: Set<CheckedExpression>): boolean => {
    if (seen.has(checked)) return false;
    seen.add(checked);
    const named = namesIn(checked.node);
    const isRead = (missing: ReadonlySet<string>): boolean => [...missing].some((key) => named.has(key));
    return referencesOf(checked).some(({ name, part, whole }) => {
      if (name === 'followUps') {
        const missing = part === null && !whole ? new Set<string>() : ofFollowUps(part);
        return missing === 'some' || isRead(missing);
      }
      const key = name === 'row' && table !== null ? table : name;
      const of = forms.fieldByKey.get(key);
      const made = of ? [of, ...of.subFields].map(({ computes }) => computes?.checked) : readsOfDecision(key);
      return (of !== undefined && isRead(ofField(of))) || made.some((one) => one != null && reads(one, key, seen));
    });
  };
  const readsOfDecision = (key: string): readonly (CheckedExpression | null)[] =>
    forms.decisions.find((decision) => decision.table.key === key)?.reads ?? [];
  return { reads: (checked, table) => reads(checked, table, new Set()) };
}

/** Collects every name in an expression: of values in scope, and of parts in paths. */
function namesIn(node: Node, names = new Set<string>()): ReadonlySet<string> {
  if (node.kind === 'name' || node.kind === 'path') names.add(node.name);
  for (const child of childrenOf(node)) namesIn(child, names);
  return names;
}
