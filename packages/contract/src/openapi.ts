import { Edit, Workflow } from '@ypomet/core';
import { z } from 'zod';
import * as deskSchemas from './desk-routes.ts';
import * as dispatchSchemas from './dispatch-schemas.ts';
import type { OperationNote } from './example-parts.ts';
import { NOTES } from './examples.ts';
import { SERVER_EN } from './messages/en.ts';
import { uploadPaths } from './openapi-uploads.ts';
import { PROBLEM_STATUS, Problem, type ProblemCode } from './problem.ts';
import * as publicLinkSchemas from './public-link-routes.ts';
import * as registerSchemas from './register-schemas.ts';
import type { Route } from './route.ts';
import { ROUTES, type RouteName } from './routes.ts';
import * as schemas from './schemas.ts';

type Json = Record<string, unknown>;

/** Schemas with a name of their own: those that the files of schemas export, and the core's. */
const named: ReadonlyMap<z.ZodType, string> = new Map([
  ...Object.entries({ ...schemas, ...deskSchemas, ...dispatchSchemas, ...registerSchemas, ...publicLinkSchemas }).flatMap(
    ([name, schema]): [z.ZodType, string][] => (schema instanceof z.ZodType ? [[schema, name]] : []),
  ),
  [Workflow, 'Workflow'],
  [Edit, 'Edit'],
  [Problem, 'Problem'],
]);

const SCHEMAS = '#/components/schemas/';
type Direction = 'input' | 'output';

/** What comes in may leave out what has a default: it is a schema of its own. */
const nameFor = (name: string, io: Direction): string => (io === 'output' || name.endsWith('Request') ? name : `${name}Request`);

/** Every named schema as JSON Schema, with references to the others. */
function componentsOf(io: Direction): Readonly<Record<string, Json>> {
  const registry = z.registry<{ id: string }>();
  for (const [schema, name] of named) registry.add(schema, { id: nameFor(name, io) });
  const made = z.toJSONSchema(registry, {
    io,
    unrepresentable: 'any',
    target: 'draft-2020-12',
    uri: (id) => `${SCHEMAS}${id}`,
  }).schemas as Record<string, Json>;
  return Object.fromEntries(Object.entries(made).map(([name, { $id: _, $schema: __, ...schema }]) => [name, schema]));
}

const referenceTo = (schema: z.ZodType, io: Direction): Json => {
  const name = named.get(schema);
  if (name !== undefined) return { $ref: `${SCHEMAS}${nameFor(name, io)}` };
  if (schema instanceof z.ZodArray) return { type: 'array', items: referenceTo(schema.element as z.ZodType, io) };
  const { $schema: _, ...own } = z.toJSONSchema(schema, { io, unrepresentable: 'any', target: 'draft-2020-12' }) as Json;
  return own;
};

/** Codes that an operation can refuse with: those of its note, and those that follow from what it is. */
function problemsOf(route: Route, note: OperationNote): readonly ProblemCode[] {
  const when = (condition: boolean, ...codes: ProblemCode[]): readonly ProblemCode[] => (condition ? codes : []);
  return [
    ...when(route.access !== 'public', 'session/none'),
    ...when(route.access === 'analyst' || route.access === 'administrator', 'session/forbidden'),
    ...when(route.method !== 'GET', 'request/foreign-origin'),
    ...when(route.body !== undefined, 'request/too-large', 'request/unsupported-media-type'),
    ...when(route.body !== undefined && route.bodyAs !== 'stream', 'request/malformed', 'request/unfit-text'),
    ...when(route.body !== undefined || route.query !== undefined || route.params !== undefined, 'request/invalid'),
    ...when(route.params !== undefined, 'thing/not-found', 'request/bad-address'),
    ...when(route.ifMatch === true, 'revision/missing', 'revision/stale'),
    ...when(route.idempotent === true, 'request/idempotency-mismatch'),
    ...when(route.rate !== undefined, 'request/too-many'),
    ...(note.refuses ?? []),
    'server/busy',
    'server/fault',
  ];
}

const problemExample = (code: ProblemCode): Json => ({
  type: `https://ypomet.invalid/problems/${code}`,
  title: SERVER_EN.problems[code].title,
  status: PROBLEM_STATUS[code],
  code,
  detail: SERVER_EN.problems[code].mend,
  path: '',
  details: [],
});

function refusals(codes: readonly ProblemCode[]): Json {
  const byStatus = new Map<number, ProblemCode[]>();
  for (const code of new Set(codes)) byStatus.set(PROBLEM_STATUS[code], [...(byStatus.get(PROBLEM_STATUS[code]) ?? []), code]);
  const response = ([status, own]: readonly [number, readonly ProblemCode[]]): [string, Json] => [
    String(status),
    {
      description: own.map((code) => `\`${code}\`: ${SERVER_EN.problems[code].title}`).join(' '),
      content: {
        'application/problem+json': {
          schema: { $ref: `${SCHEMAS}Problem` },
          examples: Object.fromEntries(own.map((code) => [code.replace('/', '-'), { value: problemExample(code) }])),
        },
      },
    },
  ];
  return Object.fromEntries([...byStatus].sort(([a], [b]) => a - b).map(response));
}

