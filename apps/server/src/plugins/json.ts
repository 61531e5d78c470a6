import { PART_LIMITS } from '@ypomet/contract';
import type { Json } from '@ypomet/core';
import { isWellFormed } from '@ypomet/core';
import type { FastifyInstance } from 'fastify';
import { ProblemError } from '../problem.ts';

/** What can't be kept shows in a text only as an escape, or as itself. */
const SUSPECT = /\0|\\u(?:0000|[dD][89a-fA-F])/;

/**
 * Reads JSON bodies. One of too many parts is refused before it is parsed (code `request/too-large`): what follows is done for
 * each of them. Texts that can't be kept are refused anywhere in a query or a body: U+0000, which PostgreSQL has no place for,
 * and halves of characters (code `request/unfit-text`, with the path). Bodies that are read elsewhere go through
 * {@link requireFitText}.
 */
export function readJsonBodies(app: FastifyInstance): void {
  const parse = app.getDefaultJsonParser('error', 'error');
  app.removeContentTypeParser('application/json');
  app.addContentTypeParser('application/json', { parseAs: 'string' }, (request, text, done) => {
    const atMost = request.guest ? PART_LIMITS.guest : PART_LIMITS.member;
    const { parts, depth } = measureJson(text as string);
    if (depth > MAX_DEPTH) return done(new ProblemError('request/malformed'), undefined);
    if (parts > atMost) return done(new ProblemError('request/too-large'), undefined);
    return parse(request, text as string, (error, json) => {
      try {
        if (!error && parts > MAX_ENTRIES) requireNarrow(json as Json);
        if (!error && SUSPECT.test(text as string)) requireFit(json as Json, '', 0);
        done(error, json);
      } catch (unfit) {
        done(unfit as Error, undefined);
      }
    });
  });
  app.addHook('preValidation', async ({ body, query }) => {
    requireFit(query as Json, 'query', 0);
    if (typeof body === 'string') requireFitText(body);
  });
}

/** The most entries of one object: a form has no more fields, a row no more columns. */
const MAX_ENTRIES = 1000;

/** Refuses a body in which an object has more entries than anything that is taken in: each would be looked for by its name. */
function requireNarrow(json: Json): void {
  if (json === null || typeof json !== 'object') return;
  const items = Array.isArray(json) ? (json as readonly Json[]) : Object.values(json);
  if (!Array.isArray(json) && items.length > MAX_ENTRIES) throw new ProblemError('request/too-large');
  for (const item of items) requireNarrow(item);
}

const QUOTE = 0x22;
const BACKSLASH = 0x5c;

/**
 * How many entries and items a JSON text has at most (commas and colons outside its strings), and how deep it goes. Takes texts
 * that are no JSON, too.
 */
export function measureJson(text: string): { readonly parts: number; readonly depth: number } {
  let parts = 0;
  let depth = 0;
  let open = 0;
  for (let at = 0; at < text.length; at++) {
    switch (text.charCodeAt(at)) {
      case 0x2c: // ,
      case 0x3a: // :
        parts += 1;
        break;
      case 0x5b: // [
      case 0x7b: // {
        open += 1;
        depth = Math.max(depth, open);
        break;
      case 0x5d: // ]
      case 0x7d: // }
        open -= 1;
        break;
      case QUOTE:
        at = text.indexOf('"', at + 1);
        while (at > 0 && isEscaped(text, at)) at = text.indexOf('"', at + 1);
        if (at < 0) return { parts, depth };
        break;
      default:
    }
  }
  return { parts, depth };
}

/** Whether an odd number of backslashes stands before a character. */
function isEscaped(text: string, at: number): boolean {
  let before = at - 1;
  while (before >= 0 && text.charCodeAt(before) === BACKSLASH) before -= 1;
  return (at - 1 - before) % 2 === 1;
}

/** As above, for JSON text: it is read only when something in it could be unfit. */
export function requireFitText(text: string): void {
  if (!SUSPECT.test(text)) return;
  let json: Json;
  try {
    json = JSON.parse(text) as Json;
  } catch (error) {
    if (error instanceof SyntaxError) return;
    throw error;
  }
  requireFit(json, '', 0);
}

/** Nothing that is taken in lies deeper. */
const MAX_DEPTH = 100;

function requireFit(json: Json, path: string, depth: number): void {
  if (depth > MAX_DEPTH) throw new ProblemError('request/malformed');
  if (typeof json === 'string') {
    if (!isWellFormed(json)) throw new ProblemError('request/unfit-text', { path });
  } else if (Array.isArray(json)) {
    json.forEach((item: Json, index) => requireFit(item, join(path, String(index)), depth + 1));
  } else if (json !== null && typeof json === 'object') {
    for (const [key, value] of Object.entries(json as Record<string, Json>)) {
      if (!isWellFormed(key)) throw new ProblemError('request/unfit-text', { path });
      requireFit(value, join(path, key), depth + 1);
    }
  }
}

const join = (path: string, part: string): string => (path === '' ? part : `${path}.${part}`);
