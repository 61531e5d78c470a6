import type { CompiledWorkflow } from '../flow/compiled-workflow.ts';
import type { Address, DeliveryConsequence, HandedOn } from '../flow/events.ts';
import type { Form } from '../forms/evaluate-form.ts';
import { decidedOf } from '../forms/evaluate-form.ts';
import type { KeptTest, TestStep } from '../model/kept-test.ts';
import type { Treatment } from '../model/treatment.ts';
import type { Diagnostic } from '../shared/diagnostic.ts';
import { writePlain } from '../templates/rich-text.ts';
import { type Moment, type RehearsalWorld, replay } from './replay.ts';

/** What came of a step, as a test keeps it. */
export type Outcome = Pick<TestStep, 'to' | 'treatments' | 'sent' | 'opened' | 'answer'>;

/** What a step came to, as it is expected of it from now on. */
export function outcomeOf({ form, came }: Pick<Moment, 'form' | 'came'>): Outcome {
  const treatments = adjustedIn(form);
  if (!came.ok) return { to: null, treatments, sent: [], opened: [], answer: null };
  const { record, acknowledgement } = came.value;
  return {
    to: record.stage,
    treatments,
    ...consequencesOf(came.value),
    answer: acknowledgement ? writePlain(acknowledgement.text) : null,
  };
}

/** The treatments of the fields that adjustments cover at the form's stage: the others are as the plan says. */
function adjustedIn(form: Form): Record<string, Treatment> {
  const found: Record<string, Treatment> = {};
  for (const step of form.stageForm.steps) {
    if (step.kind !== 'field' || step.placement.hiding.length + step.placement.adjustments.length === 0) continue;
    found[step.of.field.key] = decidedOf(form, step.of).treatment;
  }
  return found;
}

const whom = (address: Address): string =>
  address.kind === 'role' ? address.role : address.kind === 'member' ? address.member : address.address;

/** A delivery in a line: whom or where it goes, and what stands in the dispatch log of it. */
function tellDelivery(one: DeliveryConsequence): string {
  switch (one.type) {
    case 'mail':
      return `${one.name} → ${[...one.to, ...one.cc, ...one.bcc].map(whom).join(', ')}: ${one.subject}`;
    case 'web':
      return `${one.name} → ${one.outlet}: ${one.method} ${one.address}`;
    case 'file':
      return `${one.name} → ${one.outlet}: ${one.folder}/${one.fileName}`;
    default:
      return one satisfies never;
  }
}

function consequencesOf({ deliveries, followUps }: HandedOn): Pick<Outcome, 'sent' | 'opened'> {
  return {
    sent: deliveries.map((one) => tellDelivery(one).slice(0, 2000)),
    opened: followUps.map(({ workflow, handOff, row }) => `${workflow} by ${handOff}${row === null ? '' : ` for row ${row}`}`),
  };
}

/** The steps of a rehearsal with what is expected of each. Keys are those of the places. */
export const expectationsOf = (moments: readonly Moment[]): readonly TestStep[] =>
  moments.map((moment, index) => ({
    key: `step${index + 1}`,
    byClock: false,
    ...moment.step,
    entered: { ...moment.step.entered },
    ...outcomeOf(moment),
  }));

/** Something that came otherwise than it was expected to. `step`: counted from 1; `key`: a field, where one is meant. */
export type OutcomeDifference = {
  readonly step: number;
  readonly what: 'to' | 'treatment' | 'sent' | 'not-sent' | 'opened' | 'not-opened' | 'answer' | 'not-reached';
  readonly key: string | null;
  readonly expected: string | null;
  readonly found: string | null;
};

/** In what an outcome isn't as expected. */
export function compareOutcomes(step: number, expected: Outcome, found: Outcome): readonly OutcomeDifference[] {
  const differs = (
    what: OutcomeDifference['what'],
    before: string | null,
    after: string | null,
    key: string | null = null,
  ): readonly OutcomeDifference[] => (before === after ? [] : [{ step, what, key, expected: before, found: after }]);
  const fields = [...new Set([...Object.keys(expected.treatments), ...Object.keys(found.treatments)])];
  const lists = (what: 'sent' | 'opened', none: 'not-sent' | 'not-opened'): readonly OutcomeDifference[] => [
    ...missing(expected[what], found[what]).map(
      (one): OutcomeDifference => ({ step, what: none, key: null, expected: one, found: null }),
    ),
    ...missing(found[what], expected[what]).map(
      (one): OutcomeDifference => ({ step, what, key: null, expected: null, found: one }),
    ),
  ];
  return [
    ...differs('to', expected.to, found.to),
    // A field that no adjustment covered, then or now, is as the plan says.
    ...fields.flatMap((field) =>
      differs('treatment', expected.treatments[field] ?? null, found.treatments[field] ?? null, field),
    ),
    ...lists('sent', 'not-sent'),
    ...lists('opened', 'not-opened'),
    ...differs('answer', expected.answer, found.answer),
  ];
}

/** What is in one list and not in another, as often as it is there more. */
function missing(list: readonly string[], from: readonly string[]): readonly string[] {
  const left = [...from];
  return list.filter((one) => {
    const at = left.indexOf(one);
    if (at >= 0) left.splice(at, 1);
    return at < 0;
  });
}

export type TestRun = {
  readonly differences: readonly OutcomeDifference[];
  /** Why the last step was refused, where it was. */
  readonly refused: readonly Diagnostic[];
};

/** Runs a kept test. It passes where it differs in nothing. */
export function runTest(workflow: CompiledWorkflow, test: KeptTest, world: RehearsalWorld): TestRun {
  const { moments } = replay(workflow, test, world);
  const differences = test.steps.flatMap((step, index): readonly OutcomeDifference[] => {
    const moment = moments[index];
    if (moment) return compareOutcomes(index + 1, step, outcomeOf(moment));
    return index === moments.length ? [{ step: index + 1, what: 'not-reached', key: null, expected: step.to, found: null }] : [];
  });
  const last = moments.at(-1);
  return { differences, refused: last && !last.came.ok && differences.length > 0 ? last.came.diagnostics : [] };
}
