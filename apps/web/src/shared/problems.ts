import type { Problem } from '@ypomet/contract';

/** A refusal of the server, as problem details. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(problem.title);
  }
}

/** What to say of a call that failed. */
export const problemText = (error: Error): string => (error instanceof ApiProblem ? error.problem.detail : error.message);

/** The server could not be reached. */
export class Unreachable extends Error {
  constructor() {
    super('The server can’t be reached. Try again in a moment; what you entered is still here.');
  }
}

/** Refusals are final; only what never reached the server is tried again. */
export const isWorthRetrying = (failures: number, error: Error): boolean => !(error instanceof ApiProblem) && failures < 2;
