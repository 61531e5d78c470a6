import {
  type Actor,
  CLOCK,
  type CompiledWorkflow,
  clockMoments,
  decidedOf,
  drawFrom,
  enterFollowUp,
  fillForm,
  formatRecordNumber,
  handOn,
  isEnterable,
  type Json,
  makeOutside,
  memberOf,
  ORDINARY_CALENDAR,
  type Outside,
  openRecord,
  type RecordEvent,
  type RichText,
  type WorkflowRecord,
  writeInstant,
} from '@ypomet/core';
import { DEMO_MEMBERS, DEMO_WORKSPACE } from './members.ts';

const DAY_MS = 86_400_000;
const HOUR_MS = 3_600_000;

/** A record of the past, with what happened to it. */
export type PastRecord = {
  record: WorkflowRecord;
  readonly workflow: CompiledWorkflow;
  revision: number;
  readonly openedBy: string | null;
  readonly followUp: string | null;
  readonly row: string | null;
  readonly depth: number;
  readonly opened: PastRecord[];
  readonly events: {
    readonly event: RecordEvent;
    readonly told: RichText | null;
    readonly by: string | null;
    readonly at: number;
    readonly revision: number;
  }[];
};

/** The versions by which the past went on. */
export type PastWorkflows = {
  /** The loans' two versions, and the instant from which records begin on the second. */
  readonly loans: readonly [CompiledWorkflow, CompiledWorkflow];
  readonly changedAt: number;
  readonly others: Readonly<Record<string, CompiledWorkflow>>;
};

const [, REGISTRAR, CONSERVATOR, DIRECTOR, BERYL, TOMAS] = DEMO_MEMBERS.map(
  ({ id, name, email, roles }): Actor => ({ id, name, email, roles: [...roles] }),
) as [Actor, Actor, Actor, Actor, Actor, Actor];

const BORROWERS: readonly { readonly name: string; readonly by: Actor; readonly venue: string }[] = [
  { name: 'Hollen Street Gallery', by: BERYL, venue: 'home' },
  { name: 'Quayside Study Centre', by: TOMAS, venue: 'home' },
  { name: 'Fennimore Textile House', by: BERYL, venue: 'neighbour' },
  { name: 'Harbour School of Arts', by: TOMAS, venue: 'home' },
  { name: 'Castle Ebrach Rooms', by: BERYL, venue: 'neighbour' },
  { name: 'Northlight Institute', by: TOMAS, venue: 'overseas' },
  { name: 'Old Mill Collection', by: BERYL, venue: 'home' },
];
const OBJECTS: readonly (readonly [string, string, number])[] = [
  ['Harbour study', 'paper', 9000],
  ['Tide clock', 'metal', 41_000],
  ['Ferry ledger', 'paper', 1200],
  ['Storm lantern', 'glass', 3900],
  ['Net maker’s bench', 'wood', 22_000],
  ['Mooring stone', 'stone', 8000],
  ['Anchor, iron', 'metal', 15_500],
  ['Pilot’s coat', 'textile', 6400],
  ['Chart of the estuary', 'paper', 18_400],
  ['Sail sampler', 'textile', 2300],
  ['Signal lamp', 'glass', 5200],
  ['Figurehead', 'wood', 64_000],
  ['Sextant', 'metal', 12_700],
  ['Salt glaze jar', 'stone', 3100],
];

/**
 * Two years of loans, made up from a seed: begun, checked, insured, lent and brought back by the rules of their version, as
 * if every hand-off had happened at its time; with the records that they opened. Those that aren't over by `now` are under
 * way. Nothing is sent.
 */
export function makePast(
  workflows: PastWorkflows,
  now: number,
  { seed, count }: { readonly seed: number; readonly count: number },
): readonly PastRecord[] {
  const past = new Past(workflows, now, seed);
  const begins = Array.from({ length: count }, () => now - past.between(4 * HOUR_MS, 730 * DAY_MS)).sort((a, b) => a - b);
  for (const at of begins) past.lend(at);
  return past.records;
}

