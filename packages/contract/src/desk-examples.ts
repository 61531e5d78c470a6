import type { DESK_ROUTES } from './desk-routes.ts';
import { EXAMPLE_WORKFLOW, HEADER, ID, type OperationNote } from './example-parts.ts';

const VIEW_REQUEST = {
  name: 'Visits by Beryl',
  isShared: true,
  settings: { sort: 'due', workflow: 'visit', stage: null, find: '', filter: 'visitor = "Beryl Quist"' },
};
const VIEW = { ...VIEW_REQUEST, id: ID, isOwn: true, owner: 'Beryl Quist' };

/** What a stranger needs to know of the desk. */
export const DESK_NOTES: Readonly<Record<keyof typeof DESK_ROUTES, OperationNote>> = {
  desk: {
    does: 'Lists the records that wait for the member or their roles, those that came first at the top; of one workflow also by a condition over its fields.',
    refuses: ['register/filter', 'register/too-much-work', 'request/too-many'],
    query: { limit: 50 },
    response: {
      entries: [
        {
          record: { ...HEADER, stageKind: 'work' },
          about: 'Hollen Street Gallery · Exhibition',
          submitter: 'Beryl Quist',
          isUnread: true,
          openedBy: 'Carla Wendt',
        },
      ],
      next: null,
    },
  },
  deskSummary: {
    does: 'Counts what waits for the member and for the member’s roles, by workflow and stage, and how much of it is overdue.',
    response: {
      groups: [{ workflow: 'visit', workflowName: 'Study visit', stage: 'ask', stageName: 'Ask', waiting: 4, overdue: 1 }],
    },
  },
  submitted: {
    does: 'Lists the records that the member submitted, newest first.',
    query: { limit: 50 },
    response: {
      entries: [
        {
          record: HEADER,
          about: 'Hollen Street Gallery · Exhibition',
          submitter: 'Beryl Quist',
          isUnread: false,
          openedBy: null,
        },
      ],
      next: null,
    },
  },
  deskWorkflow: {
    does: 'Gives the fields by which the records of a workflow that wait for the member can be found: those that the stages of their roles show of every record.',
    params: { key: 'visit' },
    response: { right: 'shown', version: 1, definition: EXAMPLE_WORKFLOW, searchable: ['visitor'], members: [] },
  },
  deskViews: {
    does: 'Lists the views of the desk that the member keeps, and those that others who hold one of their roles share.',
    response: [VIEW],
  },
  addDeskView: {
    does: 'Keeps what the desk is narrowed to, for the member alone or for all who hold one of their roles.',
    refuses: ['register/filter', 'register/too-much-work', 'request/too-many'],
    body: VIEW_REQUEST,
    response: VIEW,
  },
  putDeskView: {
    does: 'Changes a view of the desk that the member keeps; one of somebody else’s isn’t found.',
    refuses: ['register/filter', 'register/too-much-work', 'request/too-many'],
    params: { id: ID },
    body: VIEW_REQUEST,
    response: VIEW,
  },
  deleteDeskView: {
    does: 'Deletes a view of the desk that the member keeps; one of somebody else’s isn’t found.',
    params: { id: ID },
    response: null,
  },
};
