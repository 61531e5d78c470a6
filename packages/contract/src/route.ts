import { Key } from '@ypomet/core';
import { z } from 'zod';
import { Id } from './schemas.ts';

/** Who may call: anybody, a guest with a pass of a public link, anybody signed in, or only holders of a role. */
export type Access = 'public' | 'guest' | 'member' | 'analyst' | 'administrator';

/** One operation of the HTTP contract. The server validates by it, OpenAPI is made from it, the web calls through it. */
export type Route = {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  readonly path: string;
  readonly summary: string;
  readonly access: Access;
  /** Open to guests too, as to a member without roles. */
  readonly guests?: true;
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

/** The largest bodies, in bytes. `guestForm`: forms of people without an account. */
export const BODY_LIMITS = {
  small: 32_000,
  form: 4_000_000,
  guestForm: 400_000,
  definition: 4_000_000,
  file: 50_000_000,
} as const;

/**
 * The most parts of a JSON body that the request loop takes in: entries of objects and items of lists, counted before anything
 * is made of them. Forms of the largest size, with a table of thousands of rows, stay below.
 */
export const PART_LIMITS = { member: 150_000, guest: 15_000 } as const;

/** Requests a minute. */
export const RATES = {
  questions: 240,
  searches: 600,
  uploads: 60,
  definitions: 120,
  trials: 20,
  visits: 120,
  begins: 20,
} as const;

/** One of the routes, with its own types. */
export const route = <const R extends Route>(definition: R): R => definition;

export const WorkflowParams = z.object({ key: Key });
export const RecordParams = z.object({ id: Id });
/** A page of a list: from after a place, at most so many. */
export const Paged = z.object({
  after: z.string().max(200).optional(),
  limit: z.coerce.number().int().min(1).max(200).default(50),
});
export const Nothing = z.null();
