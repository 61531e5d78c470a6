import { z } from 'zod';
import { OPERATIONS } from './operations.ts';
import { Nothing, type Route, route } from './route.ts';
import { FormRequest, Instant } from './schemas.ts';

/** Which form: `record.<id>`, or `intake.<workflow>.<stage>`. */
export const FormPlace = z
  .string()
  .max(200)
  .regex(/^(record\.[0-9a-f-]{36}|intake\.[a-z][A-Za-z0-9_]*\.[a-z][A-Za-z0-9_]*)$/);

const Values = FormRequest.shape.values;
/** What was entered, by field, and what the record had there when that began: by it one sees what others changed meanwhile. */
export const UnfinishedContent = z.strictObject({ entered: Values, base: Values });
export type UnfinishedContent = z.infer<typeof UnfinishedContent>;
/** Revision 0, with nothing in it: there is none. */
export const UnfinishedForm = UnfinishedContent.extend({
  revision: z.int(),
  at: Instant.nullable(),
  /** Names of the members and numbers of the records that were entered, as far as the member may see them, by id. */
  names: z.record(z.string(), z.string()),
});
export type UnfinishedForm = z.infer<typeof UnfinishedForm>;
export const UnfinishedSummary = z.object({ place: FormPlace, title: z.string(), at: Instant });
export type UnfinishedSummary = z.infer<typeof UnfinishedSummary>;

/** How many unfinished forms a member may have, and how many bytes they may come to. */
export const UNFINISHED_LIMITS = { count: 100, bytes: 20_000_000 } as const;

const params = z.object({ place: FormPlace });

/** Forms that somebody began to fill in and hasn't handed on. */
export const UNFINISHED_ROUTES = {
  unfinishedForms: route({
    ...OPERATIONS.unfinishedForms,
    summary: 'Forms the member began and hasn’t handed on',
    access: 'member',
    response: z.array(UnfinishedSummary),
  }),
  unfinishedForm: route({
    ...OPERATIONS.unfinishedForm,
    summary: 'What the member entered in a form and hasn’t handed on',
    access: 'member',
    params,
    isMade: true,
    response: UnfinishedForm,
  }),
  keepUnfinishedForm: route({
    ...OPERATIONS.keepUnfinishedForm,
    summary: 'Keep what the member entered in a form so far',
    access: 'member',
    params,
    size: 'form',
    rate: 'questions',
    body: UnfinishedContent,
    response: z.object({ revision: z.int() }),
    ifMatch: true,
  }),
  forgetUnfinishedForm: route({
    ...OPERATIONS.forgetUnfinishedForm,
    summary: 'Forget what the member entered in a form',
    access: 'member',
    params,
    response: Nothing,
    status: 204,
  }),
} as const satisfies Record<string, Route>;
