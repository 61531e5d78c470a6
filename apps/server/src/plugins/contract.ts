import swagger from '@fastify/swagger';
import {
  type BodyOf,
  type ParamsOf,
  Problem,
  type QueryOf,
  type ResponseOf,
  ROUTES,
  type Route,
  type RouteName,
} from '@ypomet/contract';
import type { Actor } from '@ypomet/core';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { jsonSchemaTransform, serializerCompiler, validatorCompiler } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { ProblemError } from '../problem.ts';
import { requireActor } from './sessions.ts';

/** A request, validated by its contract. */
export type Call<N extends RouteName> = {
  readonly params: ParamsOf<N>;
  readonly query: QueryOf<N>;
  readonly body: BodyOf<N>;
  /** Throws `session/none` when nobody is signed in. */
  readonly actor: Actor;
  /** The revision of `If-Match`, for routes that need one. */
  readonly revision: number;
  readonly idempotencyKey: string | null;
  readonly request: FastifyRequest;
  readonly reply: FastifyReply;
};

/** Registers a route of the contract with its handler. */
export type Handle = <N extends RouteName>(name: N, handler: (call: Call<N>) => Promise<ResponseOf<N>>) => void;

/** Validation by the contract, its OpenAPI 3.1 document at `/api/openapi.json`, and the registration of handlers. */
export async function useContract(app: FastifyInstance): Promise<Handle> {
  app.setValidatorCompiler(validatorCompiler);
  app.setSerializerCompiler(serializerCompiler);
  await app.register(swagger, {
    openapi: {
      openapi: '3.1.0',
      info: { title: 'Ypomet', version: '1', description: 'Design, prove, rehearse, publish and run record workflows.' },
    },
    transform: jsonSchemaTransform,
  });
  app.get('/api/openapi.json', { schema: { hide: true } }, async () => app.swagger());
  return (name, handler) => {
    const route: Route = ROUTES[name];
    app.route({
      method: route.method,
      url: route.path,
      schema: schemaOf(route),
      handler: async (request, reply) => {
        allow(route, request);
        const result = await handler(makeCall(route, request, reply));
        if (route.status) reply.code(route.status);
        return route.status === 204 ? reply.send() : result;
      },
    });
  };
}

function schemaOf(route: Route): object {
  const headers = {
    ...(route.ifMatch ? { 'if-match': z.string().max(40).optional() } : {}),
    ...(route.idempotent ? { 'idempotency-key': z.string().min(8).max(100).optional() } : {}),
  };
  return {
    summary: route.summary,
    ...(route.params ? { params: route.params } : {}),
    ...(route.query ? { querystring: route.query } : {}),
    ...(route.body ? { body: route.body } : {}),
    ...(Object.keys(headers).length > 0 ? { headers: z.looseObject(headers) } : {}),
    response: { [route.status ?? 200]: route.response, '4xx': Problem },
  };
}

function allow(route: Route, request: FastifyRequest): void {
  if (route.access === 'public') return;
  const actor = requireActor(request);
  if (route.access === 'analyst' && !actor.roles.includes('analyst')) throw new ProblemError('session/forbidden');
}

function makeCall<N extends RouteName>(route: Route, request: FastifyRequest, reply: FastifyReply): Call<N> {
  const idempotencyKey = route.idempotent ? headerOf(request, 'idempotency-key') : null;
  return {
    params: request.params as ParamsOf<N>,
    query: request.query as QueryOf<N>,
    body: request.body as BodyOf<N>,
    get actor() {
      return requireActor(request);
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
