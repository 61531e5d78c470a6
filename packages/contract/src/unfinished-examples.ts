import { AT, ID, type OperationNote } from './example-parts.ts';
import type { UNFINISHED_ROUTES } from './unfinished-routes.ts';

const place = `record.${ID}`;
const CONTENT = { entered: { visitor: 'Beryl Quist' }, base: { visitor: null } };

/** What a stranger needs to know of unfinished forms. */
export const UNFINISHED_NOTES: Readonly<Record<keyof typeof UNFINISHED_ROUTES, OperationNote>> = {
  unfinishedForms: {
    does: 'Lists the forms that the member began to fill in and neither handed on nor gave up, the latest first.',
    response: [{ place, title: 'Study visit · V-2026-0001', at: AT }],
  },
  unfinishedForm: {
    does: 'Gives what the member entered in a form so far; revision 0 says that there is nothing. Nobody else can read it.',
    params: { place },
    response: { ...CONTENT, revision: 3, at: AT, names: {} },
  },
  keepUnfinishedForm: {
    does: 'Keeps what the member entered so far, for 90 days after the last change. Of two windows, the later one is told that it is behind.',
    refuses: ['revision/stale', 'unfinished/too-many'],
    params: { place },
    body: CONTENT,
    response: { revision: 4 },
  },
  forgetUnfinishedForm: {
    does: 'Forgets what the member entered in a form: it was handed on, or given up.',
    params: { place },
    response: null,
  },
};
