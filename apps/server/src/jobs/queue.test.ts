import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { handleFailedShutdowns } from './queue.ts';

const unhandled = jest.fn();
beforeEach(() => void process.on('unhandledRejection', unhandled));
afterEach(() => void process.off('unhandledRejection', unhandled));

test('a pool of workers that can’t shut itself down cleanly doesn’t end the process', async () => {
  const failure = new AggregateError([new Error('Connection terminated'), new Error('Timed out')], 'Errors occurred');
  const warn = jest.fn();
  const asked: string[] = [];
  const pool = {
    gracefulShutdown: async (message?: string): Promise<void> => {
      asked.push(`gracefully: ${message}`);
      await pool.forcefulShutdown(message ?? '');
      throw failure;
    },
    forcefulShutdown: async (message: string) => {
      asked.push(`forcefully: ${message}`);
      return { forceFailedJobs: [] };
    },
  };
  handleFailedShutdowns(pool, { warn: warn as never });
  // As the pool calls it: nobody waits for the promise.
  void pool.gracefulShutdown('PostgreSQL is away');
  await new Promise((resolve) => setTimeout(resolve, 20));
  expect(asked).toEqual(['gracefully: PostgreSQL is away', 'forcefully: PostgreSQL is away']);
  expect(warn).toHaveBeenCalledWith({ message: 'Errors occurred' }, expect.any(String));
  expect(unhandled).not.toHaveBeenCalled();
});
