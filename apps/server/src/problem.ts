import { PROBLEM_STATUS, type Problem, type ProblemCode, type ProblemDetail, SERVER_EN } from '@ypomet/contract';
import { type Diagnostic, describeDiagnostic, howToMend, type Issue } from '@ypomet/core';

/** An expected refusal, answered as problem details. */
export class ProblemError extends Error {
  readonly problem: Problem;
  readonly retryAfterSeconds: number | null;

  constructor(
    code: ProblemCode,
    more: {
      readonly path?: string;
      readonly details?: readonly ProblemDetail[];
      readonly detail?: string;
      readonly retryAfterSeconds?: number;
    } = {},
  ) {
    super(code);
    this.problem = makeProblem(code, more);
    this.retryAfterSeconds = more.retryAfterSeconds ?? null;
  }
}

export function makeProblem(
  code: ProblemCode,
  more: { readonly path?: string; readonly details?: readonly ProblemDetail[]; readonly detail?: string } = {},
): Problem {
  const { title, mend } = SERVER_EN.problems[code];
  const status = PROBLEM_STATUS[code];
  return {
    type: `https://ypomet.invalid/problems/${code}`,
    title,
    status,
    code,
    detail: more.detail ?? mend,
    path: more.path ?? '',
    details: [...(more.details ?? [])],
  };
}

/** Things wrong that one answer names. */
export const MAX_DETAILS = 100;

/** Diagnostics and issues of the core, in words. An issue's own message, the analyst's, comes first. */
export const toDetails = (diagnostics: readonly (Diagnostic | Issue)[]): readonly ProblemDetail[] =>
  diagnostics.slice(0, MAX_DETAILS).map((one) => {
    const issue = 'ownMessage' in one ? one : null;
    return {
      code: one.code,
      message: issue?.ownMessage ?? describeDiagnostic(one),
      path: one.path,
      mend: howToMend(one),
      params: one.params,
      field: issue?.field ?? null,
      row: issue?.row ?? null,
      subField: issue?.subField ?? null,
    };
  });
