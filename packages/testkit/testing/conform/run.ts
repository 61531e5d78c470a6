import { type Json, readDateTime } from '@ypomet/core';
import type { DateTimeValue } from '@ypomet/core/values/temporal';
import { ConformanceFile } from './format.ts';
import type { Clock, Outcome } from './outcome.ts';
import { runDecision, runExpression } from './run-expressions.ts';
import { prepareWorkflows, runForm, runHandOff } from './run-workflows.ts';

/** What a file came to. `faults` says why a file can't be run at all: a line each, with the path. */
export type Conformed = { readonly outcomes: readonly Outcome[]; readonly faults: readonly string[] };

/** Runs every case of a conformance file against the core. Never throws: what a case throws is what it found. */
export function conform(json: Json): Conformed {
  const read = ConformanceFile.safeParse(json);
  if (!read.success) {
    return { outcomes: [], faults: read.error.issues.map(({ path, message }) => `${path.join('.') || '(whole)'}: ${message}`) };
  }
  const file = read.data;
  const clock: Clock = { now: (readDateTime(file.now, file.zone) as DateTimeValue).ms, zone: file.zone };
  const prepared = prepareWorkflows(file.workflows as readonly Json[]);
  if (prepared.faults.length > 0) return { outcomes: [], faults: prepared.faults };
  const outcomes = [
    ...file.expressions.map((one, index) => ({ at: `expressions.${index}`, run: () => runExpression(one, file, clock) })),
    ...file.decisions.flatMap((one, index) =>
      one.cases.map((_, at) => ({ at: `decisions.${index}.cases.${at}`, run: () => runDecision(one, at, file, clock) })),
    ),
    ...file.forms.map((one, index) => ({ at: `forms.${index}`, run: () => runForm(one, prepared.workflows, clock) })),
    ...file.handOffs.map((one, index) => ({ at: `handOffs.${index}`, run: () => runHandOff(one, prepared.workflows, clock) })),
  ].map(({ at, run }): Outcome => {
    try {
      const outcome = run();
      return { ...outcome, case: `${at} ${outcome.case}` };
    } catch (error) {
      return { case: at, expected: 'an answer', found: error instanceof Error ? error.message : String(error) };
    }
  });
  return { outcomes, faults: [] };
}

/** The cases that differ. */
export const differing = (conformed: Conformed): readonly Outcome[] =>
  conformed.outcomes.filter(({ expected, found }) => expected !== found);
