import { type Problem, type ProblemCode, type ProblemDetail, SERVER_EN } from '@ypomet/contract';
import { describeTerm, termOfIssue } from '@ypomet/core';
import type { FastifyError, FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import {
  hasZodFastifySchemaValidationErrors,
  isResponseSerializationError,
  type ZodFastifySchemaValidationError,
} from 'fastify-type-provider-zod';
import { isUnavailable } from '../db/database.ts';
import { makeProblem, ProblemError } from '../problem.ts';

const BY_FASTIFY_CODE: Readonly<Record<string, ProblemCode>> = {
  FST_ERR_CTP_INVALID_JSON_BODY: 'request/malformed',
  FST_ERR_CTP_EMPTY_JSON_BODY: 'request/malformed',
  FST_ERR_CTP_INVALID_CONTENT_LENGTH: 'request/malformed',
  FST_ERR_CTP_INVALID_MEDIA_TYPE: 'request/unsupported-media-type',
  FST_ERR_CTP_BODY_TOO_LARGE: 'request/too-large',
  FST_ERR_VALIDATION: 'request/invalid',
  FST_ERR_BAD_URL: 'request/bad-address',
  FST_ERR_MAX_PARAM_LENGTH: 'request/bad-address',
};

/** A full disk: of PostgreSQL (SQLSTATE disk_full), and of this machine. */
const NO_ROOM: ReadonlySet<string> = new Set(['53100', 'ENOSPC']);

/** Seconds after which it is worth asking again, where nothing better is known. */
const RETRY_AFTER_SECONDS = 2;
const PROBLEM_TYPE = 'application/problem+json; charset=utf-8';

/** Answers every error as problem details (RFC 9457). Unexpected ones are logged and say nothing of their insides. */
export function answerWithProblems(app: FastifyInstance): void {
  app.setNotFoundHandler((_request, reply) => reply.code(404).type(PROBLEM_TYPE).send(makeProblem('thing/not-found')));
  app.setErrorHandler(answerProblem);
}

/** Answers one error; also what goes wrong before a route is found. */
export function answerProblem(error: FastifyError, request: FastifyRequest, reply: FastifyReply): FastifyReply {
  const problem = toProblem(error);
  if (problem.status >= 500) {
    const log = problem.status === 503 ? 'warn' : 'error';
    // If our own answer breaks its schema, log the route and the paths of the wrong parts, but none of the values.
    const unfit = isResponseSerializationError(error)
      ? {
          method: error.method,
          url: request.routeOptions.url,
          paths: error.cause.issues.slice(0, 10).map(({ path }) => path.join('.')),
        }
      : undefined;
    request.log[log]({ err: { name: error.name, message: error.message, stack: error.stack }, unfit }, 'fault');
  }
  const after = error instanceof ProblemError ? error.retryAfterSeconds : null;
  if (problem.status === 503 || (problem.status === 429 && after)) reply.header('retry-after', after ?? RETRY_AFTER_SECONDS);
  // Whoever is refused before the body was read may still be sending it: the connection ends with the answer.
  if (request.raw.complete === false) reply.header('connection', 'close');
  return reply.code(problem.status).type(PROBLEM_TYPE).send(JSON.stringify(problem));
}

/** Returns the problem that an error is answered with. What isn't known is `server/fault`, without the error's text. */
export function toProblem(error: Error & { readonly code?: string; readonly statusCode?: number }): Problem {
  if (error instanceof ProblemError) return error.problem;
  if (hasZodFastifySchemaValidationErrors(error)) return makeProblem('request/invalid', { details: validationDetails(error) });
  if (error instanceof SyntaxError && error.statusCode === 400) return makeProblem('request/malformed');
  if (error.statusCode === 429) return makeProblem('request/too-many');
  const code = BY_FASTIFY_CODE[error.code ?? ''];
  if (code) return makeProblem(code);
  if (NO_ROOM.has(error.code ?? '')) return makeProblem('server/no-room');
  if (isUnavailable(error)) return makeProblem('server/busy');
  if (error.statusCode === 404) return makeProblem('thing/not-found');
  return error.statusCode === 400 ? makeProblem('request/malformed') : makeProblem('server/fault');
}

function validationDetails({ validation }: { readonly validation: readonly ZodFastifySchemaValidationError[] }) {
  return validation.slice(0, 50).map(
    (one): ProblemDetail => ({
      code: 'request/invalid',
      message: describeTerm(termOfIssue({ code: one.keyword, message: one.message, path: [], ...one.params } as never)),
      path: one.instancePath.replace(/^\//, '').replaceAll('/', '.'),
      mend: SERVER_EN.problems['request/invalid'].mend,
      params: {},
      field: null,
      row: null,
      subField: null,
    }),
  );
}
