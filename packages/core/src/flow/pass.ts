import { type Frame, makeFrame } from '../expressions/frame.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import { derive } from '../forms/derivation.ts';
import { clearedFields, decidedOf, evaluateForm, type Form } from '../forms/evaluate-form.ts';
import { isEmpty, readGivenValue } from '../model/field-value.ts';
import { type DiagnosticCode, diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result, success } from '../shared/result.ts';
import { writeInstant } from '../values/temporal.ts';
import type { Value } from '../values/value.ts';
import { acknowledge, mailOf } from './acknowledge.ts';
import { assignAt } from './assign.ts';
import { chooseBranch } from './choose-branch.ts';
import type { CompiledHandOff, CompiledSet, CompiledStage, CompiledWorkflow } from './compiled-workflow.ts';
import { countDue } from './due.ts';
import type { DeliveryConsequence, FollowUpConsequence, HandedOn, RecordEvent, TraceStep } from './events.ts';
import { openFollowUps, refreshFollowUps } from './follow-ups.ts';
import { refuseOverruns } from './frame-overruns.ts';
import type { Moment } from './moment.ts';
import { mayRead } from './permissions.ts';
import {
  type Actor,
  CLOCK,
  type NamedKey,
  type Outside,
  systemValues,
  type WorkflowRecord,
  type WrittenValues,
  writeValues,
} from './record.ts';
import { sendOut } from './send-out.ts';
import { Tracer } from './trace.ts';

/** Junctions passed at one hand-off before the design is called at fault. */
export const MAX_JUNCTIONS = 100;

/** A hand-off about to happen: the record's form with all that was entered. */
export type Passing = {
  readonly workflow: CompiledWorkflow;
  readonly record: WorkflowRecord;
  readonly handOff: CompiledHandOff;
  readonly form: Form;
  readonly actor: Actor;
  readonly outside: Outside;
};

/** What it comes to, and all that was decided on the way: also when it comes to a refusal. */
export type Passed = { readonly result: Result<HandedOn>; readonly trace: readonly TraceStep[] };

/**
 * Moves a record on from an evaluated form (semantics 4.4 to 4.7): set-values, branches, junctions, arrival, consequences.
 * The one function that decides this, for hand-offs and for their explanation. Codes: `hand-off/…`,
 * `expression/too-much-work`.
 */
export function passOn(passing: Passing, withReasons = false): Passed {
  const walk = new Walk(passing, withReasons);
  const result = walk.run();
  return { result, trace: walk.tracer.steps };
}

class Walk {
  readonly tracer: Tracer;
  private readonly slots: Value[];
  private readonly frame: Frame;
  private readonly events: RecordEvent[] = [];
  private readonly sent: DeliveryConsequence[] = [];
  private readonly opened: FollowUpConsequence[] = [];
  /** The record as it stands on the way; its values are in the slots. */
  private record: WorkflowRecord;

  constructor(
    private readonly passing: Passing,
    withReasons: boolean,
  ) {
    const { form, record } = passing;
    this.tracer = new Tracer(withReasons);
    this.slots = [...form.frame.slots];
    this.frame = makeFrame(this.slots, form.given.environment, form.frame.overruns);
    this.record = record;
  }

  run(): Result<HandedOn> {
    const { workflow, handOff } = this.passing;
    const unfit = this.set(handOff.sets, handOff);
    if (unfit) return unfit;
    let current = handOff;
    for (let passed = 0; ; passed++) {
      if (passed > MAX_JUNCTIONS) return this.refuse('hand-off/endless-junctions', handOff);
      const chosen = chooseBranch(current, this.frame, this.tracer, (name) => this.knownName(name));
      if (!chosen.ok) return chosen;
      const { destination, branch } = chosen.value;
      const next = workflow.stages.get(destination.to);
      if (!next) return this.refuse('hand-off/leads-nowhere', current);
      this.arrive(next, destination.track);
      this.noteEvent(current, branch, passed > 0);
      this.know(current.handOff, next.stage);
      if (passed > 0) this.consequencesOf(current);
      const unfitThere = this.set(next.sets, current);
      if (unfitThere) return unfitThere;
      const onward = next.stage.kind === 'junction' ? next.handOffs[0] : undefined;
      if (!onward) return this.finish(next);
      this.arrivalOf(next);
      const unfitOnward = this.set(onward.sets, onward);
      if (unfitOnward) return unfitOnward;
      current = onward;
    }
  }

