import type { Readable } from 'node:stream';
import {
  BODY_LIMITS,
  type BodyOf,
  makeOpenApi,
  type ParamsOf,
  Problem,
  type QueryOf,
  RATES,
  type ResponseOf,
  ROUTES,
  type Route,
  type RouteName,
} from '@ypomet/contract';
import type { Actor } from '@ypomet/core';
import { workflowJsonSchema } from '@ypomet/core';
import type { FastifyInstance, FastifyReply, FastifyRequest, onRequestAsyncHookHandler, RouteOptions } from 'fastify';
import { serializerCompiler, validatorCompiler } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { Guest } from '../modules/public-intake/guests.ts';
import { ProblemError } from '../problem.ts';
import { serveDocument } from './documents.ts';
import { rateKeyOf, requireActor, requireGuest } from './sessions.ts';

/** A request, validated by its contract. */
export type Call<N extends RouteName> = {
  readonly params: ParamsOf<N>;
  readonly query: QueryOf<N>;
  readonly body: BodyOf<N>;
  /** Of routes whose body comes as text or as a stream, where that is read by the handler. */
  readonly text: string;
  readonly stream: Readable;
  /** Throws `session/none` when nobody is signed in. */
  readonly actor: Actor;
  /** Throws `session/none` when no pass was sent. */
  readonly guest: Guest;
  /** The revision of `If-Match`, for routes that need one. */
  readonly revision: number;
  readonly idempotencyKey: string | null;
  readonly request: FastifyRequest;
  readonly reply: FastifyReply;
};

/** What is known of a request before its body is read. */
export type Arrival<N extends RouteName> = {
  readonly params: ParamsOf<N>;
  readonly actor: Actor;
  readonly guest: Guest | null;
  readonly sizeBytes: number;
};

/** Refuses a request before its body is read, by throwing. */
export type Admit<N extends RouteName> = (arrival: Arrival<N>) => Promise<void>;

/**
 * Registers a route of the contract with its handler. Before a body is read it is settled who asks, whether they may, how
 * often they asked and how large the body says it is; `admit` adds what only the route knows. A text or JSON that was made
 * elsewhere is sent as it is.
 */
export type Handle = <N extends RouteName>(
  name: N,
  handler: (call: Call<N>) => Promise<ResponseOf<N> | Made>,
  admit?: Admit<N>,
) => void;

/** JSON text, ready to be sent. */
export class Made {
  constructor(readonly json: string) {}
}

/**
 * Validation by the contract, its OpenAPI 3.1 document at `/api/openapi.json`, the JSON Schema of definition files, and the
 * registration of handlers.
 */
export async function useContract(app: FastifyInstance): Promise<Handle> {
  app.setValidatorCompiler(validatorCompiler);
  app.setSerializerCompiler(serializerCompiler);
  serveDocument(app, '/api/openapi.json', makeOpenApi);
  serveDocument(app, ROUTES.workflowSchema.path, workflowJsonSchema);
  return (name, handler, admit) => {
    const route: Route = ROUTES[name];
    const options: RouteOptions = {
      method: route.method,
      url: route.path,
      schema: schemaOf(route),
      bodyLimit: BODY_LIMITS[route.size ?? 'small'],
      config: { rateLimit: false },
      onRequest: doorsOf(app, route, admit as Admit<RouteName> | undefined),
      handler: async (request, reply) => {
        const result = await handler(makeCall(route, request, reply));
        if (route.status) reply.code(route.status);
        if (route.status === 204) return reply.send();
        return result instanceof Made ? reply.type('application/json; charset=utf-8').send(result.json) : result;
      },
    };
    // What is made here is sent as it is; and bodies that are read elsewhere are not looked at here.
    if (route.isMade) options.serializerCompiler = () => (data) => (typeof data === 'string' ? data : JSON.stringify(data));
    const { bodyAs } = route;
    if (!bodyAs) {
      app.route(options);
      return;
    }
    options.validatorCompiler = (of) =>
      of.httpPart === 'body' ? (data) => ({ value: data }) : validatorCompiler(of as Parameters<typeof validatorCompiler>[0]);
    void app.register(async (own) => {
      own.removeAllContentTypeParsers();
      if (bodyAs === 'stream') own.addContentTypeParser('*', (_request, payload, done) => done(null, payload));
      else own.addContentTypeParser('application/json', { parseAs: 'string' }, (_request, text, done) => done(null, text));
      own.route(options);
    });
  };
}

/** Who, whether, how often, how large: settled in this order, before a body is read. */
function doorsOf(app: FastifyInstance, route: Route, admit: Admit<RouteName> | undefined): onRequestAsyncHookHandler[] {
  const rate = route.rate ? app.rateLimit({ max: RATES[route.rate], timeWindow: 60_000, keyGenerator: rateKeyOf }) : null;
  const doors: onRequestAsyncHookHandler[] = [async (request) => allow(route, request)];
  if (rate) doors.push(rate as never);
  doors.push(async (request) => {
    const sizeBytes = Number(request.headers['content-length'] ?? Number.POSITIVE_INFINITY);
    if (request.headers['content-length'] && sizeBytes > BODY_LIMITS[route.size ?? 'small'])
      throw new ProblemError('request/too-large');
    if (!admit) return;
    const params = route.params?.safeParse(request.params);
    if (params && !params.success) throw new ProblemError('thing/not-found');
    await admit({ params: (params?.data ?? {}) as never, actor: requireActor(request), guest: request.guest, sizeBytes });
  });
  return doors;
}

function schemaOf(route: Route): object {
  const headers = {
    ...(route.ifMatch ? { 'if-match': z.string().max(40).optional() } : {}),
    ...(route.idempotent ? { 'idempotency-key': z.string().min(8).max(100).optional() } : {}),
  };
  return {
    ...(route.params ? { params: route.params } : {}),
    ...(route.query ? { querystring: route.query } : {}),
    ...(route.body ? { body: route.body } : {}),
    ...(Object.keys(headers).length > 0 ? { headers: z.looseObject(headers) } : {}),
    response: { [route.status ?? 200]: route.response, '4xx': Problem },
  };
}

function allow(route: Route, request: FastifyRequest): void {
  if (route.access === 'public') return;
  if (route.access === 'guest') return void requireGuest(request);
  const actor = requireActor(request);
  if (request.guest && !route.guests) throw new ProblemError('session/forbidden');
  if (route.access !== 'member' && !actor.roles.includes(route.access)) throw new ProblemError('session/forbidden');
}

function makeCall<N extends RouteName>(route: Route, request: FastifyRequest, reply: FastifyReply): Call<N> {
  const idempotencyKey = route.idempotent ? headerOf(request, 'idempotency-key') : null;
  return {
    params: request.params as ParamsOf<N>,
    query: request.query as QueryOf<N>,
    body: request.body as BodyOf<N>,
    text: typeof request.body === 'string' ? request.body : '',
    stream: request.body as Readable,
    get actor() {
      return requireActor(request);
    },
    get guest() {
      return requireGuest(request);
    },
    revision: route.ifMatch ? readRevision(request) : 0,
    idempotencyKey,
    request,
    reply,
  };
}

const headerOf = (request: FastifyRequest, name: string): string | null => {
  const value = request.headers[name];
  return typeof value === 'string' ? value : null;
};

/** `If-Match: "7"`. */
function readRevision(request: FastifyRequest): number {
  const header = headerOf(request, 'if-match');
  if (header === null) throw new ProblemError('revision/missing');
  const match = /^"?(\d{1,9})"?$/.exec(header);
  if (!match) throw new ProblemError('revision/stale');
  return Number(match[1]);
}