class Past {
  readonly records: PastRecord[] = [];
  private readonly draw: (below: number) => number;
  private readonly numbers = new Map<string, number>();

  constructor(
    private readonly workflows: PastWorkflows,
    private readonly now: number,
    seed: number,
  ) {
    this.draw = drawFrom(seed);
  }

  between(low: number, high: number): number {
    return low + Math.floor((this.draw(1_000_000) / 1_000_000) * (high - low));
  }

  private pick<T>(list: readonly T[]): T {
    return list[this.draw(list.length)] as T;
  }

  private chance(percent: number): boolean {
    return this.draw(100) < percent;
  }

  /** One loan, from its request on, as far as it has come by now. */
  lend(begun: number): void {
    const at = atWork(begun);
    const borrower = this.pick(BORROWERS);
    const isStudy = this.chance(25);
    const kind = isStudy ? 'study' : this.chance(10) ? 'filming' : 'exhibition';
    const from = at + this.between(25, 90) * DAY_MS;
    const to = from + (isStudy ? this.between(1, 5) : this.between(30, 150)) * DAY_MS;
    const objects = Array.from({ length: 1 + this.draw(isStudy ? 2 : 4) }, (_, index) => {
      const [title, material, worth] = this.pick(OBJECTS);
      const insuredValue = `${Math.round((worth * this.between(70, 140)) / 100)}.00`;
      return { id: `o${index + 1}`, values: { title, material, insuredValue } };
    });
    const isSecond = at >= this.workflows.changedAt;
    const loan = this.begin(this.workflows.loans[isSecond ? 1 : 0], isSecond ? 2 : 1, 'request', borrower.by, at);
    const request = {
      borrower: borrower.name,
      borrowerEmail: borrower.by.email,
      kind,
      venue: borrower.venue,
      fromDate: dayOf(from),
      toDate: dayOf(to),
      objects,
      climateControl: this.chance(80),
    };
    if (!this.act(loan, 'submit', request, borrower.by, at)) return;
    this.check(loan, at, borrower.by, request, to);
  }

  private check(loan: PastRecord, came: number, borrower: Actor, request: Values, to: number): void {
    let at = this.later(came, 1, 6);
    if (this.chance(9)) {
      if (!this.act(loan, 'askBorrower', { reason: 'Please say more about the rooms.' }, REGISTRAR, at)) return;
      at = this.later(at, 1, 9);
      if (!this.act(loan, 'submit', request, borrower, at)) return;
      at = this.later(at, 1, 4);
    }
    if (this.chance(11)) {
      this.act(loan, 'decline', { reason: 'The objects are on show here in that time.' }, REGISTRAR, at);
      return;
    }
    const care = { luxLimit: this.pick(['50', '80', '150']), climateControl: true, precautions: this.pick(PRECAUTIONS) };
    if (!this.act(loan, 'accept', care, REGISTRAR, at)) return;
    if (loan.record.stage === 'studyVisit') {
      this.act(loan, 'visited', {}, REGISTRAR, this.later(Math.max(at, to), 0, 3));
      return;
    }
    if (loan.record.stage === 'conservationReview') {
      at = this.later(at, 2, 10);
      if (!this.act(loan, 'reviewed', care, CONSERVATOR, at)) return;
    }
    at = this.later(at, 1, 7);
    if (this.chance(7)) {
      this.act(loan, 'refuse', { reason: 'The way is too long for these works.' }, DIRECTOR, at);
      return;
    }
    if (!this.act(loan, 'agree', {}, DIRECTOR, at)) return;
    if (loan.record.stage === 'insurance') {
      at = this.later(at, 1, 6);
      const policyNumber = `P-${10_000 + this.draw(90_000)}`;
      if (!this.act(loan, 'insured', { policyNumber }, REGISTRAR, at)) return;
    }
    this.agree(loan, at, borrower, to);
  }

