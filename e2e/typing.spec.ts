import { expect, type Page, test } from '@playwright/test';
import { makeNumbers } from '@ypomet/testkit/real-size';
import { pasteText, publishWorkflow, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';
import { PLACE_TYPES, type Place, type PlaceType, Typist } from './typist.ts';

// Types into large forms at random, with reloads, closed windows and lost connections in between, and then compares what the record
// stores with what was typed. To run longer, or with another seed:
// `YPOMET_TYPING_MINUTES=20 YPOMET_TYPING_SEED=7 npx playwright test typing`.
const MINUTES = Number(process.env.YPOMET_TYPING_MINUTES ?? 0);
const SEED = Number(process.env.YPOMET_TYPING_SEED ?? 20261202);
const LOCALES = ['en-GB', 'de-AT'] as const;
/** Number of random actions before a form is handed on. */
const ACTS = 40;
const FIELDS = 300;
const ROWS = 60;
/** Rows on the first page of a table: the test types into these. */
const ROWS_SHOWN = 30;

const typed = (type: PlaceType, key: string): object => ({
  type,
  key,
  name: `${type} ${key}`,
  ...(type === 'number' ? { scale: 2 } : type === 'money' ? { currency: 'EUR' } : {}),
});
const typeAt = (index: number): PlaceType => PLACE_TYPES[index % PLACE_TYPES.length] as PlaceType;
const COLUMNS = PLACE_TYPES.map((type, index) => typed(type, `c${index}`));

/** Returns a workflow whose only form asks for the given fields. */
const formOf = (key: string, fields: readonly object[]) => ({
  format: 'ypomet.workflow/1',
  key,
  name: `Typing: ${key}`,
  sections: [{ key: 'all', name: 'Everything' }],
  fields: fields.map((field) => ({ section: 'all', treatment: 'optional', ...field })),
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [{ key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'done' } }],
});
const WIDE = formOf(
  'wideForm',
  Array.from({ length: FIELDS }, (_, index) => typed(typeAt(index), `f${index}`)),
);
const TALL = formOf('tallForm', [{ type: 'table', key: 'lines', name: 'Lines', fields: COLUMNS }]);

let server: RunningServer;

test.beforeAll(async ({ browser }) => {
  server = await RunningServer.make();
  const page = await browser.newPage();
  await signInAs(page, server, 'analyst');
  for (const workflow of [WIDE, TALL]) await publishWorkflow(page, server, workflow);
  await page.close();
});
test.afterAll(() => server.stop());

/** Returns a value in the form in which stored and typed values are compared: numbers without trailing zeros, times without `:00` seconds. */
function compared(stored: unknown): string | null {
  if (typeof stored !== 'string') return null;
  if (/^-?[\d.]+$/.test(stored)) return String(Number(stored));
  return /^\d\d:\d\d:00$/.test(stored) ? stored.slice(0, 5) : stored;
}

/** Expects that the value stored for an input is the one that was typed there. */
function expectStored(stored: unknown, id: string, typist: Typist): void {
  expect(compared(stored), typist.told(id)).toBe(compared(typist.meant.get(id)?.meant ?? null));
}

/** Hands the form on, and returns what the record then holds. */
async function send(page: Page): Promise<Readonly<Record<string, unknown>>> {
  const answer = page.waitForResponse((one) => one.request().method() === 'POST' && /\/records$/.test(one.url()));
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  const { record } = (await (await answer).json()) as { record: { id: string } };
  return server.valuesOf(record.id);
}

for (const locale of LOCALES) {
  test.describe(`with the forms of ${locale}`, () => {
    test.setTimeout((MINUTES * 4 + 5) * 60_000);
    test.beforeAll(async () => {
      await server.stop();
      await server.query(`update workspace set locale = '${locale}'`);
      await server.start();
    });

    test(`a form of ${FIELDS} fields holds what was meant, after reloads, closed windows and lost connections`, async ({
      context,
    }) => {
      let page = await context.newPage();
      await signInAs(page, server, 'borrower');
      const places: Place[] = Array.from({ length: FIELDS }, (_, index) => ({ id: `field-f${index}`, type: typeAt(index) }));
      const until = Date.now() + MINUTES * 60_000;
      for (let round = 0; round === 0 || Date.now() < until; round++) {
        const address = `${server.base}/begin/wideForm/ask`;
        const typist = new Typist(page, address, locale, places, makeNumbers(SEED + round));
        await page.goto(address);
        await typist.untilThere();
        for (let act = 0; act < ACTS; act++) page = await typist.act();
        await typist.check();
        await typist.mend();
        const values = await send(page);
        for (const { id } of places) expectStored(values[id.slice('field-'.length)], id, typist);
      }
    });

    test(`a table of ${ROWS} rows holds what was meant, after reloads, closed windows and lost connections`, async ({
      context,
    }) => {
      let page = await context.newPage();
      await signInAs(page, server, 'borrower');
      const until = Date.now() + MINUTES * 60_000;
      const address = `${server.base}/begin/tallForm/ask`;
      for (let round = 0; round === 0 || Date.now() < until; round++) {
        await page.goto(address);
        await page.getByRole('button', { name: 'Add a row' }).click();
        await page.getByLabel(/^text c0, row 1\b/).focus();
        const lines = Array.from({ length: ROWS }, (_, index) => `Line ${index + 1}\t`).join('\n');
        await pasteText(page, lines);
        await expect(page.getByLabel(/^text c0, row 30\b/)).toHaveValue('Line 30');
        const cells = await page.locator('td[data-row]:has(input[id], textarea[id])').evaluateAll((all) =>
          all.map((cell) => ({
            id: cell.querySelector('input[id], textarea[id]')?.id ?? '',
            row: cell.getAttribute('data-row') ?? '',
          })),
        );
        const places: Place[] = cells.map(({ id }, index) => ({ id, type: typeAt(index) }));
        const typist = new Typist(page, address, locale, places, makeNumbers(SEED + round));
        for (const [index, { id }] of places.entries()) {
          const text = `Line ${index / COLUMNS.length + 1}`;
          if (index % COLUMNS.length === 0) typist.meant.set(id, { text, meant: text });
        }
        for (let act = 0; act < ACTS; act++) page = await typist.act();
        await typist.check();
        await typist.mend();
        const { lines: rows } = (await send(page)) as { lines: readonly { id: string; values: Record<string, unknown> }[] };
        for (const [index, { id }] of places.entries()) {
          const row = rows.find((one) => one.id === cells[index]?.row);
          expectStored(row?.values[`c${index % COLUMNS.length}`], id, typist);
        }
        // Rows whose cells are all empty aren't stored.
        const kept = new Set(places.flatMap(({ id }, index) => (typist.meant.has(id) ? [cells[index]?.row] : [])));
        expect(rows.length).toBe(ROWS - ROWS_SHOWN + kept.size);
      }
    });
  });
}
