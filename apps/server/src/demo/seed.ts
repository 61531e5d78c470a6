import type { OutletRequest, PublicLinkSettings } from '@ypomet/contract';
import { type CompiledWorkflow, type Workflow, writeInstant } from '@ypomet/core';
import type { ServerContext } from '../context.ts';
import { members, workspace } from '../db/schema.ts';
import { hashPassword } from '../modules/members/routes.ts';
import { PublicLinks } from '../modules/public-intake/links.ts';
import { RecordService, type Values } from '../modules/records/service.ts';
import { findDraft } from '../modules/workflows/repository.ts';
import { WorkflowService } from '../modules/workflows/service.ts';
import { ProblemError } from '../problem.ts';
import { makeFurtherWorkflows } from './further-workflows.ts';
import { makePast } from './history.ts';
import { DEMO_INSURER_SECRET, DEMO_MEMBERS, DEMO_PASSWORD } from './members.ts';
import { makeObjectLoan } from './object-loan.ts';
import { writePast } from './write-history.ts';

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
  await followReceiver(context);
  const [settings] = await drizzle.select().from(workspace);
  if (settings?.isSeeded) return;
  const [analyst] = DEMO_MEMBERS;
  const loan = makeObjectLoan();
  for (const outlet of demoOutlets(context)) await context.outlets.put(outlet.key, outlet);
  const { hasHistory } = context.config;
  await seedWorkflows(context, [...makeFurtherWorkflows(), hasHistory ? makeEarlierLoan(loan) : loan], analyst.id);
  if (hasHistory) {
    await seedPast(context, loan, analyst.id);
    await new PublicLinks(context).put(loan.key, 'request', PUBLIC_LINK);
  }
  await seedLoans(new RecordService(context), loan.key);
  await drizzle.update(workspace).set({ isSeeded: true });
}

/** The loans as they were designed at first: more of them were reviewed, and far venues weren't asked for climate control. */
function makeEarlierLoan(loan: Workflow): Workflow {
  const text = JSON.stringify(loan)
    .replaceAll('totalValue > 50000', 'totalValue > 25000')
    .replaceAll('totalValue <= 50000', 'totalValue <= 25000');
  const earlier = JSON.parse(text) as Workflow;
  return { ...earlier, adjustments: earlier.adjustments.filter(({ key }) => key !== 'farAway') };
}

/** Two years of loans, the second of them on a second version. */
async function seedPast(context: ServerContext, loan: Workflow, by: string): Promise<void> {
  const { pool } = context.database;
  const now = context.clock();
  // It is written whole or not at all.
  const { rows } = await pool.query('select 1 from records where workflow = $1 limit 1', [loan.key]);
  if (rows.length > 0) return;
  const draft = await findDraft(pool, loan.key);
  if (draft?.publishedVersion === 1) {
    const workflows = new WorkflowService(context);
    const { revision } = await workflows.replace(loan.key, draft.revision, JSON.stringify(loan), by);
    const notes = 'Conservators review what is worth more than 50,000; far venues must keep the climate.';
    await workflows.publish([{ key: loan.key, revision, accepted: [] }], notes, by);
  }
  const changedAt = now - CHANGED_DAYS * DAY_MS;
  const dates = { first: writeInstant(now - 731 * DAY_MS), changed: writeInstant(changedAt) };
  await pool.query('update versions set published_at = $1 where number = 1 and workflow = any($2)', [
    dates.first,
    [loan.key, 'conditionReport', 'transportBooking'],
  ]);
  await pool.query('update versions set published_at = $1 where workflow = $2 and number = 2', [dates.changed, loan.key]);
  const find = async (key: string, version: number): Promise<CompiledWorkflow> => {
    const found = await context.workflows.find(key, version);
    if (!found) throw new Error(`no version ${version} of ${key}`);
    return found;
  };
  const others = { conditionReport: await find('conditionReport', 1), transportBooking: await find('transportBooking', 1) };
  const loans = [await find(loan.key, 1), await find(loan.key, 2)] as const;
  await writePast(context.database, context.workspace, makePast({ loans, changedAt, others }, now, PAST));
}

/** Borrowers without an account may ask for loans. */
const PUBLIC_LINK: PublicLinkSettings = {
  isOpen: true,
  opensAt: null,
  closesAt: null,
  maxRecords: null,
  maxPerHour: 100,
  nameField: 'borrower',
  mailField: 'borrowerEmail',
  acknowledgement:
    'Thank you, {{borrower}}. Your request {{record.number}} is with the registrars. **Keep the address below**: there you see how it stands, and answer when they ask.',
  frames: [],
};

const DAY_MS = 86_400_000;
/** How long ago the second version was published. */
const CHANGED_DAYS = 300;
const PAST = { seed: 1911, count: 320 };

/** The outlets that the demo's workflows send by, to the stand-ins. */
const demoOutlets = ({ receiver }: ServerContext): readonly (OutletRequest & { readonly key: string })[] => [
  {
    key: 'insurer',
    name: 'Insurer',
    settings: {
      kind: 'web',
      address: receiver?.address ?? 'https://insurer.invalid',
      authentication: 'signature',
      timeoutSeconds: 5,
    },
    secret: DEMO_INSURER_SECRET,
  },
  { key: 'agreements', name: 'Agreements', settings: { kind: 'file', folder: 'Agreements' } },
];

/** The simulated insurer listens on a free port: its outlet follows it there, unless somebody led it elsewhere. */
const followReceiver = async ({ database, receiver }: ServerContext): Promise<void> => {
  if (!receiver) return;
  await database.pool.query(
    `update outlets set settings = jsonb_set(settings, '{address}', to_jsonb($1::text)), changed_at = clock_timestamp()
     where key = 'insurer' and settings ->> 'address' ~ '^http://127\\.0\\.0\\.1:[0-9]+$' and settings ->> 'address' <> $1`,
    [receiver.address],
  );
};

/** How often a start tries again what the server was too busy for, where a request would be refused. */
const TRIES = 6;

async function patiently<T>(work: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries += 1)
    try {
      return await work();
    } catch (error) {
      const isBusy = error instanceof ProblemError && error.problem.code === 'server/busy';
      if (!isBusy || tries === TRIES) throw error;
    }
}

/** Makes workflows that refer to each other and publishes them, unless that was done before. */
async function seedWorkflows(context: ServerContext, definitions: readonly Workflow[], by: string): Promise<void> {
  const workflows = new WorkflowService(context);
  const { pool } = context.database;
  for (const definition of definitions)
    if (!(await findDraft(pool, definition.key))) await patiently(() => workflows.create(JSON.stringify(definition), by));
  const drafts = await Promise.all(definitions.map(({ key }) => findDraft(pool, key)));
  const [first, ...others] = drafts.flatMap((draft) =>
    draft && draft.publishedVersion === null ? [{ key: draft.key, revision: draft.revision, accepted: [] }] : [],
  );
  if (first) await patiently(() => workflows.publish([first, ...others], 'As the demo begins.', by));
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
