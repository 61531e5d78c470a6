import { z } from 'zod';

/** One thing wrong, within a problem: the core's diagnostic in words, with where and how to mend it. */
export const ProblemDetail = z.object({
  code: z.string(),
  message: z.string(),
  path: z.string(),
  mend: z.string(),
  /** What the sentence is filled with, for whoever writes another. */
  params: z.record(z.string(), z.unknown()).default({}),
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

/** Codes of the HTTP contract with their status. Codes of the core appear in `details`. Stable, never reused. */
export const PROBLEM_STATUS = {
  'request/malformed': 400,
  'request/invalid': 400,
  'request/too-large': 413,
  'request/too-many': 429,
  'request/bad-address': 400,
  'request/unfit-text': 400,
  'request/wrong-host': 421,
  'request/foreign-origin': 403,
  'request/unsupported-media-type': 415,
  'request/idempotency-mismatch': 422,
  'session/none': 401,
  'session/wrong-credentials': 401,
  'session/forbidden': 403,
  'thing/not-found': 404,
  'revision/missing': 428,
  'revision/stale': 412,
  'workflow/invalid': 422,
  'workflow/warnings': 422,
  'workflow/exists': 409,
  'workflow/not-published': 409,
  'edit/refused': 422,
  'hand-off/refused': 422,
  'register/filter': 422,
  'take-back/too-late': 409,
  'confirmation/over': 410,
  'register/too-much-work': 422,
  'delivery/not-waiting': 409,
  'outlet/other-kind': 409,
  'outlet/in-use': 409,
  'unfinished/too-many': 409,
  'upload/too-many': 429,
  'upload/offset': 409,
  'server/no-room': 507,
  'file/empty': 422,
  'file/other-content': 422,
  'file/turned-name': 422,
  'import/none-named': 422,
  'import/several-named': 422,
  'link/unfit': 422,
  'link/shut': 409,
  'link/used': 409,
  'link/looks-automatic': 422,
  'server/busy': 503,
  'server/outcome-unknown': 503,
  'server/fault': 500,
} as const satisfies Record<string, number>;

export type ProblemCode = keyof typeof PROBLEM_STATUS;
