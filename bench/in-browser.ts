import { type Browser, type CDPSession, chromium, type Page } from '@playwright/test';
import { realSizeWorkflow } from '@ypomet/testkit/real-size';
import { RunningServer } from '../e2e/running-server.ts';
import { median } from './measure.ts';
import type { Figure } from './report.ts';

const PEOPLE = { analyst: 'Ines Halvard', borrower: 'Beryl Quist' } as const;
const EDITS = 40;
const PAUSE_MS = 200;

/** Counts the bytes that come over the wire, headers and fonts and all; what comes from the cache counts nothing. */
async function meter(page: Page): Promise<{ readonly client: CDPSession; readonly bytes: () => number }> {
  const client = await page.context().newCDPSession(page);
  await client.send('Network.enable');
  let bytes = 0;
  client.on('Network.loadingFinished', ({ encodedDataLength }) => {
    bytes += encodedDataLength;
  });
  return { client, bytes: () => bytes };
}

async function signIn(page: Page, server: RunningServer, who: keyof typeof PEOPLE): Promise<void> {
  await page.goto(`${server.base}/sign-in`);
  await page.getByRole('button', { name: new RegExp(PEOPLE[who]) }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));
}

/** A page of a browser that has nothing in its cache. */
async function freshPage(browser: Browser): Promise<Page> {
  const context = await browser.newContext();
  return context.newPage();
}

async function weighSignIn(browser: Browser, server: RunningServer): Promise<number> {
  const page = await freshPage(browser);
  const { bytes } = await meter(page);
  await page.goto(`${server.base}/sign-in`, { waitUntil: 'networkidle' });
  await page.context().close();
  return bytes();
}

/** A page that somebody with a session opens first, by its address. */
async function weighPage(browser: Browser, server: RunningServer, who: keyof typeof PEOPLE, path: string): Promise<number> {
  const before = await freshPage(browser);
  await signIn(before, server, who);
  const cookies = await before.context().cookies();
  await before.context().close();
  const page = await freshPage(browser);
  await page.context().addCookies(cookies);
  const { bytes } = await meter(page);
  await page.goto(`${server.base}${path}`, { waitUntil: 'networkidle' });
  await page.context().close();
  return bytes();
}

/** From the sign-in page over the desk to a new record's form, everything counted. */
async function weighJourney(browser: Browser, server: RunningServer): Promise<number> {
  const page = await freshPage(browser);
  const { bytes } = await meter(page);
  await signIn(page, server, 'borrower');
  await page.getByRole('link', { name: /Object loan Ask/ }).click();
  await page.locator('#field-borrower').waitFor();
  await page.waitForLoadState('networkidle');
  await page.context().close();
  return bytes();
}

type EditTimes = { readonly task: number; readonly painted: number };

/**
 * What an edit of the plan costs the page at 60 stages and 300 fields: milliseconds of its main thread, all in all, and from
 * the key to the next painted frame (Event Timing, W3C; in steps of 8 ms, and 16 at the least).
 */
async function timeEdits(browser: Browser, server: RunningServer): Promise<EditTimes> {
  const page = await freshPage(browser);
  await signIn(page, server, 'analyst');
  const made = await page.request.post(`${server.base}/api/workflows`, {
    data: realSizeWorkflow(),
    headers: { origin: server.base },
  });
  if (!made.ok()) throw new Error(await made.text());
  await page.goto(`${server.base}/workflows/realSize/plan`);
  await page.getByRole('gridcell').nth(5).click();
  await page.waitForLoadState('networkidle');
  const { client } = await meter(page);
  await client.send('Performance.enable');
  const taskSeconds = async (): Promise<number> => {
    const { metrics } = await client.send('Performance.getMetrics');
    return metrics.find(({ name }) => name === 'TaskDuration')?.value ?? 0;
  };
  await page.keyboard.press('r');
  await page.waitForTimeout(1500);
  const idle = await taskSeconds();
  await page.waitForTimeout(EDITS * PAUSE_MS);
  const before = await taskSeconds();
  await page.evaluate(() => {
    const durations: number[] = [];
    Object.assign(globalThis, { durations });
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) if (entry.name === 'keydown') durations.push(entry.duration);
    }).observe({ type: 'event', durationThreshold: 16 } as PerformanceObserverInit);
  });
  for (let index = 0; index < EDITS; index++) {
    await page.keyboard.press(index % 2 === 0 ? 'o' : 'r');
    await page.waitForTimeout(PAUSE_MS);
  }
  const after = await taskSeconds();
  const durations = await page.evaluate(() => (globalThis as unknown as { durations: number[] }).durations);
  await page.context().close();
  const unseen = Array.from({ length: Math.max(0, EDITS - durations.length) }, () => 16);
  return { task: ((after - before - (before - idle)) * 1000) / EDITS, painted: median([...unseen, ...durations]) };
}

/** What pages weigh over the wire, and what an edit costs their main thread. */
export async function benchInBrowser(): Promise<readonly Figure[]> {
  const server = await RunningServer.make();
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  try {
    const kilo = (what: string, bytes: number, most: number): Figure => ({
      what,
      value: bytes / 1000,
      unit: 'kB',
      bar: { below: most },
    });
    const edits = await timeEdits(browser, server);
    return [
      kilo('sign-in page', await weighSignIn(browser, server), 200),
      kilo(
        'first form of a participant, by its address',
        await weighPage(browser, server, 'borrower', '/begin/objectLoan/request'),
        330,
      ),
      { ...kilo('the same from signing in, over the desk', await weighJourney(browser, server), 0), bar: null },
      kilo('Plan of the demo', await weighPage(browser, server, 'analyst', '/workflows/objectLoan/plan'), 450),
      { what: 'an edit at 60 x 300: key to painted cell', value: edits.painted, unit: 'ms', bar: { below: 50 } },
      { what: 'an edit at 60 x 300: main thread, all in all', value: edits.task, unit: 'ms', bar: null },
    ];
  } finally {
    await browser.close();
    await server.stop();
  }
}
