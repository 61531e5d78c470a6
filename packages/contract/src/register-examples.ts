import { AT, EXAMPLE_WORKFLOW, HEADER, ID, type OperationNote } from './example-parts.ts';
import type { REGISTER_ROUTES } from './register-routes.ts';

const VIEW_REQUEST = {
  name: 'Visits by name',
  isShared: true,
  settings: {
    columns: ['record.number', 'visitor'],
    sort: 'visitor',
    direction: 'up',
    filter: '',
    find: '',
    layout: 'list',
  },
};
const VIEW = { ...VIEW_REQUEST, id: ID, isOwn: true, owner: 'Beryl Quist' };

/** What a stranger needs to know of registers. */
export const REGISTER_NOTES: Readonly<Record<keyof typeof REGISTER_ROUTES, OperationNote>> = {
  ownRegisters: {
    does: 'Lists the workflows whose register the member may see by one of their roles.',
    response: [{ workflow: 'visit', name: 'Study visit', description: '', right: 'all' }],
  },
  register: {
    does: 'Gives the fields that a register can show the member, and those by which it can be filtered, ordered and totalled.',
    params: { key: 'visit' },
    response: { right: 'all', version: 1, definition: EXAMPLE_WORKFLOW, searchable: ['visitor'], members: [] },
  },
  registerRecords: {
    does: 'Lists records of all versions with the values that the register shows the member, page by page.',
    refuses: ['register/filter', 'register/too-much-work', 'request/too-many'],
    params: { key: 'visit' },
    query: { filter: 'visitor = "Beryl Quist"', sort: 'visitor', direction: 'up', limit: 50 },
    response: {
      entries: [{ record: HEADER, submitter: 'Beryl Quist', values: { visitor: 'Beryl Quist' } }],
      names: {},
      next: null,
    },
  },
  registerTotals: {
    does: 'Counts the records of a register as filtered, by stage too, and sums up their searchable numbers.',
    refuses: ['register/filter', 'register/too-much-work', 'request/too-many'],
    params: { key: 'visit' },
    query: { find: 'Quist' },
    response: { count: 1, stages: [{ stage: 'done', name: 'Done', count: 1 }], sums: [] },
  },
  exportRegister: {
    does: 'Sends the records as filtered and ordered as CSV, as a workbook or as JSON, at most a hundred thousand.',
    refuses: ['register/filter', 'register/too-much-work', 'request/too-many'],
    params: { key: 'visit' },
    query: { format: 'json', columns: 'record.number,visitor' },
    response: [{ 'record.number': 'V-2026-0001', visitor: 'Beryl Quist' }],
  },
  registerViews: {
    does: 'Lists the views of a register that the member keeps, and those that others share.',
    params: { key: 'visit' },
    response: [VIEW],
  },
  addRegisterView: {
    does: 'Keeps what a register is narrowed to and how it is laid out, for the member alone or for all who see it.',
    params: { key: 'visit' },
    body: VIEW_REQUEST,
    response: VIEW,
  },
  putRegisterView: {
    does: 'Changes a view that the member keeps; one of somebody else’s isn’t found.',
    params: { key: 'visit', id: ID },
    body: VIEW_REQUEST,
    response: VIEW,
  },
  deleteRegisterView: {
    does: 'Deletes a view that the member keeps; one of somebody else’s isn’t found.',
    params: { key: 'visit', id: ID },
    response: null,
  },
  watching: {
    does: 'Tells where records wait, with whom and how long, how many began and ended by week, and which ways they took.',
    params: { key: 'visit' },
    query: { weeks: 26 },
    response: {
      stages: [{ stage: 'ask', name: 'Ask', waiting: 2, overdue: 1, medianDays: 3.5, longestDays: 6 }],
      holders: [{ name: 'Registrar', isRole: true, waiting: 2, overdue: 1 }],
      weeks: [{ from: '2026-11-23', begun: 3, ended: 1 }],
      ways: [{ from: 'ask', to: 'done', times: 1, isDesigned: true }],
      since: AT,
    },
  },
};
