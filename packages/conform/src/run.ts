import {
  type FindRecord,
  findField,
  type Json,
  makeOutside,
  ORDINARY_CALENDAR,
  type Outside,
  readDateTime,
  readFieldValue,
} from '@ypomet/core';
import type { DateTimeValue } from '@ypomet/core/values/temporal';
import { ConformanceFile } from './format.ts';
import type { Clock, Outcome } from './outcome.ts';
import { runDesign } from './run-designs.ts';
import { runDecision, runExpression } from './run-expressions.ts';
import { prepareWorkflows, runForm, runHandOff, type Workflows } from './run-workflows.ts';

/** What a file came to. `faults` says why a file can't be run at all: a line each, with the path. */
export type Conformed = { readonly outcomes: readonly Outcome[]; readonly faults: readonly string[] };

/** Runs every case of a conformance file against the core. Never throws: what a case throws is what it found. */
export function conform(json: Json): Conformed {
  const read = ConformanceFile.safeParse(json);
  if (!read.success) {
    return { outcomes: [], faults: read.error.issues.map(({ path, message }) => `${path.join('.') || '(whole)'}: ${message}`) };
  }
  const file = read.data;
  const clock: Clock = {
    now: (readDateTime(file.now, file.zone) as DateTimeValue).ms,
    zone: file.zone,
    calendar: ORDINARY_CALENDAR,
  };
  const prepared = prepareWorkflows(file.workflows as readonly Json[]);
  const world = makeWorld(file, prepared.workflows, clock);
  if (prepared.faults.length > 0) return { outcomes: [], faults: prepared.faults };
  const outcomes = [
    ...file.expressions.map((one, index) => ({ at: `expressions.${index}`, run: () => runExpression(one, file, clock) })),
    ...file.decisions.flatMap((one, index) =>
      one.cases.map((_, at) => ({ at: `decisions.${index}.cases.${at}`, run: () => runDecision(one, at, file, clock) })),
    ),
    ...file.forms.map((one, index) => ({ at: `forms.${index}`, run: () => runForm(one, prepared.workflows, world) })),
    ...file.handOffs.map((one, index) => ({ at: `handOffs.${index}`, run: () => runHandOff(one, prepared.workflows, world) })),
    ...file.designs.map((one, index) => ({ at: `designs.${index}`, run: () => runDesign(one, prepared.workflows) })),
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

/** The members and records of a file, as the world its cases are decided in. */
function makeWorld(file: ConformanceFile, workflows: Workflows, clock: Clock): Outside {
  const members = new Map(file.members.map(({ id, roles }) => [id, { id, name: id, roles }]));
  const findRecord: FindRecord = (workflow, id) => {
    const record = file.records.find((one) => one.workflow === workflow && one.id === id);
    const definition = workflows.get(workflow)?.definition;
    if (!record || !definition) return null;
    const values = Object.entries(record.values).flatMap(([key, json]) => {
      const field = findField(definition, key);
      const read = field && readFieldValue(field, json as Json, { zone: clock.zone, findRecord: () => null });
      return read?.ok ? [[key, read.value] as const] : [];
    });
    return Object.fromEntries(values);
  };
  return makeOutside({
    ...clock,
    locale: 'en',
    findRecord,
    findRecordFor: (_, workflow, id) => findRecord(workflow, id),
    findMember: (id) => members.get(id) ?? null,
  });
}

/** The cases that differ. */
export const differing = (conformed: Conformed): readonly Outcome[] =>
  conformed.outcomes.filter(({ expected, found }) => expected !== found);
