import { CLOCK, type CompiledWorkflow, clockMoments, handOn, type RecordEvent, remind, writeInstant } from '@ypomet/core';
import type { FastifyBaseLogger } from 'fastify';
import type { ServerContext } from '../../context.ts';
import { inTransaction } from '../../db/database.ts';
import { ProblemError } from '../../problem.ts';
import { clockColumns } from './clock-columns.ts';
import { Lookups } from './lookups.ts';
import { toQueued } from './queue-deliveries.ts';
import { type RecordRow, toRecord } from './record-row.ts';
import { findDue, findRefused, putClock, type Queries, takeForClock, writeHandOffs } from './repository.ts';
import type { RecordService } from './service.ts';

const EVERY_MS = 2000;
/** Records looked at in one go. */
const AT_ONCE = 100;
/** Records looked at beside each other. */
const LANES = 4;
/** Things done with one record at a time: designs may send it in a circle, and then it waits. */
const MAX_STEPS = 60;
/** A record that goes in a circle, or can't be looked at, waits this long, so that it holds up no others. */
const AGAIN_AFTER_MS = 5 * 60_000;
const MAX_ISSUES = 20;

type Taken = { readonly row: RecordRow; readonly workflow: CompiledWorkflow; readonly lookups: Lookups; readonly now: number };

/**
 * Sends reminders and hands on what happens by itself, once the time has come. Every process may run one: a record is taken
 * by one of them at a time, and what is done is noted with it in one transaction, so it is done once.
 */
export class RecordClock {
  private underWay: Promise<void> | null = null;

  constructor(
    private readonly context: ServerContext,
    private readonly records: RecordService,
    private readonly log: FastifyBaseLogger,
  ) {}

  /** Looks every few seconds, until it is stopped; a stop waits for what is under way. */
  start(): { readonly stop: () => Promise<void> } {
    const timer = setInterval(() => {
      this.underWay ??= this.tick()
        .catch((error: Error) => this.log.error({ message: error.message }, 'the clock stood still'))
        .finally(() => {
          this.underWay = null;
        });
    }, EVERY_MS).unref();
    return {
      stop: async () => {
        clearInterval(timer);
        await this.underWay;
      },
    };
  }

  /** Does what there is to do by now; nothing while the process's clock is off. */
  async tick(): Promise<void> {
    if (await this.context.wallClock.isOff()) {
      this.log.error('this process’s clock isn’t the database’s: it does nothing that depends on time');
      return;
    }
    const { pool } = this.context.database;
    const refused = await findRefused(pool, AT_ONCE);
    for (const id of refused) await this.look(id, 'anew');
    for (;;) {
      const due = await findDue(pool, writeInstant(this.context.clock()), AT_ONCE);
      const left = [...due];
      let done = 0;
      const lane = async (): Promise<void> => {
        for (let id = left.shift(); id !== undefined; id = left.shift()) done += await this.look(id);
      };
      await Promise.all(Array.from({ length: LANES }, lane));
      // What somebody else holds just now comes with the next look.
      if (due.length < AT_ONCE || done === 0) return;
    }
  }

  /** How many things were done with a record. `anew`: what was refused is tried again. */
  private async look(id: string, how?: 'anew'): Promise<number> {
    try {
      let steps = 0;
      while (steps < MAX_STEPS && (await this.step(id, steps === 0 ? how : undefined))) steps += 1;
      if (steps === MAX_STEPS) await this.putOff(id);
      return steps;
    } catch (error) {
      this.log.error({ record: id, message: (error as Error).message }, 'the clock could not look at a record');
      await this.putOff(id);
      return 0;
    }
  }

  private async putOff(id: string): Promise<void> {
    await inTransaction(this.context.database.pool, async (client) => {
      const row = await takeForClock(client, id);
      if (row) await putClock(client, id, writeInstant(this.context.clock() + AGAIN_AFTER_MS), row.refused);
    });
  }

  /** Does the next thing with a record; whether there was one. */
  private async step(id: string, how: 'anew' | undefined): Promise<boolean> {
    let tried: string | null = null;
    try {
      return await this.within(id, async (client, taken) => {
        const { row, workflow, lookups, now } = taken;
        const record = toRecord(row);
        const refused = how === 'anew' ? [] : row.refused;
        const moments = clockMoments(workflow, record, lookups.outside).filter(
          (one) => one.at <= now && (one.kind === 'reminder' || !refused.includes(one.handOff)),
        );
        const [next] = moments;
        if (!next) {
          await putClock(client, id, clockColumns(workflow, record, lookups.outside, refused).clock_at, refused);
          return false;
        }
        if (next.kind === 'reminder') {
          const reminded = await lookups.settle(() => remind(workflow, record, next.reminder, lookups.outside));
          if (!reminded) throw new Error(`no reminder ${next.reminder}`);
          const [deliveries = []] = await toQueued(client, [reminded.deliveries]);
          await this.note(client, taken, { ...reminded, deliveries, refused });
          return true;
        }
        tried = next.handOff;
        const result = await lookups.settle(() => handOn(workflow, record, next.handOff, {}, CLOCK, lookups.outside));
        if (result.ok) await this.records.storeByClock(client, workflow, row, result.value);
        else
          await this.refuse(
            client,
            { ...taken, row: { ...row, refused } },
            next.handOff,
            result.diagnostics.map(({ code }) => code),
          );
        return true;
      });
    } catch (error) {
      // The server refused what the core allowed, a chain of follow-ups that is too long: nothing of it was stored.
      if (!(error instanceof ProblemError) || tried === null) throw error;
      const { code } = error.problem;
      const handOff: string = tried;
      return this.within(id, async (client, taken) => {
        await this.refuse(client, taken, handOff, [code]);
        return true;
      });
    }
  }

  /** Works on a record that is held; false where somebody else has it, or it is gone. */
  private within(id: string, work: (client: Queries, taken: Taken) => Promise<boolean>): Promise<boolean> {
    return inTransaction(this.context.database.pool, async (client) => {
      const row = await takeForClock(client, id);
      const workflow = row && (await this.context.workflows.find(row.workflow, row.version));
      if (!row || !workflow) return false;
      const lookups = new Lookups(this.context, client, workflow, CLOCK);
      return work(client, { row, workflow, lookups, now: lookups.outside.now });
    });
  }

  private refuse(client: Queries, taken: Taken, handOff: string, codes: readonly string[]): Promise<void> {
    const { row } = taken;
    const issues = [...new Set(codes)].slice(0, MAX_ISSUES);
    return this.note(client, taken, {
      record: toRecord(row),
      event: { type: 'clock-refused', stage: row.stage, handOff, issues },
      deliveries: [],
      refused: [...row.refused, handOff],
    });
  }

  private async note(
    client: Queries,
    { row, workflow, lookups, now }: Taken,
    noted: {
      readonly record: ReturnType<typeof toRecord>;
      readonly event: RecordEvent;
      readonly deliveries: Parameters<typeof writeHandOffs>[1][number]['deliveries'];
      readonly refused: readonly string[];
    },
  ): Promise<void> {
    const stage = workflow.stages.get(row.stage)?.stage;
    if (!stage) throw new Error(`no stage ${row.stage}`);
    await writeHandOffs(client, [
      {
        record: noted.record,
        revision: row.revision,
        stage,
        events: [noted.event],
        deliveries: noted.deliveries,
        issues: row.issues,
        told: null,
        member: null,
        at: writeInstant(now),
        clock: clockColumns(workflow, noted.record, lookups.outside, noted.refused),
        idempotencyKey: null,
        fingerprint: '',
        answer: null,
      },
    ]);
  }
}
