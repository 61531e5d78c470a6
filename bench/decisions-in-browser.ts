import type { Browser, Page } from '@playwright/test';
import { realSizeWorkflow } from '@ypomet/testkit/real-size';
import type { RunningServer } from '../e2e/running-server.ts';
import { freshPage, p95, pressEach, scrollThrough, signIn, takePainted, watchPainting } from './in-browser-tools.ts';
import { median } from './measure.ts';
import { type Figure, milliseconds } from './report.ts';

const KEYS = 40;
const RULES = 500;
const COLUMNS = 8;

/** The workflow of real size with a table of 500 rules by 8 columns beside it. */
function withTable() {
  const workflow = realSizeWorkflow();
  const inputs = Array.from({ length: COLUMNS - 2 }, (_, index) => ({
    key: `in${index}`,
    name: `Input ${index}`,
    expression: `f${index * 6 + 12}`,
  }));
  const rules = Array.from({ length: RULES }, (_, rule) => ({
    key: `r${rule}`,
    when: Object.fromEntries(inputs.map(({ key }, index) => [key, `[${rule + index}..${rule + index + 10}]`])),
    then: { out: `${rule}`, more: `"word ${rule}"` },
  }));
  const table = {
    key: 'wide',
    name: 'Wide',
    hitPolicy: 'F',
    inputs,
    outputs: [
      { key: 'out', name: 'Out', type: 'number' },
      { key: 'more', name: 'More', type: 'text' },
    ],
    rules,
  };
  return { ...workflow, key: 'decided', decisionTables: [...workflow.decisionTables, table] };
}

/** What conditions, decision tables and the rehearsal cost at 60 stages, 300 fields and 600 conditions: typing waits for nothing. */
export async function timeDecisions(browser: Browser, server: RunningServer): Promise<readonly Figure[]> {
  const page = await freshPage(browser);
  await signIn(page, server, 'analyst');
  const made = await page.request.post(`${server.base}/api/workflows`, { data: withTable(), headers: { origin: server.base } });
  if (!made.ok()) throw new Error(await made.text());
  const figures = [
    ...(await timeRehearsal(page, server)),
    ...(await timeCondition(page, server)),
    ...(await timeTable(page, server)),
  ];
  await page.context().close();
  return figures;
}

async function timeRehearsal(page: Page, server: RunningServer): Promise<readonly Figure[]> {
  await page.goto(`${server.base}/workflows/decided/rehearse`);
  const input = page.getByRole('region', { name: 'Form' }).locator('input[inputmode="decimal"]:not([readonly])').first();
  await input.click();
  await watchPainting(page);
  await pressEach(page, ['1', '2']);
  const { durations } = await pressEach(
    page,
    Array.from({ length: KEYS }, (_, index) => (index % 4 === 3 ? 'Backspace' : String(index % 10))),
  );
  return [
    milliseconds('rehearsal at 60 x 300 x 600: key to form and reasons painted, median', median(durations), 50),
    milliseconds('rehearsal at 60 x 300 x 600: key to form and reasons painted, p95', p95(durations), 50),
  ];
}

async function timeCondition(page: Page, server: RunningServer): Promise<readonly Figure[]> {
  await page.goto(`${server.base}/workflows/decided/decisions?at=handOffs.h1`);
  const row = page.getByRole('complementary', { name: 'The selected branch' });
  await row.getByRole('button', { name: /as (text|outline)/ }).waitFor();
  const opened: number[] = [];
  for (let round = 0; round < 4; round++) {
    const outline = row.getByRole('button', { name: 'as outline' });
    if ((await outline.count()) > 0) await outline.click();
    const start = performance.now();
    await row.getByRole('button', { name: 'as text' }).click();
    await row.locator('.cm-content').waitFor();
    opened.push(performance.now() - start);
  }
  await row.locator('.cm-content').click();
  await page.keyboard.press('Control+End');
  await watchPainting(page);
  await takePainted(page, 0);
  const { durations } = await pressEach(page, [...' and (f12 > 3.5 or f24 < 99) or f4 = "'.slice(0, KEYS)]);
  return [
    milliseconds('a condition as text: the editor opened first', opened[0] ?? 0, null),
    milliseconds('a condition as text: opened again, median', median(opened.slice(1)), null),
    milliseconds('a condition as text: key to faults and sentence painted, p95', p95(durations), 50),
  ];
}

async function timeTable(page: Page, server: RunningServer): Promise<readonly Figure[]> {
  await page.goto(`${server.base}/workflows/decided/decisions?at=decisionTables.wide`);
  const cell = page.getByRole('gridcell').first();
  await cell.waitFor();
  await cell.click();
  await page.waitForTimeout(1500);
  await watchPainting(page);
  const moves = await pressEach(
    page,
    Array.from({ length: KEYS }, () => 'ArrowDown'),
  );
  await page.keyboard.press('5');
  await takePainted(page, 0);
  const typed = await pressEach(
    page,
    Array.from({ length: KEYS / 2 }, (_, index) => (index % 2 === 0 ? '1' : 'Backspace')),
  );
  const kept = await pressEach(page, ['Enter', 'Delete', 'ArrowDown', 'Delete', 'ArrowDown', 'Delete']);
  const gaps = await scrollThrough(page);
  return [
    milliseconds('a table of 500 x 8: arrow key to moved cursor, p95', p95(moves.durations), 50),
    milliseconds('a table of 500 x 8: typing in a cell, p95', p95(typed.durations), 50),
    milliseconds('a table of 500 x 8: a cell kept, to painted, p95', p95(kept.durations), 50),
    milliseconds('a table of 500 x 8: scrolling, between frames, median', median(gaps), null),
  ];
}
