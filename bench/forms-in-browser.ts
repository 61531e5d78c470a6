import type { Browser } from '@playwright/test';
import { realSizeWorkflow } from '@ypomet/testkit/real-size';
import type { RunningServer } from '../e2e/running-server.ts';
import { freshPage, p95, pressEach, signIn, takePainted, watchPainting } from './in-browser-tools.ts';
import { median } from './measure.ts';
import { type Figure, milliseconds } from './report.ts';

const KEY = 'filledIn';
const ROUNDS = 5;
const KEYS = Array.from({ length: 30 }, (_, index) => String(index % 10));
const ROWS = 500;

/** A participant's form of 300 fields, and a table of 500 rows in it: to open, to type in, to paste into. */
export async function timeForms(browser: Browser, server: RunningServer): Promise<readonly Figure[]> {
  const page = await freshPage(browser);
  await signIn(page, server, 'analyst');
  const made = realSizeWorkflow();
  const intake = made.stages.find(({ kind }) => kind === 'intake')?.key ?? '';
  const isComputed = (field: object): boolean => 'expression' in field && field.expression !== null;
  const plan = Object.fromEntries(
    made.fields.map((field) => [
      field.key,
      { ...made.plan[field.key], [intake]: isComputed(field) ? 'read-only' : 'optional' } as const,
    ]),
  );
  const headers = { origin: server.base };
  const draft = await page.request.post(`${server.base}/api/workflows`, {
    data: { ...made, key: KEY, name: 'Filled in', plan },
    headers,
  });
  if (!draft.ok()) throw new Error(await draft.text());
  const publish = (accepted: readonly object[]) =>
    page.request.post(`${server.base}/api/workflows/${KEY}/versions`, {
      data: { accepted },
      headers: { ...headers, 'if-match': '"1"' },
    });
  const { details = [] } = (await (await publish([])).json()) as { details?: readonly { code: string; path: string }[] };
  const published = await publish(details.map(({ code, path }) => ({ code, path, reason: 'Measured.' })));
  if (!published.ok()) throw new Error(await published.text());
  const opened: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    await page.goto(`${server.base}/begin/${KEY}/${intake}`);
    await page.locator('#field-f1').waitFor();
    opened.push(await page.evaluate(() => performance.now()));
  }
  await page.locator('#field-f289').waitFor({ state: 'attached' });
  await page.waitForTimeout(2000);
  await watchPainting(page);
  await page.locator('#field-f1').click();
  await takePainted(page, 0);
  const typed = await pressEach(page, KEYS);
  const table = page.locator('[data-field="t0"]');
  await table.getByRole('button', { name: 'Add a row' }).click();
  const lines = Array.from({ length: ROWS }, (_, index) =>
    [index, `Text ${index}`, 'Option 1', 'yes', '2027-03-12', index].join('\t'),
  );
  await table.getByLabel(/^Cell 0, row 1\b/).click();
  const start = performance.now();
  await page.evaluate((text) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', text);
    document.activeElement?.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
  }, lines.join('\n'));
  await table.getByText(/^Rows 1 to \d+ of \d{3}$/).waitFor();
  const pasted = performance.now() - start;
  await page.waitForTimeout(3000);
  await table.getByLabel(/^Cell 1, row 2\b/).click();
  await takePainted(page, 0);
  const inRows = await pressEach(page, KEYS);
  await page.context().close();
  return [
    milliseconds('a form of 300 fields: open to first input, median', median(opened), 1500),
    milliseconds('a key in a form of 300 fields, p95', p95(typed.durations), 50),
    milliseconds(`${ROWS} rows pasted: until they are there`, pasted, null),
    milliseconds(`a key in a table of ${ROWS} rows, p95`, p95(inRows.durations), null),
  ];
}
