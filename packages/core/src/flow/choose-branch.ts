import type { Frame } from '../expressions/frame.ts';
import { referencesOf } from '../expressions/rewrite.ts';
import type { Destination } from '../model/flow.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result, success } from '../shared/result.ts';
import type { CompiledHandOff } from './compiled-workflow.ts';
import type { Outcome } from './events.ts';
import type { Tracer } from './trace.ts';

export type Chosen = { readonly destination: Destination; readonly branch: string | null };

/**
 * The branch a hand-off takes (semantics 4.5). Codes: `hand-off/no-branch` when none holds and there is no otherwise,
 * `hand-off/two-branches` when policy *single* finds more than one. `nameOf` names what an actor may know of.
 */
export function chooseBranch(
  compiled: CompiledHandOff,
  frame: Frame,
  tracer: Tracer,
  nameOf: (field: string) => string | null,
): Result<Chosen> {
  const { handOff, branches } = compiled;
  const isSingle = handOff.policy === 'single';
  const holding: number[] = [];
  branches.forEach(({ condition }, index) => {
    if ((isSingle || holding.length === 0) && condition.holds(frame)) holding.push(index);
  });
  const takenIndex = holding[0];
  const isClash = isSingle && holding.length > 1;
  branches.forEach(({ branch, condition }, index) => {
    const outcome = outcomeOf(index, holding, isSingle);
    tracer.note({ kind: 'branch', owner: handOff.key, key: branch.key }, condition, outcome, frame);
  });
  if (isClash) {
    const names = holding.map((index) => branches[index]?.branch.name ?? '');
    return failure([diagnostic('hand-off/two-branches', handOff.key, { handOff: handOff.name, branches: names })]);
  }
  const taken = takenIndex === undefined ? undefined : branches[takenIndex];
  if (handOff.otherwise) {
    const outcome = taken ? 'not-tried' : 'taken';
    tracer.note({ kind: 'otherwise', owner: handOff.key, key: 'otherwise' }, null, outcome, frame);
  }
  if (taken) return success({ destination: taken.branch, branch: taken.branch.key });
  return handOff.otherwise ? success({ destination: handOff.otherwise, branch: null }) : failure([noBranch(compiled, nameOf)]);
}

function outcomeOf(index: number, holding: readonly number[], isSingle: boolean): Outcome {
  if (holding.includes(index)) return holding.length > 1 ? 'clash' : 'taken';
  const [taken] = holding;
  return !isSingle && taken !== undefined && index > taken ? 'not-tried' : 'passed-over';
}

/** Names the fields whose values no branch takes, as far as the actor knows of them; never the values. */
function noBranch({ handOff, branches }: CompiledHandOff, nameOf: (field: string) => string | null): Diagnostic {
  const names = new Set<string>();
  for (const { condition } of branches) {
    const checked = condition.expression?.checked;
    for (const { name } of checked ? referencesOf(checked) : []) {
      const known = nameOf(name);
      if (known !== null) names.add(known);
    }
  }
  const code = names.size > 0 ? 'hand-off/no-branch' : 'hand-off/no-branch-at-all';
  return diagnostic(code, handOff.key, { handOff: handOff.name, fields: [...names].sort() });
}
