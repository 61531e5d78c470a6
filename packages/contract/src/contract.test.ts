import { describe, expect, test } from '@jest/globals';
import { z } from 'zod';
import { OPERATIONS } from './operations.ts';
import { PROBLEMS, Problem } from './problem.ts';
import { ROUTES, type Route, type RouteName } from './routes.ts';

const routes = Object.entries(ROUTES) as readonly (readonly [RouteName, Route])[];

describe('the operations', () => {
  test('every one has a route of the same method and path, and the other way round', () => {
    expect(Object.keys(OPERATIONS).sort()).toEqual(Object.keys(ROUTES).sort());
    for (const [name, { method, path }] of routes) expect(OPERATIONS[name]).toEqual({ method, path });
  });

  test('no two answer at one address', () => {
    const addresses = routes.map(([, { method, path }]) => `${method} ${path.replace(/:\w+/g, ':')}`);
    expect(new Set(addresses).size).toBe(addresses.length);
  });

  test.each(routes)(
    '%s names exactly the parameters of its path, and says what it is for',
    (_, { path, params, summary, method, body }) => {
      const named = [...path.matchAll(/:(\w+)/g)].map((match) => match[1]).sort();
      const known = params ? Object.keys((params as z.ZodObject).shape).sort() : [];
      expect(known).toEqual(named);
      expect(summary.length).toBeGreaterThan(4);
      if (method === 'GET') expect(body).toBeUndefined();
    },
  );

  test.each(routes)('%s can be written as JSON Schema, as OpenAPI 3.1 needs it', (_, { params, query, body, response }) => {
    for (const schema of [params, query, body, response]) {
      if (schema) expect(typeof z.toJSONSchema(schema, { unrepresentable: 'any' })).toBe('object');
    }
  });

  test('what changes a thing that others may be changing asks for its revision', () => {
    const guarded = routes.filter(([, route]) => route.ifMatch).map(([name]) => name);
    expect(guarded.sort()).toEqual(['editDraft', 'handOn', 'publish', 'replaceDraft']);
    const repeatable = routes.filter(([, route]) => route.idempotent).map(([name]) => name);
    expect(repeatable.sort()).toEqual(['begin', 'handOn']);
  });

  test('only what must be is open to everybody', () => {
    const open = routes.filter(([, { access }]) => access === 'public').map(([name]) => name);
    expect(open.sort()).toEqual(['demoMembers', 'health', 'signIn', 'signOut', 'workflowSchema']);
  });
});

// RFC 9457: the members of a problem document.
describe('problems', () => {
  test.each(Object.entries(PROBLEMS))(
    '%s has a code of its area, an error status and a way to mend it',
    (code, { status, title, mend }) => {
      expect(code).toMatch(/^[a-z]+(-[a-z]+)*\/[a-z]+(-[a-z]+)*$/);
      expect(status >= 400 && status < 600).toBe(true);
      expect(title).toMatch(/\.$/);
      expect(mend).toMatch(/\.$/);
    },
  );

  test('a document has the standard’s members and ours', () => {
    const document = { type: 'https://x.invalid/p', title: 'T', status: 422, code: 'a/b', detail: 'D', path: '', details: [] };
    expect(Problem.parse(document)).toEqual(document);
    for (const member of Object.keys(document)) {
      const { [member as 'type']: _, ...rest } = document;
      expect(Problem.safeParse(rest).success).toBe(false);
    }
  });
});
