import { Key, Workflow } from '@ypomet/core';
import { z } from 'zod';
import { OPERATIONS } from './operations.ts';
import * as s from './schemas.ts';

/** Who may call: anybody, anybody signed in, or only holders of a role. */
export type Access = 'public' | 'member' | 'analyst';

/** One operation of the HTTP contract. The server validates by it, OpenAPI is made from it, the web calls through it. */
export type Route = {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  readonly path: string;
  readonly summary: string;
  readonly access: Access;
  readonly params?: z.ZodType;
  readonly query?: z.ZodType;
  readonly body?: z.ZodType;
  readonly response: z.ZodType;
  readonly status?: 200 | 201 | 204;
  /** Needs `If-Match` with the revision read. */
  readonly ifMatch?: true;
  /** Takes `Idempotency-Key`: sent twice, it acts once. */
  readonly idempotent?: true;
  /** How large a body may be; `small` unless it says otherwise. */
  readonly size?: keyof typeof BODY_LIMITS;
  /** How the body reaches the handler: parsed and checked, as text that is read elsewhere, or as a stream. */
  readonly bodyAs?: 'text' | 'stream';
  /** How often one member, or one address without a session, may ask. */
  readonly rate?: keyof typeof RATES;
  /** Sent as it is made, without a second look at its shape. */
  readonly isMade?: true;
};

/** The largest bodies, in bytes. */
export const BODY_LIMITS = { small: 32_000, form: 4_000_000, definition: 4_000_000, file: 50_000_000 } as const;

/** Requests a minute. */
export const RATES = { questions: 240, uploads: 60, definitions: 120 } as const;

const route = <const R extends Route>(definition: R): R => definition;

const WorkflowParams = z.object({ key: Key });
const RecordParams = z.object({ id: s.Id });
const Paged = z.object({ after: z.string().max(200).optional(), limit: z.coerce.number().int().min(1).max(200).default(50) });
const Nothing = z.null();

