import { type Browser, type CDPSession, chromium, type Page } from '@playwright/test';
import { realSizeWorkflow } from '@ypomet/testkit/real-size';
import { RunningServer } from '../e2e/running-server.ts';
import { timeDecisions } from './decisions-in-browser.ts';
import { timeForms } from './forms-in-browser.ts';
import {
  drag,
  freshPage,
  PAUSE_MS,
  p95,
  pressEach,
  scrollThrough,
  signIn,
  takePainted,
  timeFaults,
  watchFaults,
  watchPainting,
} from './in-browser-tools.ts';
import { median } from './measure.ts';
import { type Figure, milliseconds } from './report.ts';

const EDITS = 40;
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
  who: 'analyst' | 'borrower',
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

/** What the Plan costs at 60 stages and 300 fields: to open, to move and to edit in, to scroll. */
export async function timePlan(browser: Browser, server: RunningServer): Promise<readonly Figure[]> {
  const page = await freshPage(browser);
  await watchFaults(page);
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
  await page.waitForTimeout(PAUSE_MS * 5);
  const faults = await timeFaults(page, letters.slice(0, 20));
  const gaps = await scrollThrough(page);
  const dragged = await drag(page, '[data-stage-name]', { x: 480, y: 0 });
  await page.context().close();
  return [
    milliseconds('Plan of 60 x 300: open to first cell, median', median(opened), 1500),
    { what: 'Plan of 60 x 300: elements', value: elements, unit: '', bar: { below: 6000 } },
    milliseconds('an edit at 60 x 300: key to painted cell, median', median(edits.durations), 50),
    milliseconds('an edit at 60 x 300: key to painted cell, p95', p95(edits.durations), 50),
    milliseconds('an edit at 60 x 300: longest task of the main thread', Math.max(0, ...edits.long), null),
    milliseconds('an edit at 60 x 300: main thread, all in all', ((after - before - (before - idle)) * 1000) / EDITS, null),
    milliseconds('an edit at 60 x 300: key to kept', kept, null),
    milliseconds('an edit at 60 x 300: key to faults told, median', median(faults), null),
    milliseconds('an edit at 60 x 300: key to faults told, p95', p95(faults), null),
    milliseconds('an arrow key at 60 x 300: to moved cursor, p95', p95(moves.durations), 50),
    milliseconds('scrolling at 60 x 300: between frames, median', median(gaps), null),
    milliseconds('scrolling at 60 x 300: between frames, p95', p95(gaps), null),
    milliseconds('dragging a stage at 60 x 300: between frames, median', median(dragged.gaps), null),
    milliseconds('dragging a stage at 60 x 300: between frames, p95', p95(dragged.gaps), null),
    milliseconds('dragging a stage at 60 x 300: let go to painted', Math.max(16, ...dragged.drops), null),
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
    const decisions = await timeDecisions(browser, server);
    const forms = await timeForms(browser, server);
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
      ...decisions,
      ...forms,
    ];
  } finally {
    await browser.close();
    await server.stop();
  }
}
