import { Key } from '@ypomet/core';
import { z } from 'zod';
import * as s from './dispatch-schemas.ts';
import { OPERATIONS } from './operations.ts';
import { Nothing, Paged, RecordParams, type Route, route, WorkflowParams } from './route.ts';
import { DeliveryStatus } from './schemas.ts';

/** What was sent, where things go, and what the simulated receivers took in. */
export const DISPATCH_ROUTES = {
  deliveries: route({
    ...OPERATIONS.deliveries,
    summary: 'The dispatch log, newest first',
    access: 'analyst',
    query: Paged.extend({
      status: DeliveryStatus.optional(),
      outlet: Key.optional(),
      workflow: Key.optional(),
      /** A record's running number. */
      record: z.string().max(100).optional(),
      /** From the beginning of a day to the end of one, in the workspace's zone. */
      from: z.iso.date().optional(),
      to: z.iso.date().optional(),
    }),
    response: s.DeliveryPage,
  }),
  delivery: route({
    ...OPERATIONS.delivery,
    summary: 'A delivery with its attempts and, for whoever may read it, what was sent',
    access: 'member',
    params: RecordParams,
    response: s.DeliveryDocument,
  }),
  putAwayDelivery: route({
    ...OPERATIONS.putAwayDelivery,
    summary: 'Say that a waiting delivery isn’t sent any more, and why',
    access: 'member',
    params: RecordParams,
    body: s.PutAwayRequest,
    response: s.DeliveryEntry,
  }),
  correctDelivery: route({
    ...OPERATIONS.correctDelivery,
    summary: 'Put a waiting delivery right and try it again',
    access: 'member',
    params: RecordParams,
    body: s.CorrectionRequest,
    response: s.DeliveryEntry,
  }),
  waitingDeliveries: route({
    ...OPERATIONS.waitingDeliveries,
    summary: 'How many deliveries wait for a person',
    access: 'analyst',
    response: s.WaitingCount,
  }),
  retryDeliveries: route({
    ...OPERATIONS.retryDeliveries,
    summary: 'Try several waiting deliveries again, or all of an outlet',
    access: 'analyst',
    body: s.RetryRequest,
    response: s.RetryResponse,
  }),
  outlets: route({
    ...OPERATIONS.outlets,
    summary: 'The places that deliveries go to',
    access: 'analyst',
    response: z.array(s.OutletDocument),
  }),
  putOutlet: route({
    ...OPERATIONS.putOutlet,
    summary: 'Set up an outlet, or change it',
    access: 'administrator',
    params: WorkflowParams,
    body: s.OutletRequest,
    response: s.OutletDocument,
  }),
  deleteOutlet: route({
    ...OPERATIONS.deleteOutlet,
    summary: 'Take an outlet away that nothing uses',
    access: 'administrator',
    params: WorkflowParams,
    response: Nothing,
    status: 204,
  }),
  tryOutlet: route({
    ...OPERATIONS.tryOutlet,
    summary: 'Try whether an outlet can be reached, and what it says',
    access: 'administrator',
    params: WorkflowParams,
    rate: 'trials',
    response: s.OutletTrial,
  }),
  mailMe: route({
    ...OPERATIONS.mailMe,
    summary: 'Send a text to oneself by a mail outlet, to see it as it would arrive',
    access: 'analyst',
    params: WorkflowParams,
    rate: 'trials',
    size: 'form',
    body: s.TrialMailRequest,
    response: s.OutletTrial,
  }),
  receiver: route({
    ...OPERATIONS.receiver,
    summary: 'What the simulated web endpoint took in, newest first',
    access: 'analyst',
    response: s.ReceiverPage,
  }),
  setReceiver: route({
    ...OPERATIONS.setReceiver,
    summary: 'Tell the simulated web endpoint how to answer',
    access: 'analyst',
    body: s.ReceiverRequest,
    response: s.ReceiverPage,
  }),
  registers: route({
    ...OPERATIONS.registers,
    summary: 'The files in the folders of registers, newest first',
    access: 'analyst',
    response: z.array(s.RegisterFile),
  }),
  registerFile: route({
    ...OPERATIONS.registerFile,
    summary: 'One of these files',
    access: 'analyst',
    query: z.object({ path: z.string().min(1).max(1000) }),
    isMade: true,
    response: z.unknown(),
  }),
  retryDelivery: route({
    ...OPERATIONS.retryDelivery,
    summary: 'Try a waiting delivery again',
    access: 'member',
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
