import { PROBLEMS, type ProblemCode, type ProblemDetail } from '@ypomet/contract';
import type { FastifyError, FastifyInstance } from 'fastify';
import { hasZodFastifySchemaValidationErrors } from 'fastify-type-provider-zod';
import { makeProblem, ProblemError } from '../problem.ts';

const BY_FASTIFY_CODE: Readonly<Record<string, ProblemCode>> = {
  FST_ERR_CTP_INVALID_JSON_BODY: 'request/malformed',
  FST_ERR_CTP_EMPTY_JSON_BODY: 'request/malformed',
  FST_ERR_CTP_INVALID_CONTENT_LENGTH: 'request/malformed',
  FST_ERR_CTP_INVALID_MEDIA_TYPE: 'request/unsupported-media-type',
  FST_ERR_CTP_BODY_TOO_LARGE: 'request/too-large',
  FST_ERR_VALIDATION: 'request/invalid',
};

/** Answers every error as problem details (RFC 9457). Unexpected ones are logged and say nothing of their insides. */
export function answerWithProblems(app: FastifyInstance): void {
  app.setNotFoundHandler((_request, reply) =>
    reply.code(404).type('application/problem+json').send(makeProblem('thing/not-found')),
  );
  app.setErrorHandler((error: FastifyError, request, reply) => {
    const problem = error instanceof ProblemError ? error.problem : fromError(error);
    if (problem.status >= 500)
      request.log.error({ err: { name: error.name, message: error.message, stack: error.stack } }, 'fault');
    return reply.code(problem.status).type('application/problem+json').send(problem);
  });
}

function fromError(error: FastifyError) {
  if (hasZodFastifySchemaValidationErrors(error)) return makeProblem('request/invalid', { details: validationDetails(error) });
  if (error instanceof SyntaxError && error.statusCode === 400) return makeProblem('request/malformed');
  if (error.statusCode === 429) return makeProblem('request/too-many');
  const code = BY_FASTIFY_CODE[error.code];
  if (code) return makeProblem(code);
  return error.statusCode === 400 ? makeProblem('request/malformed') : makeProblem('server/fault');
}

function validationDetails(error: {
  readonly validation: readonly { readonly instancePath: string; readonly message?: string }[];
}): readonly ProblemDetail[] {
  return error.validation.slice(0, 50).map((one) => ({
    code: 'request/invalid',
    message: one.message ?? 'This isn’t as it should be.',
    path: one.instancePath.replace(/^\//, '').replaceAll('/', '.'),
    mend: PROBLEMS['request/invalid'].mend,
    field: null,
    row: null,
    subField: null,
  }));
}
