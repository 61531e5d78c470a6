import { ProblemError } from './problem.ts';

/** Where a page of a list ended: an instant and an id. */
export type Cursor = { readonly at: string; readonly id: string };

export const encodeCursor = ({ at, id }: Cursor): string => Buffer.from(`${at} ${id}`).toString('base64url');

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;
const INSTANT = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}(\.\d{1,6})?Z$/;

/** Whether there is such an instant: the 30th of February is none, although it can be parsed. */
export const isInstant = (text: string): boolean => {
  const ms = INSTANT.test(text) ? Date.parse(text) : Number.NaN;
  return !Number.isNaN(ms) && new Date(ms).toISOString().slice(0, 19) === text.slice(0, 19);
};

/** Reads a cursor; none begins at the start. Code `request/invalid` for what isn't one: a page must not repeat unnoticed. */
export function decodeCursor(text: string | undefined): Cursor | null {
  if (text === undefined) return null;
  const [at = '', id = ''] = Buffer.from(text, 'base64url').toString('utf8').split(' ');
  if (!UUID.test(id) || !isInstant(at)) throw new ProblemError('request/invalid', { path: 'query.after' });
  return { at, id };
}
