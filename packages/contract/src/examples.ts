import { DESK_NOTES } from './desk-examples.ts';
import { AT, EXAMPLE_WORKFLOW, FORM, HEADER, ID, MEMBER, type OperationNote, SHA, WORKSPACE } from './example-parts.ts';
import { PUBLIC_LINK_NOTES } from './public-link-examples.ts';
import { REGISTER_NOTES } from './register-examples.ts';
import type { RouteName } from './routes.ts';
import { UNFINISHED_NOTES } from './unfinished-examples.ts';

const SESSION = {
  member: { id: MEMBER, name: 'Beryl Quist', email: 'beryl@hollenstreet.invalid', roles: ['borrower'] },
  workspace: WORKSPACE,
};
const DRAFT = { definition: EXAMPLE_WORKFLOW, revision: 1, publishedVersion: null, differs: true };
const VERSION = { number: 1, publishedAt: AT, publishedBy: 'Ines Halvard', recordsOpen: 0, notes: 'The first.' };
const DELIVERY = {
  id: ID,
  recordId: ID,
  recordNumber: 'V-2026-0001',
  workflow: 'visit',
  kind: 'mail',
  outlet: 'mail',
  name: 'Tell the visitor',
  recipients: ['beryl@hollenstreet.invalid'],
  subject: 'Your visit',
  status: 'sent',
  attempts: 1,
  fault: null,
  createdAt: AT,
  nextAt: null,
  sentAt: AT,
};
const ATTEMPT = { at: AT, durationMs: 41, isSent: true, fault: null, answer: '250 accepted', issues: [] };
const SENT = {
  kind: 'mail',
  to: ['beryl@hollenstreet.invalid'],
  cc: [],
  bcc: [],
  replyTo: [],
  subject: 'Your visit',
  text: [{ kind: 'paragraph', runs: [{ text: 'Your visit is agreed.' }] }],
  attachments: [],
};
const OUTLET = {
  key: 'insurer',
  name: 'Insurer',
  settings: { kind: 'web', address: 'https://insurer.example/api', authentication: 'signature', timeoutSeconds: 20 },
  hasSecret: true,
  waiting: 0,
  queued: 0,
  usedBy: ['Object loan'],
};
const TRIAL = { isWorking: true, answer: '200 OK', durationMs: 35 };
const RECEIVER = {
  mode: 'answers',
  address: 'http://127.0.0.1:4190',
  entries: [
    {
      id: 'r1',
      at: AT,
      method: 'POST',
      path: '/quotes',
      headers: [{ name: 'content-type', value: 'application/json' }],
      body: '{"value":62400.00}',
      delivery: ID,
      isRepeat: false,
      status: 200,
      answer: '{"premium":112.32}',
    },
  ],
};
const REGISTER_FILE = { path: 'Agreements/Hollen-Street-Gallery-2027-03-12.pdf', bytes: 18_412, changedAt: AT };
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
    does: 'Says whether the server can do its work: 200 while it can, 503 with the same body while it can’t. `standing` says that some of what is queued doesn’t move, `full` that the disk has no room.',
    response: { status: 'ok', version: '0.1.0', database: true, queue: true, clock: true, room: true },
  },
  metrics: {
    does: 'Gives durations of requests by route, the delay of the event loop, connections, and deliveries that are queued or wait, in the text format of Prometheus. Send `Authorization: Bearer` with the token that the server was started with (`YPOMET_METRICS_TOKEN`); without such a token there are no metrics.',
    refuses: ['session/none', 'thing/not-found'],
    response: '# TYPE ypomet_queue_ready gauge\nypomet_queue_ready 1\n',
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
        opens: [],
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
  publication: {
    does: 'Names the drafts that have to be published with this one, since it refers to them and they never were, with what is wrong with each.',
    params: { key: 'visit' },
    query: { along: 'tour' },
    response: {
      workflows: [{ key: 'visit', name: 'Visit', revision: 1, number: 1, faults: [], warnings: [] }],
      others: [{ key: 'tour', name: 'Tour', revision: 4, number: 2 }],
    },
  },
  neighbours: {
    does: 'Gives the newest versions of the workflows that a draft refers to, and the drafts of those that were never published.',
    params: { key: 'visit' },
    response: { workflows: [EXAMPLE_WORKFLOW], drafts: [], openings: [{ key: 'visit', name: 'Visit', opens: [] }] },
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
    response: {
      record: HEADER,
      acknowledgement: [{ kind: 'paragraph', runs: [{ text: 'Thank you. We will write to you.' }] }],
      next: null,
      opened: [],
      opening: 0,
    },
  },
  importRows: {
    does: 'Begins a record for each row, at most a hundred at once, each by itself: rows that are refused hold up no others. A row that was begun in the same run before begins nothing again. A trial begins nothing at all. With `mails: digest`, the same receivers get one mail instead of several; with `mails: none`, mails are put away instead of sent. Both hold for records that these records open, too.',
    refuses: ['workflow/not-published', 'server/outcome-unknown'],
    params: { key: 'visit', stage: 'ask' },
    body: { handOff: 'send', run: ID, isTrial: false, rows: [{ line: 2, values: { visitor: 'Beryl Quist' } }] },
    response: {
      rows: [{ line: 2, isBegun: true, number: 'V-2026-0001', stageName: 'Done', wouldSend: 0, wouldOpen: 0, issues: [] }],
    },
  },
  offeredHandOffs: {
    does: 'Gives for each of some records the hand-offs that the member may press on it; records that the member can’t see are left out.',
    body: { records: [ID] },
    response: [{ id: ID, number: 'V-2026-0001', revision: 2, handOffs: [{ key: 'send', name: 'Send' }] }],
  },
  handOnMany: {
    does: 'Hands records on as they are, or with the same values entered for each, at most a hundred at once, each by itself: those that are refused hold up no others. A record that was handed on in the same run before isn’t handed on again. A trial hands nothing on.',
    refuses: ['server/outcome-unknown'],
    body: { handOff: 'send', run: ID, isTrial: true, records: [{ id: ID, revision: 2 }] },
    response: { rows: [{ id: ID, isHandedOn: true, stageName: 'Done', revision: null, wouldSend: 1, wouldOpen: 0, issues: [] }] },
  },
  takeBackMany: {
    does: 'Takes hand-offs back that the member made for many at once: each record is again as it was, and what would have been sent isn’t. What they send is held back for a minute for that; a hand-off that sends nothing can be taken back for ten. One that opened other records can’t be.',
    body: { records: [{ id: ID, revision: 3 }] },
    response: { rows: [{ id: ID, isTakenBack: true, issues: [] }] },
  },
  possess: {
    does: 'Takes a record that a role has, or a colleague; gives it back to its role; or hands it over to a member who may act at its stage. It stays where it is.',
    refuses: ['revision/stale', 'hand-off/refused'],
    params: { id: ID },
    body: { kind: 'take' },
    response: HEADER,
  },
  colleagues: {
    does: 'Lists the members who may act at the record’s stage, but for the one who asks, by name; at most 50.',
    params: { id: ID },
    response: [{ id: MEMBER, name: 'Beryl Quist', note: '' }],
  },
  record: {
    does: 'Gives a record as the member may see it: their form of its stage, and what happened so far.',
    params: { id: ID },
    response: {
      record: HEADER,
      mayAct: false,
      possession: { mayTake: false, mayGiveBack: false, mayHandOver: false },
      form: FORM,
      sent: [{ id: ID, kind: 'mail', what: 'Tell the visitor', to: ['beryl@hollenstreet.invalid'], status: 'sent', at: AT }],
      history: [
        {
          id: '1',
          at: AT,
          type: 'handed-on',
          by: 'Beryl Quist',
          handOff: 'Send',
          from: 'Ask',
          to: 'Done',
          unassigned: null,
          told: null,
        },
      ],
      issues: [],
      openedBy: null,
      opened: [],
      opening: 0,
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
  watchRecords: {
    does: 'Keeps the answer open and writes a server-sent event whenever something changed; never what, which each asks for.',
    query: { record: ID },
    response: 'data: {"type":"changed"}',
  },
  shownRecord: {
    does: 'Gives every value of a record that one of the stages at which the member acts would show them, or that they see as its submitter.',
    params: { id: ID },
    response: FORM,
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
    response: { record: HEADER, acknowledgement: null, next: null, opened: [], opening: 0 },
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
    refuses: ['file/turned-name'],
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
  delivery: {
    does: 'Gives a delivery with each attempt at it. What was sent is there for members who may read all that it was made from.',
    params: { id: ID },
    response: { ...DELIVERY, content: SENT, tried: [ATTEMPT] },
  },
  retryDeliveries: {
    does: 'Queues deliveries again that wait for a person: those named, or all that wait at an outlet.',
    body: { outlet: 'insurer' },
    response: { queued: 3 },
  },
  outlets: { does: 'Lists the outlets of the workspace. Secrets are never answered.', response: [OUTLET] },
  putCalendar: {
    does: 'Changes the hours and holidays in which working days and hours count. Due dates that stand stay as they are until a value they read changes.',
    body: SESSION.workspace.calendar,
    response: SESSION.workspace,
  },
  putNextPages: {
    does: 'Changes the pages that what is read after a hand-off may lead to, each with what lies below it.',
    body: { addresses: SESSION.workspace.nextPages },
    response: SESSION.workspace,
  },
  putOutlet: {
    does: 'Sets up an outlet under a key that designs name, or changes it. Its kind stays.',
    refuses: ['outlet/other-kind'],
    params: { key: 'insurer' },
    body: { name: 'Insurer', settings: OUTLET.settings, secret: 'a long secret' },
    response: OUTLET,
  },
  deleteOutlet: {
    does: 'Takes an outlet away. One that a published version names, or that deliveries wait at, stays.',
    refuses: ['outlet/in-use'],
    params: { key: 'insurer' },
    response: null,
  },
  tryOutlet: {
    does: 'Greets the mail server, asks the web endpoint, or writes and deletes a file, and says what came of it.',
    params: { key: 'insurer' },
    response: TRIAL,
  },
  mailMe: {
    does: 'Sends a text, filled in by the caller, to the caller’s own address by a mail outlet.',
    params: { key: 'mail' },
    body: { subject: SENT.subject, body: SENT.text },
    response: { ...TRIAL, answer: '250 accepted' },
  },
  receiver: { does: 'Gives the last hundred requests that the simulated web endpoint took in.', response: RECEIVER },
  setReceiver: {
    does: 'Lets the simulated web endpoint answer, answer slowly, hang, break off, answer an error or no JSON, or answer twice.',
    body: { mode: 'hangs' },
    response: { ...RECEIVER, mode: 'hangs' },
  },
  registers: { does: 'Lists the files that file outlets wrote.', response: [REGISTER_FILE] },
  registerFile: {
    does: 'Gives the bytes of one of these files.',
    query: { path: REGISTER_FILE.path },
    response: 'the bytes of the file',
  },
  retryDelivery: {
    does: 'Queues a delivery again that waits for a person.',
    refuses: ['delivery/not-waiting'],
    params: { id: ID },
    response: { ...DELIVERY, status: 'queued', sentAt: null },
  },
  putAwayDelivery: {
    does: 'Says of a delivery that waits that it isn’t sent any more. The history of its record tells it; nothing awaits its answer any longer.',
    refuses: ['delivery/not-waiting'],
    params: { id: ID },
    body: { reason: 'The visitor was told by telephone.' },
    response: {
      ...DELIVERY,
      status: 'put-away',
      sentAt: null,
      fault: { code: 'put-away', params: { by: 'Ines Halvard', reason: 'The visitor was told by telephone.' } },
    },
  },
  correctDelivery: {
    does: 'Puts the receiver of a mail, the name of a file or the outlet right, of a delivery that waits, and tries it again. Only those who may read all that it holds can send it elsewhere.',
    refuses: ['delivery/not-waiting', 'session/forbidden'],
    params: { id: ID },
    body: { to: ['beryl@hollenstreet.invalid'] },
    response: { ...DELIVERY, status: 'queued', sentAt: null },
  },
  waitingDeliveries: { does: 'Counts the deliveries that wait for a person.', response: { waiting: 0, standing: [] } },
  mailbox: {
    does: 'Lists the mails that the simulated mail server took in, newest first.',
    query: { limit: 50 },
    response: { entries: [MAIL], next: null },
  },
  mail: {
    does: 'Gives one of those mails with its text and headers.',
    params: { id: 'm1' },
    response: {
      ...MAIL,
      text: 'Your visit is agreed.',
      html: null,
      attachments: [],
      headers: [{ name: 'Subject', value: 'Your visit' }],
    },
  },
  ...UNFINISHED_NOTES,
  ...DESK_NOTES,
  ...PUBLIC_LINK_NOTES,
  ...REGISTER_NOTES,
};
