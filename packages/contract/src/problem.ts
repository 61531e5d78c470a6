import { z } from 'zod';

/** One thing wrong, within a problem: the core's diagnostic in words, with where and how to mend it. */
export const ProblemDetail = z.object({
  code: z.string(),
  message: z.string(),
  path: z.string(),
  mend: z.string(),
  /** For issues of a form. */
  field: z.string().nullable().default(null),
  row: z.string().nullable().default(null),
  subField: z.string().nullable().default(null),
});
export type ProblemDetail = z.infer<typeof ProblemDetail>;

/** RFC 9457 problem details, with this product's `code` and `details`. Media type `application/problem+json`. */
export const Problem = z.object({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  code: z.string(),
  detail: z.string(),
  path: z.string(),
  details: z.array(ProblemDetail),
});
export type Problem = z.infer<typeof Problem>;

export type ProblemEntry = { readonly status: number; readonly title: string; readonly mend: string };

/** Codes of the HTTP contract. Codes of the core appear in `details`. Stable, never reused. */
export const PROBLEMS = {
  'request/malformed': {
    status: 400,
    title: 'The request can’t be read.',
    mend: 'Send well-formed JSON with the right media type.',
  },
  'request/invalid': {
    status: 400,
    title: 'The request doesn’t have the shape it should.',
    mend: 'Compare it with /api/openapi.json.',
  },
  'request/too-large': { status: 413, title: 'The request is too large.', mend: 'Send less at once.' },
  'request/too-many': {
    status: 429,
    title: 'Too many requests in a short time.',
    mend: 'Wait as long as Retry-After says, then try again.',
  },
  'request/bad-address': { status: 400, title: 'The address can’t be read.', mend: 'Correct its percent signs and characters.' },
  'request/unfit-text': {
    status: 400,
    title: 'A text holds a character that can’t be kept.',
    mend: 'Remove U+0000 and halves of characters.',
  },
  'request/foreign-origin': {
    status: 403,
    title: 'The request comes from another site.',
    mend: 'Use the application’s own address.',
  },
  'request/unsupported-media-type': { status: 415, title: 'The media type isn’t taken.', mend: 'Send application/json.' },
  'request/idempotency-mismatch': {
    status: 422,
    title: 'This idempotency key was used for another request.',
    mend: 'Use a new key for a new request.',
  },
  'session/none': { status: 401, title: 'You are not signed in.', mend: 'Sign in.' },
  'session/wrong-credentials': {
    status: 401,
    title: 'The e-mail address or the password is wrong.',
    mend: 'Check both and try again.',
  },
  'session/forbidden': { status: 403, title: 'Your roles don’t allow this.', mend: 'Ask an administrator for the role.' },
  'thing/not-found': { status: 404, title: 'There is nothing here that you may see.', mend: 'Check the address.' },
  'revision/missing': {
    status: 428,
    title: 'The revision you are changing isn’t named.',
    mend: 'Send If-Match with the revision you read.',
  },
  'revision/stale': { status: 412, title: 'It has changed since you read it.', mend: 'Load it again, then repeat your change.' },
  'workflow/invalid': { status: 422, title: 'The definition has faults.', mend: 'Mend what is listed.' },
  'workflow/warnings': {
    status: 422,
    title: 'The definition has warnings that nobody accepted.',
    mend: 'Mend what is listed, or accept each with a reason.',
  },
  'workflow/exists': {
    status: 409,
    title: 'A workflow with this key exists.',
    mend: 'Give it another key, or replace the draft of the existing one.',
  },
  'workflow/not-published': { status: 409, title: 'The workflow has no published version.', mend: 'Publish it first.' },
  'edit/refused': { status: 422, title: 'The change can’t be made.', mend: 'Mend what is listed.' },
  'hand-off/refused': { status: 422, title: 'The record can’t be handed on yet.', mend: 'Mend what is listed.' },
  'delivery/not-waiting': { status: 409, title: 'The delivery isn’t waiting for a person.', mend: 'Load the list again.' },
  'server/busy': {
    status: 503,
    title: 'The server can’t do this now.',
    mend: 'Nothing was changed. Try again as Retry-After says.',
  },
  'server/outcome-unknown': {
    status: 503,
    title: 'It isn’t known whether this was done: the database was lost on the way.',
    mend: 'Ask again with the same idempotency key: it is done once, whatever happened.',
  },
  'server/fault': {
    status: 500,
    title: 'Something went wrong on the server.',
    mend: 'Look whether it was done; if not, try again. If it stays, tell an administrator the time.',
  },
} as const satisfies Record<string, ProblemEntry>;

export type ProblemCode = keyof typeof PROBLEMS;
