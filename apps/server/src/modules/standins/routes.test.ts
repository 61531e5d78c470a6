import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { ProblemError } from '../../problem.ts';
import { standInRoutes } from './routes.ts';

const registersDir = mkdtempSync(path.join(os.tmpdir(), 'ypomet-stand-ins-'));
writeFileSync(path.join(registersDir, 'loans.csv'), 'secret\n');
afterAll(() => rmSync(registersDir, { recursive: true, force: true }));

/** What an operation of the stand-ins answers: its answer, or the code of its refusal. */
async function answerOf(operation: string, isDemo: boolean): Promise<unknown> {
  const handlers = new Map<string, (call: object) => unknown>();
  const handle = (name: string, handler: (call: object) => unknown): void => void handlers.set(name, handler);
  standInRoutes(handle as never, { mailbox: null, receiver: null, config: { isDemo, registersDir } });
  const reply = { type: () => reply, header: () => reply };
  const call = { query: { limit: 10, path: 'loans.csv' }, params: { id: 'x' }, body: { mode: 'answers' }, reply };
  try {
    return await handlers.get(operation)?.(call);
  } catch (error) {
    if (error instanceof ProblemError) return error.problem.code;
    throw error;
  }
}

describe('what came to the stand-ins', () => {
  test.each(['mailbox', 'mail', 'receiver', 'setReceiver', 'registers', 'registerFile'])(
    'is shown to nobody outside the demo: %s',
    async (operation) => {
      expect(await answerOf(operation, false)).toBe('thing/not-found');
    },
  );

  test('is shown in the demo', async () => {
    expect(await answerOf('registers', true)).toEqual([expect.objectContaining({ path: 'loans.csv' })]);
    expect(await answerOf('mailbox', true)).toEqual({ entries: [], next: null });
  });
});