function parametersOf(route: Route, note: OperationNote): readonly Json[] {
  const of = (schema: z.ZodType | undefined, place: 'path' | 'query', example: OperationNote['params']): readonly Json[] => {
    if (!schema) return [];
    const { properties = {}, required = [] } = z.toJSONSchema(schema, { io: 'output', unrepresentable: 'any' }) as {
      properties?: Record<string, Json>;
      required?: string[];
    };
    return Object.entries(properties).map(([name, own]) => ({
      name,
      in: place,
      // What has a default may be left out of an address.
      required: place === 'path' || (required.includes(name) && !('default' in own)),
      schema: own,
      ...(example && name in example ? { example: example[name] } : {}),
    }));
  };
  const header = (name: string, description: string, required: boolean, example: string): Json => ({
    name,
    in: 'header',
    required,
    description,
    schema: { type: 'string' },
    example,
  });
  return [
    ...of(route.params, 'path', note.params),
    ...of(route.query, 'query', note.query),
    ...(route.ifMatch ? [header('If-Match', 'The revision that was read, in quotes.', true, '"1"')] : []),
    ...(route.idempotent
      ? [header('Idempotency-Key', 'A key of one’s own: a repeat acts once and gets the same answer.', false, 'a2b0c7')]
      : []),
  ];
}

const tagOf = (path: string): string => {
  const [, , area = ''] = path.split('/');
  return (
    ({ session: 'session', workflows: 'design', schemas: 'design', members: 'design' } as Record<string, string>)[area] ??
    (
      {
        intakes: 'records',
        records: 'records',
        desk: 'records',
        submitted: 'records',
        public: 'records',
        followed: 'records',
        files: 'records',
        deliveries: 'dispatch',
        standins: 'dispatch',
        outlets: 'dispatch',
      } as Record<string, string>
    )[area] ??
    'server'
  );
};

const FILES: ReadonlySet<RouteName> = new Set(['downloadFile', 'registerFile']);
const STREAMS: ReadonlySet<RouteName> = new Set(['watchDraft']);

/** Alternatives: a session, or a guest's pass. */
const securityOf = ({ access, guests }: Route): readonly Json[] => [
  ...(access === 'public' || access === 'guest' ? [] : [{ session: [] }]),
  ...(access === 'guest' || guests ? [{ pass: [] }] : []),
];

function operationOf(name: RouteName, route: Route): Json {
  const note = NOTES[name];
  const isBytes = route.bodyAs === 'stream';
  const status = String(route.status ?? 200);
  const answer =
    name === 'metrics'
      ? { 'text/plain': { schema: { type: 'string' }, example: note.response } }
      : FILES.has(name)
        ? { '*/*': { schema: { type: 'string', format: 'binary' } } }
        : STREAMS.has(name)
          ? { 'text/event-stream': { schema: { type: 'string' }, example: note.response } }
          : {
              'application/json': { schema: referenceTo(route.response, 'output'), example: route.response.parse(note.response) },
            };
  return {
    operationId: name,
    summary: route.summary,
    description: note.does,
    tags: [tagOf(route.path)],
    security: securityOf(route),
    parameters: parametersOf(route, note),
    ...(route.body
      ? {
          requestBody: {
            required: !(route.body instanceof z.ZodOptional),
            content: isBytes
              ? { '*/*': { schema: { type: 'string', format: 'binary' } } }
              : { 'application/json': { schema: referenceTo(route.body, 'input'), example: note.body } },
          },
        }
      : {}),
    responses: {
      [status]: status === '204' ? { description: 'Done.' } : { description: route.summary, content: answer },
      ...refusals(problemsOf(route, note)),
    },
  };
}

/** The components that something refers to, directly or not. */
function used(all: Readonly<Record<string, Json>>, from: unknown): Readonly<Record<string, Json>> {
  const found = new Map<string, Json>();
  const visit = (value: unknown): void => {
    if (typeof value !== 'object' || value === null) return;
    const reference = (value as { $ref?: unknown }).$ref;
    const name = typeof reference === 'string' ? reference.replace(SCHEMAS, '') : null;
    const schema = name === null ? undefined : all[name];
    if (name !== null && schema && !found.has(name)) {
      found.set(name, schema);
      visit(schema);
    }
    for (const inner of Object.values(value)) visit(inner);
  };
  visit(from);
  return Object.fromEntries([...found].sort(([a], [b]) => (a < b ? -1 : 1)));
}

/** The OpenAPI 3.1 document of the HTTP contract, made from its routes, schemas, problems and examples. */
export function makeOpenApi(): Json {
  const paths: Record<string, Json> = {};
  for (const [name, route] of Object.entries(ROUTES) as readonly (readonly [RouteName, Route])[]) {
    const path = route.path.replace(/:(\w+)/g, '{$1}');
    paths[path] = { ...paths[path], [route.method.toLowerCase()]: operationOf(name, route) };
  }
  Object.assign(paths, uploadPaths(refusals, referenceTo(schemas.FileEntry, 'output')));
  const components = { ...componentsOf('output'), ...componentsOf('input') };
  return {
    openapi: '3.1.0',
    info: {
      title: 'Ypomet',
      version: '1',
      description: 'Design, prove, rehearse, publish and run record workflows.',
      license: { name: 'Apache-2.0', identifier: 'Apache-2.0' },
    },
    servers: [{ url: '/' }],
    tags: [
      { name: 'server', description: 'The server itself.' },
      { name: 'session', description: 'Who is signed in.' },
      { name: 'design', description: 'Drafts, versions and what they refer to: for analysts.' },
      { name: 'records', description: 'Records and the forms of their stages: for participants.' },
      { name: 'dispatch', description: 'What was sent, and the stand-ins it was sent to.' },
    ],
    paths,
    components: {
      schemas: used(components, paths),
      securitySchemes: {
        session: { type: 'apiKey', in: 'cookie', name: 'ypomet_session', description: 'Set by `signIn`.' },
        pass: { type: 'http', scheme: 'bearer', description: 'A guest’s pass, given by `publicIntake`.' },
      },
    },
  };
}
