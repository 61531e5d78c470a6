import { Key } from '@ypomet/core';
import { z } from 'zod';
import { OPERATIONS } from './operations.ts';
import { RegisterDocument } from './register-schemas.ts';
import { Nothing, Paged, type Route, route, WorkflowParams } from './route.ts';
import { Id, RecordHeader } from './schemas.ts';

/** How the desk is narrowed and ordered. */
export const DeskQuery = z.object({
  sort: z.enum(['arrived', 'due']).default('arrived'),
  workflow: Key.optional(),
  stage: Key.optional(),
  /** In the number, or the submitter's name; of one workflow also in the texts that it can be searched by. */
  find: z.string().max(100).default(''),
  /** A condition over the records of the one workflow that is named. */
  filter: z.string().max(8000).default(''),
});
/** What waits for a member, by workflow and stage. */
export const DeskSummary = z.object({
  groups: z.array(
    z.object({
      workflow: Key,
      workflowName: z.string(),
      stage: Key,
      stageName: z.string(),
      waiting: z.int(),
      overdue: z.int(),
    }),
  ),
});
export const DeskEntry = z.object({
  record: RecordHeader,
  /** A few words that tell it from others, from what the member may see of it; empty where there are none. */
  about: z.string(),
  submitter: z.string().nullable(),
  /** Whether it has changed since the member opened it last, or never was. */
  isUnread: z.boolean(),
  /** A colleague who opened it a moment ago and may hand it on. */
  openedBy: z.string().nullable(),
});
export const DeskPage = z.object({ entries: z.array(DeskEntry), next: z.string().nullable() });

export type DeskEntry = z.infer<typeof DeskEntry>;

/** How a desk is narrowed and ordered, as it is kept under a name. */
export const DeskSettings = z.strictObject({
  sort: z.enum(['arrived', 'due']),
  workflow: Key.nullable(),
  stage: Key.nullable(),
  find: z.string().max(100),
  filter: z.string().max(8000),
});
export type DeskSettings = z.infer<typeof DeskSettings>;
export const DeskViewRequest = z.strictObject({
  name: z.string().trim().min(1).max(80),
  /** For all who hold one of its owner's roles. */
  isShared: z.boolean(),
  settings: DeskSettings,
});
export const DeskView = z.object({
  id: Id,
  name: z.string(),
  isShared: z.boolean(),
  /** Whether it is the member's own, to change and to delete. */
  isOwn: z.boolean(),
  owner: z.string(),
  settings: DeskSettings,
});
export type DeskView = z.infer<typeof DeskView>;

/** What waits for a member. */
export const DESK_ROUTES = {
  desk: route({
    ...OPERATIONS.desk,
    summary: 'Records waiting for the member',
    access: 'member',
    query: Paged.extend(DeskQuery.shape),
    response: DeskPage,
  }),
  deskSummary: route({
    ...OPERATIONS.deskSummary,
    summary: 'How much waits for the member, by workflow and stage',
    access: 'member',
    response: DeskSummary,
  }),
  submitted: route({
    ...OPERATIONS.submitted,
    summary: 'Records the member submitted',
    access: 'member',
    query: Paged,
    response: DeskPage,
  }),
  deskWorkflow: route({
    ...OPERATIONS.deskWorkflow,
    summary: 'By what the records of a workflow that wait for the member can be searched',
    access: 'member',
    params: WorkflowParams,
    isMade: true,
    response: RegisterDocument,
  }),
  deskViews: route({
    ...OPERATIONS.deskViews,
    summary: 'The member’s views of the desk, and those that are shared',
    access: 'member',
    response: z.array(DeskView),
  }),
  addDeskView: route({
    ...OPERATIONS.addDeskView,
    summary: 'Keep a view of the desk under a name',
    access: 'member',
    body: DeskViewRequest,
    response: DeskView,
    status: 201,
  }),
  putDeskView: route({
    ...OPERATIONS.putDeskView,
    summary: 'Change a view of one’s own',
    access: 'member',
    params: z.object({ id: Id }),
    body: DeskViewRequest,
    response: DeskView,
  }),
  deleteDeskView: route({
    ...OPERATIONS.deleteDeskView,
    summary: 'Delete a view of one’s own',
    access: 'member',
    params: z.object({ id: Id }),
    response: Nothing,
    status: 204,
  }),
} as const satisfies Record<string, Route>;
