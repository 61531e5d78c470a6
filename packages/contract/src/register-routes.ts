import { Key } from '@ypomet/core';
import { z } from 'zod';
import { OPERATIONS } from './operations.ts';
import * as s from './register-schemas.ts';
import { Nothing, type Route, route, WorkflowParams } from './route.ts';
import { Id } from './schemas.ts';

/** The records of a workflow, for those who have a right to its register. */
export const REGISTER_ROUTES = {
  ownRegisters: route({
    ...OPERATIONS.ownRegisters,
    summary: 'Registers that the member may see',
    access: 'member',
    response: z.array(s.RegisterSummary),
  }),
  register: route({
    ...OPERATIONS.register,
    summary: 'What a register shows the member, and by what it can be searched',
    access: 'member',
    params: WorkflowParams,
    isMade: true,
    response: s.RegisterDocument,
  }),
  registerRecords: route({
    ...OPERATIONS.registerRecords,
    summary: 'Records of a register, filtered and ordered',
    access: 'member',
    params: WorkflowParams,
    query: s.RegisterQuery,
    rate: 'searches',
    isMade: true,
    response: s.RegisterPage,
  }),
  registerTotals: route({
    ...OPERATIONS.registerTotals,
    summary: 'How many records of a register there are as filtered, by stage, and the sums of their numbers',
    access: 'member',
    params: WorkflowParams,
    query: s.TotalsQuery,
    rate: 'searches',
    response: s.RegisterTotals,
  }),
  exportRegister: route({
    ...OPERATIONS.exportRegister,
    summary: 'The records of a register as filtered, as a file',
    access: 'member',
    params: WorkflowParams,
    query: s.ExportQuery,
    rate: 'trials',
    isMade: true,
    response: z.unknown(),
  }),
  registerViews: route({
    ...OPERATIONS.registerViews,
    summary: 'The member’s views of a register, and those that are shared',
    access: 'member',
    params: WorkflowParams,
    response: z.array(s.RegisterView),
  }),
  addRegisterView: route({
    ...OPERATIONS.addRegisterView,
    summary: 'Keep a view of a register under a name',
    access: 'member',
    params: WorkflowParams,
    body: s.RegisterViewRequest,
    response: s.RegisterView,
    status: 201,
  }),
  putRegisterView: route({
    ...OPERATIONS.putRegisterView,
    summary: 'Change a view of one’s own',
    access: 'member',
    params: z.object({ key: Key, id: Id }),
    body: s.RegisterViewRequest,
    response: s.RegisterView,
  }),
  deleteRegisterView: route({
    ...OPERATIONS.deleteRegisterView,
    summary: 'Delete a view of one’s own',
    access: 'member',
    params: z.object({ key: Key, id: Id }),
    response: Nothing,
    status: 204,
  }),
  watching: route({
    ...OPERATIONS.watching,
    summary: 'Where the records of a workflow wait, for how long, and which ways they took',
    access: 'member',
    params: WorkflowParams,
    query: s.WatchQuery,
    rate: 'searches',
    response: s.Watching,
  }),
} as const satisfies Record<string, Route>;
