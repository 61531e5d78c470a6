import type { Frame } from '../expressions/frame.ts';
import type { Destination } from '../model/flow.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result, success } from '../shared/result.ts';
import type { Truth } from '../values/value.ts';
import type { CompiledHandOff } from './compile-workflow.ts';
import type { TraceStep } from './events.ts';

export type Chosen = { readonly destination: Destination; readonly branch: string | null };

/**
 * The branch a hand-off takes (semantics 4.5). Codes: `hand-off/no-branch` when none holds and there is no otherwise,
 * `hand-off/two-branches` when policy *single* finds more than one. What was tried goes to `trace`.
 */
export function chooseBranch(compiled: CompiledHandOff, frame: Frame, trace: TraceStep[]): Result<Chosen> {
  const { handOff, branches } = compiled;
  const holding: number[] = [];
  const truths: Truth[] = [];
  for (const [index, { condition }] of branches.entries()) {
    const truth = condition.holds(frame);
    truths.push(truth);
    if (truth === true) holding.push(index);
  }
  const takenIndex = holding[0];
  branches.forEach(({ branch }, index) => {
    trace.push({
      kind: 'branch',
      owner: handOff.key,
      key: branch.key,
      truth: truths[index] ?? null,
      taken: index === takenIndex,
    });
  });
  if (handOff.policy === 'single' && holding.length > 1) {
    const names = holding.map((index) => branches[index]?.branch.name ?? '');
    return failure([diagnostic('hand-off/two-branches', handOff.key, { handOff: handOff.name, branches: names })]);
  }
  const taken = takenIndex === undefined ? undefined : branches[takenIndex];
  if (taken) return success({ destination: taken.branch, branch: taken.branch.key });
  if (!handOff.otherwise) return failure([noBranch(compiled)]);
  trace.push({ kind: 'otherwise', owner: handOff.key, key: 'otherwise', truth: true, taken: true });
  return success({ destination: handOff.otherwise, branch: null });
}

/** Names the fields whose values no branch takes; never the values, which the actor may not see. */
function noBranch({ handOff, branches }: CompiledHandOff): Diagnostic {
  const names = new Set<string>();
  for (const { condition } of branches) {
    for (const node of condition.expression?.checked?.typings.keys() ?? []) if (node.kind === 'name') names.add(node.name);
  }
  return diagnostic('hand-off/no-branch', handOff.key, { handOff: handOff.name, fields: [...names].sort() });
}
