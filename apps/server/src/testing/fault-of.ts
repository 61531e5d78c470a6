import { NotSent } from '../outlets/outlet.ts';

/** Why something wasn't sent: the code of its fault, and whether it is of no use to try again. */
export async function faultOf(attempt: Promise<unknown>): Promise<readonly [string, boolean]> {
  const error = await attempt.then(
    () => null,
    (thrown: unknown) => thrown,
  );
  if (!(error instanceof NotSent)) throw error ?? new Error('it was sent');
  return [error.fault.code, error.more.isFinal ?? false];
}