  /** Stage and track change together, and conditions after that see both. */
  private arrive(next: CompiledStage, track: string | null): void {
    const { stage } = next;
    const own = this.record.track;
    const kept = own !== null && stage.tracks.includes(own) ? own : (stage.tracks[0] ?? null);
    const moved = { ...this.record, stage: stage.key, track: track ?? kept };
    // Back where it was (a save, say) it is still in the same stay.
    const isStay = this.events.length === 0 && stage.key === this.record.stage;
    this.record = isStay ? moved : { ...moved, arrivedAt: writeInstant(this.passing.outside.now), reminded: [] };
  }

  private noteEvent({ handOff }: CompiledHandOff, branch: string | null, isOnward: boolean): void {
    const { stage: to, track } = this.record;
    this.events.push(
      isOnward
        ? { type: 'passed-junction', stage: handOff.from, to, branch }
        : { type: 'handed-on', handOff: handOff.key, from: handOff.from, to, branch, track, changed: [] },
    );
  }

  /** Puts the record's facts as they are now before the expressions, and all that follows from them. */
  private know(handOff: NamedKey, destination: NamedKey): void {
    const { workflow, actor, outside } = this.passing;
    for (const [slot, value] of systemValues(workflow.forms, this.record, actor, outside, { handOff, destination })) {
      this.slots[slot] = value;
      derive(workflow.forms.derivation, this.slots, this.frame, slot);
    }
  }

  /** `field := expression`, in order; all that follows from a set value follows at once. */
  private set(sets: readonly CompiledSet[], { handOff }: CompiledHandOff): Result<never> | null {
    const { workflow, outside } = this.passing;
    for (const { of, value } of sets) {
      const read = readGivenValue(of.field, value.evaluate(this.frame), outside);
      if (!read.ok) {
        const params = { handOff: handOff.name, field: of.field.name, expected: read.diagnostic.params.expected ?? '' };
        return failure([diagnostic('hand-off/set-unfit', of.field.key, params)]);
      }
      this.slots[of.slot] = read.value;
      derive(workflow.forms.derivation, this.slots, this.frame, of.slot);
    }
    return null;
  }

  private moment(): Moment {
    const { workflow, outside, actor } = this.passing;
    const record = { ...this.record, values: this.written().json };
    return { workflow, record, frame: this.frame, outside, actor, tracer: this.tracer };
  }

  /** The values as they are now, as they are stored. */
  private written(): WrittenValues {
    const { workflow, record, form } = this.passing;
    return writeValues(workflow.forms, this.slots, { json: record.values, values: form.given.stored });
  }

  /** What a junction's hand-off sends and opens, with the values, the stage and the track as they are when it is passed. */
  private consequencesOf({ handOff, deliveries, followUps }: CompiledHandOff): void {
    if (deliveries.length + followUps.length === 0) return;
    const moment = this.moment();
    this.sent.push(...sendOut(deliveries, handOff.deliveryPolicy, handOff.key, moment));
    this.opened.push(...openFollowUps(followUps, handOff.followUpPolicy, handOff.key, moment));
  }

  private arrivalOf({ stage, deliveries }: CompiledStage): void {
    if (deliveries.length === 0) return;
    this.sent.push(...sendOut(deliveries, stage.onArrival.deliveryPolicy, stage.key, this.moment()));
  }

