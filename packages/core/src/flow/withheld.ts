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
 * Returns whether a part of a text is withheld from whoever the text is for: it is made from a confidential value that they may
 * not read, or it reads something that the frame lacks because they may not see it (fields of records that references point to,
 * and of follow-ups). A withheld part is unknown to them, whatever it would come to without those values (semantics 7).
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

/** Looks for what is missing in the records that a frame reads through. */
function makeLacking({ forms, findWorkflow }: Moment['workflow'], { followUps }: Moment['record'], frame: Frame): Lacking {
  const hasFollowUps = forms.opens.length > 0 && followUps.open + followUps.done > 0;
  if (!forms.hasReferences && !hasFollowUps) return LACKS_NOTHING;
  /** Which fields of its workflow some of these records don't show. */
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
    // Which of the lists the unseen ones belong to isn't known.
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

/** Every name that stands in an expression: of values, and of their parts. */
function namesIn(node: Node, names = new Set<string>()): ReadonlySet<string> {
  if (node.kind === 'name' || node.kind === 'path') names.add(node.name);
  for (const child of childrenOf(node)) namesIn(child, names);
  return names;
}
