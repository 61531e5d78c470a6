import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { ProblemError } from '../../problem.ts';
import { Questions } from './questions.ts';

const codeOf = (error: unknown): string => (error instanceof ProblemError ? error.problem.code : String(error));
/** Work that goes on until it is let go. */
function held() {
  let letGo = (): void => undefined;
  const work = new Promise<string>((resolve) => {
    letGo = () => resolve('answered');
  });
  return { work: () => work, letGo: () => letGo() };
}

describe('questions that members write', () => {
  let questions: Questions;
  beforeEach(() => {
    // Nothing is connected until a question uses its connection.
    questions = new Questions('postgres://nobody@127.0.0.1:1/none');
  });
  afterEach(() => questions.stop());

  test('of one member are asked one at a time, twenty wait, more are refused; others don’t wait for them', async () => {
    const first = held();
    const running = questions.ask('rufus', first.work);
    const began: number[] = [];
    const others = Array.from({ length: 25 }, (_, index) =>
      questions
        .ask('rufus', async () => {
          began.push(index);
          return 'answered';
        })
        .catch(codeOf),
    );
    expect(await questions.ask('dorian', async () => 'at once')).toBe('at once');
    expect(began).toEqual([]);
    first.letGo();
    expect(await running).toBe('answered');
    const answers = await Promise.all(others);
    expect(answers).toEqual([...Array(20).fill('answered'), ...Array(5).fill('request/too-many')]);
    expect(began).toEqual(Array.from({ length: 20 }, (_, index) => index));
  });

  test('whose estimate is hopeless are refused before they are tried; others are tried, and told with it where they take too long', async () => {
    let isTried = false;
    const work = async (): Promise<string> => {
      isTried = true;
      return 'answered';
    };
    const detailOf = (error: ProblemError): string => error.problem.detail;
    const hopeless = await questions.ask('rufus', work, async () => 1_634_000_000).catch(detailOf);
    expect(hopeless).toMatch(/^It would look at about 1,600,000,000 rows of tables\. Narrow it/);
    expect(isTried).toBe(false);
    expect(await questions.ask('rufus', work, async () => 400_000_000)).toBe('answered');
    const stopped = Object.assign(new Error('canceling statement due to statement timeout'), { code: '57014' });
    const late = await questions
      .ask(
        'rufus',
        () => Promise.reject(stopped),
        async () => 123_456,
      )
      .catch(detailOf);
    expect(late).toMatch(/^It would look at about 120,000 rows/);
  });

  test('that take too long are told as that; any other fault stays what it is', async () => {
    const stopped = Object.assign(new Error('canceling statement due to statement timeout'), { code: '57014' });
    expect(await questions.ask('rufus', () => Promise.reject(stopped)).catch(codeOf)).toBe('register/too-much-work');
    expect(await questions.ask('rufus', () => Promise.reject(new Error('other'))).catch(codeOf)).toBe('Error: other');
    // The next question of the same member is asked all the same.
    expect(await questions.ask('rufus', async () => 'answered')).toBe('answered');
  });
});