  /**
   * Defaults of what the stage shows for the first time, as its form reads them now: what the participant finds there tomorrow
   * is what arrived today. A default that the form before has shown is spent, whatever became of the value.
   */
  private fillDefaults({ stage }: CompiledStage): void {
    const { workflow, form, record } = this.passing;
    const { due, environment } = form.given;
    if (due.size === 0) return;
    const isShown = (own: Form, of: CompiledField): boolean => decidedOf(own, of).treatment !== 'hidden';
    const before = workflow.forms.filled.filter((of) => due.has(of.slot) && isShown(form, of));
    const left = new Set([...due].filter((slot) => !before.some((of) => of.slot === slot)));
    const system = new Map(Object.values(workflow.forms.layout.systemSlots).map((slot) => [slot, this.slots[slot] ?? null]));
    const stored = this.slots.slice(0, workflow.forms.fields.length);
    const there = evaluateForm(workflow.forms, stage.key, { stored, input: new Map(), due: left, system, environment });
    const now = workflow.forms.filled.filter((of) => left.has(of.slot) && isShown(there, of));
    for (const of of now) {
      if (!isEmpty(this.slots[of.slot] ?? null)) continue;
      this.slots[of.slot] = there.frame.slots[of.slot] ?? null;
      derive(workflow.forms.derivation, this.slots, this.frame, of.slot);
    }
    this.record = { ...this.record, defaulted: [...record.defaulted, ...[...before, ...now].map(({ field }) => field.key)] };
  }

  private finish(to: CompiledStage): Result<HandedOn> {
    const { workflow, handOff, outside } = this.passing;
    this.fillDefaults(to);
    const { assignee, unassigned } = assignAt(to, this.frame, workflow.definition, outside);
    const at = { ...this.record, assignee, due: null };
    this.record = at;
    this.know(handOff.handOff, to.stage);
    countDue(to, at, this.frame, (due) => {
      this.record = { ...at, due };
      this.know(handOff.handOff, to.stage);
    });
    const { json: values, changed } = this.written();
    this.record = { ...this.record, values };
    const moment = this.moment();
    const own = sendOut(handOff.deliveries, handOff.handOff.deliveryPolicy, handOff.handOff.key, moment);
    const opened = openFollowUps(handOff.followUps, handOff.handOff.followUpPolicy, handOff.handOff.key, moment);
    this.arrivalOf(to);
    // The clock reads nothing.
    const acknowledgement = moment.actor === CLOCK ? null : acknowledge(handOff.acknowledgements, handOff.handOff.key, moment);
    const mailed = acknowledgement && mailOf(acknowledgement, handOff.acknowledgements, moment);
    const overrun = refuseOverruns(this.frame);
    if (overrun) return overrun;
    const [first, ...rest] = this.events;
    const opening =
      first?.type === 'handed-on' ? [{ ...first, changed, ...this.dropped(), ...(unassigned ? { unassigned } : {}) }] : [];
    return success({
      record: this.record,
      events: [...opening, ...rest],
      deliveries: [...own, ...this.sent, ...(mailed ? [mailed] : [])],
      followUps: [...opened, ...this.opened],
      refreshes: handOff.handOff.refreshesCarried && this.record.followUps.open > 0 ? refreshFollowUps(moment) : [],
      acknowledgement,
    });
  }

  /** Fields whose stored value the form counted as empty, so that the hand-off cleared it (semantics 4.4). */
  private dropped(): { readonly dropped?: readonly string[] } {
    const { form } = this.passing;
    const dropped = clearedFields(form)
      .filter(({ slot }) => isEmpty(this.slots[slot] ?? null))
      .map(({ field }) => field.key);
    return dropped.length === 0 ? {} : { dropped };
  }

  /** A field's name, if the actor is shown it at the stage the record leaves. */
  private knownName(key: string): string | null {
    const { form, actor } = this.passing;
    const of = form.forms.fieldByKey.get(key);
    if (!of || !mayRead(form.forms, key, actor)) return null;
    return decidedOf(form, of).treatment === 'hidden' ? null : of.field.name;
  }

  private refuse(code: Extract<DiagnosticCode, `hand-off/${string}`>, { handOff }: CompiledHandOff): Result<never> {
    return failure([diagnostic(code, handOff.key, { handOff: handOff.name })]);
  }
}