  /** The terms: agreed once all that was opened is done; else they lapse by themselves. */
  private agree(loan: PastRecord, came: number, borrower: Actor, to: number): void {
    const done = loan.opened.map((one) => this.prepare(one, came));
    const [lapse] = clockMoments(loan.workflow, loan.record, PLACE).filter(({ kind }) => kind === 'hand-off');
    const at = this.later(Math.max(came, ...done), 1, this.chance(5) ? 60 : 8);
    if (lapse && lapse.at <= at) {
      this.act(loan, 'withdraw', {}, CLOCK, lapse.at);
      return;
    }
    if (!this.act(loan, 'sign', { agreed: { sign: true } }, borrower, at)) return;
    const back = this.chance(20) ? this.later(to, 4, 60) : this.later(to, 0, 2) - this.draw(4) * DAY_MS;
    if (!this.act(loan, 'returned', { leftOn: dayOf(at) }, REGISTRAR, Math.max(back, at + DAY_MS))) return;
    const checked = this.later(Math.max(back, at + DAY_MS), 1, 6);
    const isDamaged = this.chance(6);
    const found = {
      returnedOn: dayOf(back),
      damaged: isDamaged,
      ...(isDamaged ? { damage: 'A scratch at the lower edge.' } : {}),
    };
    this.act(loan, isDamaged ? 'claim' : 'settled', found, CONSERVATOR, checked);
  }

  /** What a loan opened, as far as it has come; when it is done. */
  private prepare(opened: PastRecord, came: number): number {
    let at = this.later(came, 1, 9);
    if (opened.workflow.definition.key === 'conditionReport') {
      const state = this.pick(['good', 'good', 'good', 'fair', 'poor']);
      const report = {
        seenOn: dayOf(at),
        state,
        signed: { sign: true },
        ...(state === 'poor' ? { treatment: 'Consolidate, then frame.' } : {}),
      };
      return this.act(opened, 'file', report, CONSERVATOR, at) ? at : Number.POSITIVE_INFINITY;
    }
    const price = `${this.between(300, 4000)}.00`;
    const offer = {
      pickUp: writeInstant(at + 20 * DAY_MS),
      crates: [{ id: 'c1', values: { label: 'A', weight: `${this.between(8, 60)}.5`, climate: this.chance(50) } }],
      carrier: this.pick(['Linden Freight', 'Two Rivers Carriers']),
      price,
    };
    if (!this.act(opened, 'book', offer, REGISTRAR, at)) return Number.POSITIVE_INFINITY;
    if (opened.record.stage !== 'approval') return at;
    at = this.later(at, 1, 4);
    return this.act(opened, 'approve', {}, DIRECTOR, at) ? at : Number.POSITIVE_INFINITY;
  }

  /** A working moment some days on. */
  private later(from: number, least: number, most: number): number {
    return atWork(from + this.between(least * DAY_MS, most * DAY_MS + 1));
  }

  private number(workflow: CompiledWorkflow, at: number): string {
    const { key, numbering } = workflow.definition;
    const next = (this.numbers.get(key) ?? 0) + 1;
    this.numbers.set(key, next);
    return formatRecordNumber(numbering, next, outsideAt(at));
  }

