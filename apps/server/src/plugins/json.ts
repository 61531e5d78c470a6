import type { Json } from '@ypomet/core';
import { isWellFormed } from '@ypomet/core';
import type { FastifyInstance } from 'fastify';
import { ProblemError } from '../problem.ts';

/** What can't be kept shows in a text only as an escape, or as itself. */
const SUSPECT = /\0|\\u(?:0000|[dD][89a-fA-F])/;

/**
 * Refuses texts that can't be kept, anywhere in a query or a JSON body: U+0000, which PostgreSQL has no place for, and halves of
 * characters. Code `request/unfit-text`, with the path. Bodies that are read elsewhere go through {@link requireFitText}.
 */
export function refuseUnfitTexts(app: FastifyInstance): void {
  app.addHook('preValidation', async (request) => {
    const { body } = request;
    requireFit(request.query as Json, 'query', 0);
    if (typeof body === 'string') requireFitText(body);
    else if (body !== null && typeof body === 'object' && !('pipe' in body)) requireFit(body as Json, '', 0);
  });
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
