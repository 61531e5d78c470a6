import type { Workflow } from '@ypomet/core';
import type { ServerContext } from '../context.ts';
import { members, workspace } from '../db/schema.ts';
import { hashPassword } from '../modules/members/routes.ts';
import { RecordService, type Values } from '../modules/records/service.ts';
import { findDraft } from '../modules/workflows/repository.ts';
import { WorkflowService } from '../modules/workflows/service.ts';
import { makeFurtherWorkflows } from './further-workflows.ts';
import { DEMO_MEMBERS, DEMO_PASSWORD } from './members.ts';
import { makeObjectLoan } from './object-loan.ts';

const row = (id: string, title: string, material: string, insuredValue: string) => ({
  id,
  values: { title, material, insuredValue },
});

const LOANS: readonly { readonly by: number; readonly values: Values; readonly acceptedWith?: Values }[] = [
  {
    by: 4,
    values: {
      borrower: 'Hollen Street Gallery',
      borrowerEmail: 'beryl@hollenstreet.invalid',
      kind: 'exhibition',
      venue: 'home',
      fromDate: '2027-03-12',
      toDate: '2027-06-11',
      objects: [row('o1', 'Harbour study, 1911', 'paper', '18400.00'), row('o2', 'Tide clock', 'metal', '44000.00')],
    },
  },
  {
    by: 5,
    values: {
      borrower: 'Quayside Study Centre',
      borrowerEmail: 'tomas@quaysidestudy.invalid',
      kind: 'study',
      fromDate: '2027-01-18',
      toDate: '2027-01-22',
      objects: [row('o1', 'Ferry ledger, 1874', 'paper', '1200.00')],
    },
  },
  {
    by: 4,
    values: {
      borrower: 'Hollen Street Gallery',
      borrowerEmail: 'beryl@hollenstreet.invalid',
      kind: 'exhibition',
      venue: 'neighbour',
      fromDate: '2027-02-01',
      toDate: '2027-05-02',
      climateControl: true,
      objects: [row('o1', 'Storm lantern', 'glass', '3900.00'), row('o2', 'Net maker’s bench', 'wood', '56500.00')],
    },
    acceptedWith: { climateControl: true },
  },
  {
    by: 5,
    values: {
      borrower: 'Quayside Study Centre',
      borrowerEmail: 'tomas@quaysidestudy.invalid',
      kind: 'exhibition',
      venue: 'home',
      fromDate: '2027-04-05',
      toDate: '2027-09-30',
      objects: [row('o1', 'Mooring stone', 'stone', '8000.00'), row('o2', 'Anchor, iron', 'metal', '15500.00')],
    },
    acceptedWith: {},
  },
];

/**
 * Fills an empty database with the demo: members, the published workflow, and a few records under way. Cut off, it goes on
 * where it stopped: every step is one that is done once, however often it is asked for.
 */
export async function seedDemo(context: ServerContext): Promise<void> {
  const { drizzle } = context.database;
  const passwordHash = await hashPassword(DEMO_PASSWORD);
  for (const { does: _, roles, ...member } of DEMO_MEMBERS) {
    await drizzle
      .insert(members)
      .values({ ...member, roles: [...roles], passwordHash })
      .onConflictDoNothing();
  }
  const [settings] = await drizzle.select().from(workspace);
  if (settings?.isSeeded) return;
  const [analyst] = DEMO_MEMBERS;
  const loan = makeObjectLoan();
  for (const definition of [loan, ...makeFurtherWorkflows()]) await seedWorkflow(context, definition, analyst.id);
  await seedLoans(new RecordService(context), loan.key);
  await drizzle.update(workspace).set({ isSeeded: true });
}

/** Makes a workflow and publishes it, unless that was done before. */
async function seedWorkflow(context: ServerContext, definition: Workflow, by: string): Promise<void> {
  const workflows = new WorkflowService(context);
  const known = await findDraft(context.database.pool, definition.key);
  const { revision } = known ?? (await workflows.create(JSON.stringify(definition), by));
  if ((known?.publishedVersion ?? null) === null)
    await workflows.publish(definition.key, revision, { accepted: [], notes: 'As the demo begins.' }, by);
}

async function seedLoans(records: RecordService, workflow: string): Promise<void> {
  const registrar = DEMO_MEMBERS[1];
  for (const [index, loan] of LOANS.entries()) {
    const actor = DEMO_MEMBERS[loan.by];
    if (!actor) continue;
    const { record } = await records.begin(workflow, 'request', 'submit', loan.values, {
      actor,
      idempotencyKey: `demo-begin-${index}`,
    });
    if (loan.acceptedWith) {
      await records.handOn(record.id, record.revision, 'accept', loan.acceptedWith, {
        actor: registrar,
        idempotencyKey: `demo-accept-${index}`,
      });
    }
  }
}