  private id(): string {
    const hex = Array.from({ length: 32 }, () => this.draw(16).toString(16)).join('');
    return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-4${hex.slice(13, 16)}-a${hex.slice(17, 20)}-${hex.slice(20)}`;
  }

  private begin(workflow: CompiledWorkflow, version: number, intake: string, actor: Actor, at: number): PastRecord {
    const record = {
      ...openRecord(workflow, intake, this.id(), version, actor, outsideAt(at)),
      number: this.number(workflow, at),
    };
    const told: PastRecord = {
      record,
      workflow,
      revision: 0,
      openedBy: null,
      followUp: null,
      row: null,
      depth: 0,
      opened: [],
      events: [],
    };
    this.records.push(told);
    return told;
  }

  /**
   * Hands a record on, with those of the values that may be entered there; false when that is still to come. A refusal is a
   * fault of this script.
   */
  private act(past: PastRecord, handOff: string, values: Values, actor: Actor, at: number): boolean {
    if (at > this.now) return false;
    const { workflow } = past;
    const outside = outsideAt(at);
    const counts = { open: past.opened.filter(isOpen).length, done: past.opened.filter((one) => !isOpen(one)).length };
    const before = { ...past.record, followUps: counts };
    const input = enterable(workflow, before, values, actor, outside);
    const result = handOn(workflow, before, handOff, input, actor, outside);
    if (!result.ok) throw new Error(`${before.number} ${handOff}: ${JSON.stringify(result.diagnostics)}`);
    const { record, events, acknowledgement, followUps } = result.value;
    past.record = record;
    this.note(past, events, acknowledgement?.text ?? null, actor, at);
    for (const consequence of followUps) {
      const target = this.workflows.others[consequence.workflow] as CompiledWorkflow;
      const opened = enterFollowUp(target, {
        consequence,
        source: { workflow: record.workflow, record: record.id, number: record.number },
        id: this.id(),
        number: this.number(target, at),
        version: 1,
        actor,
        outside,
      });
      const told: PastRecord = {
        record: opened.record,
        workflow: target,
        revision: 0,
        openedBy: record.id,
        followUp: consequence.followUp,
        row: consequence.row,
        depth: past.depth + 1,
        opened: [],
        events: [],
      };
      this.note(told, opened.events, null, actor, at);
      past.opened.push(told);
      this.records.push(told);
    }
    return true;
  }

  private note(past: PastRecord, events: readonly RecordEvent[], told: RichText | null, actor: Actor, at: number): void {
    past.revision += 1;
    events.forEach((event, index) => {
      past.events.push({ event, told: index === 0 ? told : null, by: memberOf(actor), at, revision: past.revision });
    });
  }
}

type Values = Readonly<Record<string, Json>>;
const PRECAUTIONS: readonly Json[] = [['crate'], ['courier'], ['crate', 'courier'], ['glazing'], ['alarm', 'courier']];
const PLACE = { zone: DEMO_WORKSPACE.zone, calendar: ORDINARY_CALENDAR };

const isOpen = ({ record, workflow }: PastRecord): boolean => workflow.stages.get(record.stage)?.stage.kind !== 'end';

const outsideAt = (now: number): Outside =>
  makeOutside({
    ...PLACE,
    now,
    locale: DEMO_WORKSPACE.locale,
    findMember: (id) => DEMO_MEMBERS.find((member) => member.id === id) ?? null,
  });

/** Those of some values that an actor may enter where the record is; what one answer brings in is asked for with it. */
function enterable(workflow: CompiledWorkflow, record: WorkflowRecord, values: Values, actor: Actor, outside: Outside): Values {
  let entered: Values = {};
  for (let round = 0; round < 3; round++) {
    const { form } = fillForm(workflow, record, entered, actor, outside);
    entered = Object.fromEntries(
      Object.entries(values).filter(([key]) => {
        const of = workflow.forms.fieldByKey.get(key);
        return of !== undefined && isEnterable(decidedOf(form, of).treatment);
      }),
    );
  }
  return entered;
}

const dayOf = (ms: number): string => new Date(ms).toISOString().slice(0, 10);

/** The same moment, or one within the working hours after it: nobody hands anything on at night or on a Sunday. */
function atWork(ms: number): number {
  const date = new Date(ms);
  const hour = date.getUTCHours();
  const within = hour < 8 ? ms + (8 - hour) * HOUR_MS : hour > 15 ? ms + (32 - hour) * HOUR_MS : ms;
  const day = new Date(within).getUTCDay();
  return day === 0 ? within + DAY_MS : day === 6 ? within + 2 * DAY_MS : within;
}
