import { Key } from '@ypomet/core';
import { z } from 'zod';
import { OPERATIONS } from './operations.ts';
import { type Route, route, WorkflowParams } from './route.ts';
import {
  BeginRequest,
  FormDocument,
  FormRequest,
  HandOffResponse,
  Id,
  Instant,
  RecordHeader,
  WorkspaceDocument,
} from './schemas.ts';

const At = z.iso.datetime({ precision: 3 }).nullable();
/** An origin as RFC 6454 writes it: scheme, host and port. */
const Origin = z.string().regex(/^https?:\/\/[a-z0-9]([a-z0-9.-]{0,251}[a-z0-9])?(:[1-9]\d{0,4})?$/);

/** How people without an account may begin records at an intake. */
export const PublicLinkSettings = z.strictObject({
  isOpen: z.boolean(),
  /** From when and until when it is open; null: since ever, for ever. */
  opensAt: At,
  closesAt: At,
  /** The most records that are ever begun by it; null: any number. */
  maxRecords: z.int().min(1).max(1_000_000).nullable(),
  /** The most that are begun within an hour. */
  maxPerHour: z.int().min(1).max(10_000),
  /** Fields whose values are the name and the mail address of whoever submits. */
  nameField: Key.nullable(),
  mailField: Key.nullable(),
  /** A template that is read after the first hand-off instead of the hand-off's own acknowledgement; empty: that one. */
  acknowledgement: z.string().max(20_000),
  /** The sites that may show the form within their pages. */
  frames: z.array(Origin).max(20),
});
export type PublicLinkSettings = z.infer<typeof PublicLinkSettings>;

/** An intake of the published version, with its public link where it has one. */
export const PublicLinkEntry = z.object({
  stage: Key,
  stageName: z.string(),
  link: z
    .object({
      settings: PublicLinkSettings,
      /** The last part of its address: unguessable, and replaced when the address is renewed. */
      address: z.string(),
      /** Records that were begun by it. */
      begun: z.int(),
      state: z.enum(['open', 'not-yet', 'over', 'full', 'off']),
    })
    .nullable(),
  /** The fields that can be its name and its mail address. */
  texts: z.array(z.object({ key: Key, name: z.string() })),
  /** What guests can't do there that the stage asks for, in words. */
  remarks: z.array(z.string()),
});
export type PublicLinkEntry = z.infer<typeof PublicLinkEntry>;

const LinkAddress = z.string().regex(/^[A-Za-z0-9_-]{22}$/);
const address = z.object({ address: LinkAddress });
const linkParams = z.object({ key: Key, stage: Key });

/** What a public link shows whoever opens it. */
export const PublicIntake = z.object({
  workspace: WorkspaceDocument,
  name: z.string(),
  stageName: z.string(),
  state: z.enum(['open', 'not-yet', 'over', 'full', 'off']),
  opensAt: Instant.nullable(),
  closesAt: Instant.nullable(),
  /** Where it is open: a pass to hand in one record and to follow it, its form, and what is known of the record. */
  intake: z.object({ pass: z.string(), guest: Id, form: FormDocument, record: RecordHeader }).nullable(),
});
export type PublicIntake = z.infer<typeof PublicIntake>;

/** `trap`: an input that people don't see. */
const PublicBeginRequest = BeginRequest.omit({ stage: true }).extend({ trap: z.string().max(2000).default('') });

/** What a pass leads to. */
export const FollowedDocument = z.object({
  workspace: WorkspaceDocument,
  guest: z.object({ id: Id, name: z.string() }),
  /** The record that was begun by it; null while none was. */
  record: Id.nullable(),
});
export type FollowedDocument = z.infer<typeof FollowedDocument>;

/** Public links of intakes: set up by analysts, used by people without an account. */
export const PUBLIC_LINK_ROUTES = {
  publicLinks: route({
    ...OPERATIONS.publicLinks,
    summary: 'The intakes of the published version, with their public links',
    access: 'analyst',
    params: WorkflowParams,
    response: z.array(PublicLinkEntry),
  }),
  putPublicLink: route({
    ...OPERATIONS.putPublicLink,
    summary: 'Set up the public link of an intake',
    access: 'analyst',
    params: linkParams,
    body: PublicLinkSettings,
    response: PublicLinkEntry,
  }),
  renewPublicLink: route({
    ...OPERATIONS.renewPublicLink,
    summary: 'Give a public link another address; the old one leads nowhere from then on',
    access: 'analyst',
    params: linkParams,
    response: PublicLinkEntry,
  }),
  publicIntake: route({
    ...OPERATIONS.publicIntake,
    summary: 'What a public link offers, with a pass to use it',
    access: 'public',
    params: address,
    rate: 'visits',
    isMade: true,
    response: PublicIntake,
  }),
  publicForm: route({
    ...OPERATIONS.publicForm,
    summary: 'The form of a public link, with what was entered so far',
    access: 'guest',
    params: address,
    size: 'guestForm',
    rate: 'questions',
    isMade: true,
    body: FormRequest,
    response: FormDocument,
  }),
  beginPublicly: route({
    ...OPERATIONS.beginPublicly,
    summary: 'Begin a record by a public link and hand it on',
    access: 'guest',
    params: address,
    size: 'guestForm',
    rate: 'begins',
    body: PublicBeginRequest,
    response: HandOffResponse,
    status: 201,
    idempotent: true,
  }),
  confirmAddress: route({
    ...OPERATIONS.confirmAddress,
    summary: 'Confirm a mail address that was given by a public link',
    access: 'public',
    rate: 'visits',
    body: z.object({ token: z.string().min(1).max(2000) }),
    response: z.object({ address: z.string(), workspace: z.string() }),
  }),
  followed: route({
    ...OPERATIONS.followed,
    summary: 'What a pass leads to: the record that was begun by it',
    access: 'guest',
    rate: 'visits',
    response: FollowedDocument,
  }),
} as const satisfies Record<string, Route>;