export const ROUTES = {
  health: route({
    ...OPERATIONS.health,
    summary: 'Whether the server, its database and its queue are ready',
    access: 'public',
    response: s.Health,
  }),
  demoMembers: route({
    ...OPERATIONS.demoMembers,
    summary: 'Members of the demo, while the demo flag is on',
    access: 'public',
    response: z.array(s.DemoMember),
  }),
  workflowSchema: route({
    ...OPERATIONS.workflowSchema,
    summary: 'JSON Schema of workflow definition files',
    access: 'public',
    response: z.unknown(),
  }),

  session: route({ ...OPERATIONS.session, summary: 'Who is signed in', access: 'member', response: s.Session }),
  signIn: route({
    ...OPERATIONS.signIn,
    summary: 'Sign in',
    access: 'public',
    body: s.Credentials,
    response: s.Session,
  }),
  signOut: route({
    ...OPERATIONS.signOut,
    summary: 'Sign out',
    access: 'public',
    response: Nothing,
    status: 204,
  }),

  workflows: route({
    ...OPERATIONS.workflows,
    summary: 'All workflows',
    access: 'analyst',
    query: z.object({ find: z.string().trim().max(200).optional() }),
    response: z.array(s.WorkflowSummary),
  }),
  createWorkflow: route({
    ...OPERATIONS.createWorkflow,
    summary: 'A new workflow from a definition',
    access: 'analyst',
    size: 'definition',
    bodyAs: 'text',
    rate: 'definitions',
    isMade: true,
    body: Workflow,
    response: s.DraftDocument,
    status: 201,
  }),
  draft: route({
    ...OPERATIONS.draft,
    summary: 'The draft of a workflow',
    access: 'analyst',
    params: WorkflowParams,
    isMade: true,
    response: s.DraftDocument,
  }),
  editDraft: route({
    ...OPERATIONS.editDraft,
    summary: 'Change the draft by edits',
    access: 'analyst',
    params: WorkflowParams,
    size: 'definition',
    bodyAs: 'text',
    body: s.EditsRequest,
    response: s.EditsResponse,
    ifMatch: true,
  }),
  draftEdits: route({
    ...OPERATIONS.draftEdits,
    summary: 'What was changed in the draft, newest first, or since a revision, oldest first',
    access: 'analyst',
    params: WorkflowParams,
    query: Paged.extend({ since: z.coerce.number().int().min(0).optional() }),
    response: s.DraftEditPage,
  }),
  draftAt: route({
    ...OPERATIONS.draftAt,
    summary: 'The draft as it was at an earlier revision',
    access: 'analyst',
    params: z.object({ key: Key, revision: z.coerce.number().int().min(0).max(1_000_000_000) }),
    rate: 'definitions',
    isMade: true,
    response: s.EarlierDraft,
  }),
  watchDraft: route({
    ...OPERATIONS.watchDraft,
    summary: 'Server-sent events: changes of the draft as they come, and who else is at it',
    access: 'analyst',
    params: WorkflowParams,
    query: z.object({ tab: s.Id }),
    rate: 'definitions',
    response: z.unknown(),
  }),
  standAt: route({
    ...OPERATIONS.standAt,
    summary: 'Tell the others at the draft where one is',
    access: 'analyst',
    params: WorkflowParams,
    rate: 'questions',
    body: s.PlaceRequest,
    response: Nothing,
    status: 204,
  }),
  changeWorkflow: route({
    ...OPERATIONS.changeWorkflow,
    summary: 'Name who answers for a workflow; put it away or take it out again',
    access: 'analyst',
    params: WorkflowParams,
    body: s.WorkflowChangeRequest,
    response: Nothing,
    status: 204,
  }),
  replaceDraft: route({
    ...OPERATIONS.replaceDraft,
    summary: 'Replace the draft by a definition',
    access: 'analyst',
    params: WorkflowParams,
    size: 'definition',
    bodyAs: 'text',
    rate: 'definitions',
    isMade: true,
    body: Workflow,
    response: s.DraftDocument,
    ifMatch: true,
  }),
  exportDraft: route({
    ...OPERATIONS.exportDraft,
    summary: 'The draft as a definition file',
    access: 'analyst',
    params: WorkflowParams,
    response: z.unknown(),
  }),
  versions: route({
    ...OPERATIONS.versions,
    summary: 'The published versions, newest first',
    access: 'analyst',
    params: WorkflowParams,
    response: z.array(s.VersionSummary),
  }),
  version: route({
    ...OPERATIONS.version,
    summary: 'A published version',
    access: 'analyst',
    params: z.object({ key: Key, number: z.coerce.number().int().min(1).max(1_000_000) }),
    isMade: true,
    response: s.VersionDocument,
  }),
  publish: route({
    ...OPERATIONS.publish,
    summary: 'Publish the draft as a new version',
    access: 'analyst',
    params: WorkflowParams,
    rate: 'definitions',
    body: s.PublishRequest,
    response: s.VersionSummary,
    status: 201,
    ifMatch: true,
  }),

  neighbours: route({
    ...OPERATIONS.neighbours,
    summary: 'The published definitions of the workflows a draft refers to',
    access: 'analyst',
    params: WorkflowParams,
    isMade: true,
    response: z.array(Workflow),
  }),
  members: route({
    ...OPERATIONS.members,
    summary: 'The members of the workspace and their roles',
    access: 'analyst',
    response: z.array(z.object({ id: s.Id, name: z.string(), roles: z.array(z.string()) })),
  }),

  intakes: route({
    ...OPERATIONS.intakes,
    summary: 'What the member may begin',
    access: 'member',
    response: z.array(s.IntakeSummary),
  }),
  intake: route({
    ...OPERATIONS.intake,
    summary: 'The form of an intake, with what was entered so far',
    access: 'member',
    params: z.object({ key: Key, stage: Key }),
    size: 'form',
    rate: 'questions',
    isMade: true,
    body: s.FormRequest,
    response: s.IntakeDocument,
  }),
  begin: route({
    ...OPERATIONS.begin,
    summary: 'Begin a record and hand it on',
    access: 'member',
    params: WorkflowParams,
    size: 'form',
    body: s.BeginRequest,
    response: s.HandOffResponse,
    status: 201,
    idempotent: true,
  }),

  desk: route({
    ...OPERATIONS.desk,
    summary: 'Records waiting for the member',
    access: 'member',
    query: Paged,
    response: s.DeskPage,
  }),
  submitted: route({
    ...OPERATIONS.submitted,
    summary: 'Records the member submitted',
    access: 'member',
    query: Paged,
    response: s.DeskPage,
  }),
  record: route({
    ...OPERATIONS.record,
    summary: 'A record as the member may see it',
    access: 'member',
    params: RecordParams,
    isMade: true,
    response: s.RecordDocument,
  }),
  recordForm: route({
    ...OPERATIONS.recordForm,
    summary: 'The form of a record, with what was entered so far',
    access: 'member',
    params: RecordParams,
    size: 'form',
    rate: 'questions',
    isMade: true,
    body: s.FormRequest,
    response: s.FormDocument,
  }),
  handOn: route({
    ...OPERATIONS.handOn,
    summary: 'Hand a record on',
    access: 'member',
    params: RecordParams,
    size: 'form',
    body: s.HandOffRequest,
    response: s.HandOffResponse,
    ifMatch: true,
    idempotent: true,
  }),

  recordChoices: route({
    ...OPERATIONS.recordChoices,
    summary: 'Members or records that a field of a record may name',
    access: 'member',
    params: RecordParams,
    query: s.ChoicesQuery,
    rate: 'questions',
    response: z.array(s.ChoiceEntry),
  }),
  intakeChoices: route({
    ...OPERATIONS.intakeChoices,
    summary: 'Members or records that a field of an intake may name',
    access: 'member',
    params: z.object({ key: Key, stage: Key }),
    query: s.ChoicesQuery,
    rate: 'questions',
    response: z.array(s.ChoiceEntry),
  }),
  uploadFile: route({
    ...OPERATIONS.uploadFile,
    summary: 'Hand over a file; a field then names it by what is answered',
    access: 'member',
    query: z.object({ name: s.FileName }),
    size: 'file',
    bodyAs: 'stream',
    rate: 'uploads',
    body: z.unknown(),
    response: s.FileEntry,
    status: 201,
  }),
  downloadFile: route({
    ...OPERATIONS.downloadFile,
    summary: 'A file that a field of a record shows the member',
    access: 'member',
    params: z.object({ id: s.Id, sha256: z.string().regex(/^[0-9a-f]{64}$/) }),
    isMade: true,
    response: z.unknown(),
  }),

  deliveries: route({
    ...OPERATIONS.deliveries,
    summary: 'The dispatch log, newest first',
    access: 'analyst',
    query: Paged,
    response: s.DeliveryPage,
  }),
  retryDelivery: route({
    ...OPERATIONS.retryDelivery,
    summary: 'Try a waiting delivery again',
    access: 'analyst',
    params: RecordParams,
    response: s.DeliveryEntry,
  }),
  mailbox: route({
    ...OPERATIONS.mailbox,
    summary: 'Mails the simulated mail server took in, newest first',
    access: 'analyst',
    query: Paged,
    response: s.MailPage,
  }),
  mail: route({
    ...OPERATIONS.mail,
    summary: 'One such mail',
    access: 'analyst',
    params: z.object({ id: z.string().regex(/^[0-9A-Za-z_-]{1,80}$/) }),
    response: s.MailDocument,
  }),
} as const satisfies Record<string, Route>;

export type RouteName = keyof typeof ROUTES;
type Part<N extends RouteName, K extends string> = (typeof ROUTES)[N] extends { readonly [P in K]: infer S extends z.ZodType }
  ? S
  : never;
export type ParamsOf<N extends RouteName> = z.infer<Part<N, 'params'>>;
export type QueryOf<N extends RouteName> = z.infer<Part<N, 'query'>>;
export type BodyOf<N extends RouteName> = z.infer<Part<N, 'body'>>;
export type BodyInput<N extends RouteName> = z.input<Part<N, 'body'>>;
export type ResponseOf<N extends RouteName> = z.infer<Part<N, 'response'>>;
