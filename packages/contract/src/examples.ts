import type { Workflow } from '@ypomet/core';
import type { ProblemCode } from './problem.ts';
import type { RouteName } from './routes.ts';

/** What a stranger needs to know of an operation: what it does, why it may refuse, and one of its calls and answers. */
export type OperationNote = {
  readonly does: string;
  /** Problems of its own, beside those that follow from its access, body, revision and rate. */
  readonly refuses?: readonly ProblemCode[];
  readonly params?: Readonly<Record<string, string | number>>;
  readonly query?: Readonly<Record<string, string | number>>;
  readonly body?: unknown;
  readonly response: unknown;
};

const ID = '7f8c2f0e-4a0b-4a55-9f1e-0c2f6f1d2a11';
const MEMBER = '2b1f6c52-0f3e-4d0c-8f3a-5f3a1f0b7c21';
const AT = '2026-11-25T09:30:00.000Z';
const SHA = '9f86d081884c7d659a2feaa0c55ad015a3bf4f1b2b0b822cd15d6c15b0f00a08';

/** The smallest workflow that works: one field, from an intake to an end. */
export const EXAMPLE_WORKFLOW = {
  format: 'ypomet.workflow/1',
  key: 'visit',
  name: 'Study visit',
  sections: [{ key: 'main', name: 'Visit' }],
  fields: [{ key: 'visitor', name: 'Visitor', section: 'main', type: 'text', treatment: 'required' }],
  tracks: [{ key: 'main', name: 'Visit' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [{ key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'done' } }],
} as const satisfies Readonly<Partial<Record<keyof Workflow, unknown>>>;

const SESSION = {
  member: { id: MEMBER, name: 'Beryl Quist', email: 'beryl@hollenstreet.invalid', roles: ['borrower'] },
  workspace: { name: 'Linden Museum', zone: 'Europe/Vienna', locale: 'en' },
};
const HEADER = {
  id: ID,
  number: 'V-2026-0001',
  workflow: 'visit',
  workflowName: 'Study visit',
  version: 1,
  stage: 'done',
  stageName: 'Done',
  stageKind: 'end',
  track: 'main',
  submittedBy: MEMBER,
  assignee: null,
  unassigned: false,
  createdAt: AT,
  arrivedAt: AT,
  revision: 1,
};
const FORM = { definition: EXAMPLE_WORKFLOW, values: {}, askAgainFor: [], withheld: [], brokenSignOffs: [], names: {} };
const DRAFT = { definition: EXAMPLE_WORKFLOW, revision: 1, publishedVersion: null, differs: true };
const VERSION = { number: 1, publishedAt: AT, publishedBy: 'Ines Halvard', recordsOpen: 0, notes: 'The first.' };
const DELIVERY = {
  id: ID,
  recordId: ID,
  recordNumber: 'V-2026-0001',
  workflow: 'visit',
  kind: 'mail',
  name: 'Tell the visitor',
  recipients: ['beryl@hollenstreet.invalid'],
  subject: 'Your visit',
  status: 'sent',
  attempts: 1,
  fault: null,
  createdAt: AT,
  sentAt: AT,
};
const MAIL = {
  id: 'm1',
  from: 'no-reply@ypomet.invalid',
  to: ['beryl@hollenstreet.invalid'],
  subject: 'Your visit',
  receivedAt: AT,
};
const CHOICES = [{ id: MEMBER, name: 'Carla Wendt', note: 'conservator' }];
const FILE = { name: 'report.pdf', mediaType: 'application/pdf', bytes: 48_213, sha256: SHA };
const EDIT = { type: 'set-treatments', cells: [{ field: 'visitor', stage: 'done', treatment: 'read-only' }] };

export const NOTES: Readonly<Record<RouteName, OperationNote>> = {
  health: {
    does: 'Says whether the server can do its work: 200 while it can, 503 with the same body while it can’t.',
    response: { status: 'ok', version: '0.1.0', database: true, queue: true },
  },
  demoMembers: {
    does: 'Lists the people of the demo with their passwords, while the demo is switched on; else nobody.',
    response: [{ name: 'Beryl Quist', email: 'beryl@hollenstreet.invalid', password: 'museum-loans', does: 'Borrower' }],
  },
  workflowSchema: {
    does: 'Gives the JSON Schema (2020-12) by which definition files are written.',
    response: { title: 'Ypomet workflow definition' },
  },
  session: { does: 'Says who is signed in, and where: the workspace’s name, time zone and language.', response: SESSION },
  signIn: {
    does: 'Begins a session. Its cookie comes with the answer and is sent back with every request that follows.',
    refuses: ['session/wrong-credentials', 'request/too-many'],
    body: { email: 'beryl@hollenstreet.invalid', password: 'museum-loans' },
    response: SESSION,
  },
  signOut: { does: 'Ends the session, if there is one.', response: null },
  workflows: {
    does: 'Lists every workflow by name, with what its draft and its newest version are; with `find`, those whose draft says so anywhere.',
    query: { find: 'visit' },
    response: [
      {
        key: 'visit',
        name: 'Study visit',
        description: '',
        draftRevision: 1,
        draftChangedAt: AT,
        draftDiffers: true,
        publishedVersion: null,
        fields: 1,
        recordsOpen: 0,
        tracks: [{ key: 'main', name: 'Visit' }],
        stages: [
          { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], waiting: 0 },
          { key: 'done', name: 'Done', kind: 'end', tracks: ['main'], waiting: 0 },
        ],
        owner: { id: MEMBER, name: 'Ines Halvard' },
        changedBy: 'Ines Halvard',
        here: ['Ines Halvard'],
        archivedAt: null,
      },
    ],
  },
  draftAt: {
    does: 'Gives the draft as it was after a revision, by taking back what came since; at most 5,000 edits.',
    params: { key: 'visit', revision: 1 },
    response: { definition: EXAMPLE_WORKFLOW, revision: 1 },
  },
  watchDraft: {
    does: 'Keeps the connection open and sends an event, as JSON, for each change of the draft and for each other page that comes to it, moves in it or leaves it. Each member may keep 20 open.',
    params: { key: 'visit' },
    query: { tab: ID },
    response: 'data: {"type":"changed","revision":2,"by":"Ines Halvard"}',
  },
  standAt: {
    does: 'Tells the other pages at the draft which part is selected here. Said again every half minute, else it is forgotten.',
    params: { key: 'visit' },
    body: { tab: ID, part: 'stages.ask' },
    response: null,
  },
  changeWorkflow: {
    does: 'Names the analyst who answers for a workflow, or puts it away: records under way go on, and none begins.',
    params: { key: 'visit' },
    body: { owner: MEMBER, isArchived: false },
    response: null,
  },
  createWorkflow: {
    does: 'Makes a workflow of a definition. It is a draft until it is published.',
    refuses: ['workflow/exists'],
    body: EXAMPLE_WORKFLOW,
    response: DRAFT,
  },
  draft: { does: 'Gives the draft and its revision, which changes to it must name.', params: { key: 'visit' }, response: DRAFT },
  editDraft: {
    does: 'Makes edits in order, all or none. Each has an id, so that one whose answer was lost isn’t made twice.',
    refuses: ['edit/refused'],
    params: { key: 'visit' },
    body: { edits: [{ id: ID, edit: EDIT }] },
    response: { revision: 2, differs: true },
  },
  draftEdits: {
    does: 'Tells who changed what in the draft: newest first, or, after the revision of `since`, oldest first.',
    params: { key: 'visit' },
    query: { since: 1, limit: 50 },
    response: {
      entries: [
        {
          id: ID,
          revision: 2,
          by: 'Ines Halvard',
          at: AT,
          sentence: {
            code: 'set-treatments',
            params: { field: 'Visitor', stages: ['Done'], treatment: { term: 'treatment/read-only' } },
          },
          renames: [],
        },
      ],
      next: null,
    },
  },
  replaceDraft: {
    does: 'Makes the draft what a definition of the same key says, as an edit that can be taken back.',
    refuses: ['edit/refused'],
    params: { key: 'visit' },
    body: EXAMPLE_WORKFLOW,
    response: DRAFT,
  },
  exportDraft: {
    does: 'Gives the draft as a definition file. Reading it in again gives the same, byte for byte.',
    params: { key: 'visit' },
    response: EXAMPLE_WORKFLOW,
  },
  versions: { does: 'Lists the published versions, newest first.', params: { key: 'visit' }, response: [VERSION] },
  version: {
    does: 'Gives a published version, which never changes.',
    params: { key: 'visit', number: 1 },
    response: { ...VERSION, definition: EXAMPLE_WORKFLOW },
  },
  publish: {
    does: 'Makes the draft the next version. Faults stand in the way; warnings are accepted, each with a reason.',
    refuses: ['workflow/invalid', 'workflow/warnings'],
    params: { key: 'visit' },
    body: { accepted: [{ code: 'set/rounded', path: 'handOffs.send.sets.amount.value', reason: 'Cents are enough.' }] },
    response: VERSION,
  },
  neighbours: {
    does: 'Gives the newest versions of the workflows that a draft refers to.',
    params: { key: 'visit' },
    response: [EXAMPLE_WORKFLOW],
  },
  members: {
    does: 'Lists the members of the workspace with their roles, for designing and rehearsing.',
    response: [{ id: MEMBER, name: 'Carla Wendt', roles: ['conservator'] }],
  },
  intakes: {
    does: 'Lists the intakes at which the member may begin a record.',
    response: [{ workflow: 'visit', stage: 'ask', name: 'Study visit', description: '' }],
  },
  intake: {
    does: 'Gives the form of an intake as the member sees it, decided with what was entered so far. Nothing is stored.',
    params: { key: 'visit', stage: 'ask' },
    body: { values: { visitor: 'Beryl Quist' } },
    response: {
      workflow: 'visit',
      stage: 'ask',
      version: 1,
      form: FORM,
      record: { ...HEADER, number: null, stage: 'ask', stageName: 'Ask', stageKind: 'intake', revision: 0 },
    },
  },
  begin: {
    does: 'Begins a record and hands it on from its intake, as one: both are done, or neither.',
    refuses: ['hand-off/refused', 'workflow/not-published'],
    params: { key: 'visit' },
    body: { stage: 'ask', handOff: 'send', values: { visitor: 'Beryl Quist' } },
    response: { record: HEADER, acknowledgement: 'Thank you. We will write to you.' },
  },
  desk: {
    does: 'Lists the records that wait for the member or their roles, those that came first at the top.',
    query: { limit: 50 },
    response: { entries: [{ record: { ...HEADER, stageKind: 'work' }, submitter: 'Beryl Quist' }], next: null },
  },
  submitted: {
    does: 'Lists the records that the member submitted, newest first.',
    query: { limit: 50 },
    response: { entries: [{ record: HEADER, submitter: 'Beryl Quist' }], next: null },
  },
  record: {
    does: 'Gives a record as the member may see it: their form of its stage, and what happened so far.',
    params: { id: ID },
    response: {
      record: HEADER,
      mayAct: false,
      form: FORM,
      history: [
        { id: '1', at: AT, type: 'handed-on', by: 'Beryl Quist', handOff: 'Send', from: 'Ask', to: 'Done', unassigned: null },
      ],
      route: {
        tracks: [{ key: 'main', name: 'Visit' }],
        stages: [
          { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
          { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
        ],
        path: ['ask', 'done'],
        next: null,
      },
    },
  },
  recordForm: {
    does: 'Gives a record’s form decided with what was entered so far. Nothing is stored.',
    params: { id: ID },
    body: { values: { visitor: 'Beryl Quist' } },
    response: FORM,
  },
  handOn: {
    does: 'Hands a record on with what was entered. Sent twice with one `Idempotency-Key` it acts once and answers the same.',
    refuses: ['hand-off/refused', 'server/outcome-unknown'],
    params: { id: ID },
    body: { handOff: 'send', values: { visitor: 'Beryl Quist' } },
    response: { record: HEADER, acknowledgement: null },
  },
  recordChoices: {
    does: 'Finds the members or records that a field of a record may name.',
    params: { id: ID },
    query: { field: 'keeper', search: 'carla' },
    response: CHOICES,
  },
  intakeChoices: {
    does: 'Finds the members or records that a field of an intake’s form may name.',
    params: { key: 'visit', stage: 'ask' },
    query: { field: 'keeper', search: 'carla' },
    response: CHOICES,
  },
  uploadFile: {
    does: 'Takes a file’s bytes as the body, under its own media type. A field then names the file by what is answered.',
    query: { name: 'report.pdf' },
    body: 'the bytes of the file',
    response: FILE,
  },
  downloadFile: {
    does: 'Gives the bytes of a file that a field of the record shows the member.',
    params: { id: ID, sha256: SHA },
    response: 'the bytes of the file',
  },
  deliveries: {
    does: 'Lists what was sent and what waits to be sent, newest first.',
    query: { limit: 50 },
    response: { entries: [DELIVERY], next: null },
  },
  retryDelivery: {
    does: 'Queues a delivery again that waits for a person.',
    refuses: ['delivery/not-waiting'],
    params: { id: ID },
    response: { ...DELIVERY, status: 'queued', sentAt: null },
  },
  mailbox: {
    does: 'Lists the mails that the simulated mail server took in, newest first.',
    query: { limit: 50 },
    response: { entries: [MAIL], next: null },
  },
  mail: {
    does: 'Gives one of those mails with its text and headers.',
    params: { id: 'm1' },
    response: { ...MAIL, text: 'Your visit is agreed.', headers: [{ name: 'Subject', value: 'Your visit' }] },
  },
};
