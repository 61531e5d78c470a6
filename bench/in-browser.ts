import { type Browser, type CDPSession, chromium, type Page } from '@playwright/test';
import { realSizeWorkflow } from '@ypomet/testkit/real-size';
import { RunningServer } from '../e2e/running-server.ts';
import { median } from './measure.ts';
import type { Figure } from './report.ts';

const PEOPLE = { analyst: 'Ines Halvard', borrower: 'Beryl Quist' } as const;
const EDITS = 40;
const PAUSE_MS = 200;
const SETTLE_MS = 1500;

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
async function weighPage(
  browser: Browser,
  server: RunningServer,
  who: keyof typeof PEOPLE,
  path: string,
  /** What is there once the page is. */
  shown: string,
): Promise<number> {
  const before = await freshPage(browser);
  await signIn(before, server, who);
  const cookies = await before.context().cookies();
  await before.context().close();
  const page = await freshPage(browser);
  await page.context().addCookies(cookies);
  const { bytes } = await meter(page);
  await page.goto(`${server.base}${path}`);
  await page.locator(shown).first().waitFor();
  // Draft pages keep a connection open, so that there is no moment at which nothing is under way.
  await page.waitForTimeout(SETTLE_MS);
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

/** The value that 95 of a hundred don't exceed. */
const p95 = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[Math.ceil(values.length * 0.95) - 1] ?? 0;

type Painted = { readonly durations: number[]; readonly long: number[] };

/** Notes how long keys take until they are painted (Event Timing, W3C; in steps of 8 ms, and 16 at the least), and long tasks. */
const watchPainting = (page: Page): Promise<void> =>
  page.evaluate(() => {
    const painted: Painted = { durations: [], long: [] };
    Object.assign(globalThis, { painted });
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) if (entry.name === 'keydown') painted.durations.push(entry.duration);
    }).observe({ type: 'event', durationThreshold: 16 } as PerformanceObserverInit);
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) painted.long.push(entry.duration);
    }).observe({ type: 'longtask' });
  });

/** What was noted since the last look. Keys that took less than a frame aren't told of: they count as one. */
async function takePainted(page: Page, keys: number): Promise<Painted> {
  const { durations, long } = await page.evaluate(() => {
    const { painted } = globalThis as unknown as { painted: Painted };
    const taken = { durations: [...painted.durations], long: [...painted.long] };
    painted.durations.length = 0;
    painted.long.length = 0;
    return taken;
  });
  return { durations: [...durations, ...Array.from({ length: Math.max(0, keys - durations.length) }, () => 16)], long };
}

async function pressEach(page: Page, keys: readonly string[]): Promise<Painted> {
  for (const key of keys) {
    await page.keyboard.press(key);
    await page.waitForTimeout(PAUSE_MS);
  }
  return takePainted(page, keys.length);
}

/** Milliseconds between the frames that are drawn while the plan is scrolled through. */
const scrollThrough = (page: Page): Promise<readonly number[]> =>
  page.evaluate(async () => {
    const scroller = [...document.querySelectorAll<HTMLElement>('*')].find(
      (element) => element.scrollHeight > element.clientHeight + 500 && getComputedStyle(element).overflowY === 'auto',
    );
    const gaps: number[] = [];
    let last = performance.now();
    for (let frame = 0; frame < 120; frame++) {
      if (scroller) scroller.scrollTop += 40;
      if (scroller && frame % 3 === 0) scroller.scrollLeft += 25;
      await new Promise((resolve) => requestAnimationFrame(resolve));
      const now = performance.now();
      gaps.push(now - last);
      last = now;
    }
    return gaps;
  });

/** What the Plan costs at 60 stages and 300 fields: to open, to move and to edit in, to scroll. */
async function timePlan(browser: Browser, server: RunningServer): Promise<readonly Figure[]> {
  const page = await freshPage(browser);
  await signIn(page, server, 'analyst');
  const made = await page.request.post(`${server.base}/api/workflows`, {
    data: realSizeWorkflow(),
    headers: { origin: server.base },
  });
  if (!made.ok()) throw new Error(await made.text());
  const opened: number[] = [];
  for (let round = 0; round < 5; round++) {
    await page.goto(`${server.base}/workflows/realSize/plan`);
    await page.getByRole('gridcell').first().waitFor();
    opened.push(await page.evaluate(() => performance.now()));
  }
  const elements = await page.evaluate(() => document.querySelectorAll('*').length);
  await page.getByRole('gridcell').nth(5).click();
  await page.waitForTimeout(3000);
  const { client } = await meter(page);
  await client.send('Performance.enable');
  const taskSeconds = async (): Promise<number> => {
    const { metrics } = await client.send('Performance.getMetrics');
    return metrics.find(({ name }) => name === 'TaskDuration')?.value ?? 0;
  };
  await watchPainting(page);
  const letters = Array.from({ length: EDITS }, (_, index) => (index % 2 === 0 ? 'o' : 'r'));
  await page.keyboard.press('r');
  await page.waitForTimeout(1500);
  await takePainted(page, 0);
  const idle = await taskSeconds();
  await page.waitForTimeout(EDITS * PAUSE_MS);
  const before = await taskSeconds();
  const edits = await pressEach(page, letters);
  const after = await taskSeconds();
  const moves = await pressEach(
    page,
    Array.from({ length: EDITS }, (_, index) => (index % 2 === 0 ? 'ArrowDown' : 'ArrowRight')),
  );
  const start = performance.now();
  await page.keyboard.press('n');
  await page.getByRole('status').getByText('Kept', { exact: true }).waitFor();
  const kept = performance.now() - start;
  const gaps = await scrollThrough(page);
  await page.context().close();
  const ms = (what: string, value: number, below: number | null): Figure => ({
    what,
    value,
    unit: 'ms',
    bar: below === null ? null : { below },
  });
  return [
    ms('Plan of 60 x 300: open to first cell, median', median(opened), 1500),
    { what: 'Plan of 60 x 300: elements', value: elements, unit: '', bar: { below: 6000 } },
    ms('an edit at 60 x 300: key to painted cell, median', median(edits.durations), 50),
    ms('an edit at 60 x 300: key to painted cell, p95', p95(edits.durations), 50),
    ms('an edit at 60 x 300: longest task of the main thread', Math.max(0, ...edits.long), null),
    ms('an edit at 60 x 300: main thread, all in all', ((after - before - (before - idle)) * 1000) / EDITS, null),
    ms('an edit at 60 x 300: key to kept', kept, null),
    ms('an arrow key at 60 x 300: to moved cursor, p95', p95(moves.durations), 50),
    ms('scrolling at 60 x 300: between frames, median', median(gaps), null),
    ms('scrolling at 60 x 300: between frames, p95', p95(gaps), null),
  ];
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
    const plan = await timePlan(browser, server);
    return [
      kilo('sign-in page', await weighSignIn(browser, server), 200),
      kilo(
        'first form of a participant, by its address',
        await weighPage(browser, server, 'borrower', '/begin/objectLoan/request', '#field-borrower'),
        330,
      ),
      { ...kilo('the same from signing in, over the desk', await weighJourney(browser, server), 0), bar: null },
      kilo('Plan of the demo', await weighPage(browser, server, 'analyst', '/workflows/objectLoan/plan', '[role=gridcell]'), 450),
      ...plan,
    ];
  } finally {
    await browser.close();
    await server.stop();
  }
}
