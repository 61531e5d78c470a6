import { expect, type Page, test } from '@playwright/test';
import { makeNumbers } from '@ypomet/testkit/real-size';
import { signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';
import { PLACE_TYPES, type Place, type PlaceType, Typist } from './typist.ts';

// Forms of real size, typed into at random: with reloads, closed windows and lost connections between. Whatever was meant is stored,
// and nothing else. Longer, or with another seed: `YPOMET_TYPING_MINUTES=20 YPOMET_TYPING_SEED=7 npx playwright test typing`.
const MINUTES = Number(process.env.YPOMET_TYPING_MINUTES ?? 0);
const SEED = Number(process.env.YPOMET_TYPING_SEED ?? 20261202);
const LOCALES = ['en-GB', 'de-AT'] as const;
/** Things done before a record is handed on. */
const ACTS = 40;
const FIELDS = 300;
const ROWS = 60;
/** Rows come by so many. */
const ROWS_SHOWN = 30;

const typed = (type: PlaceType, key: string): object => ({
  type,
  key,
  name: `${type} ${key}`,
  ...(type === 'number' ? { scale: 2 } : type === 'money' ? { currency: 'EUR' } : {}),
});
const typeAt = (index: number): PlaceType => PLACE_TYPES[index % PLACE_TYPES.length] as PlaceType;
const COLUMNS = PLACE_TYPES.map((type, index) => typed(type, `c${index}`));

/** A workflow of one form that asks for the fields. */
const formOf = (key: string, fields: readonly object[]): object => ({
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

async function publish(page: Page, workflow: object): Promise<void> {
  const headers = { origin: server.base };
  const created = await page.request.post(`${server.base}/api/workflows`, { headers, data: workflow });
  expect(created.status(), await created.text()).toBe(201);
  const { key } = workflow as { key: string };
  const send = (accepted: readonly object[]) =>
    page.request.post(`${server.base}/api/workflows/${key}/versions`, {
      headers: { ...headers, 'if-match': '"1"' },
      data: { accepted },
    });
  const first = await send([]);
  if (first.ok()) return;
  const { details } = (await first.json()) as { details: readonly { path: string; code: string }[] };
  const second = await send(details.map(({ path, code }) => ({ path, code, reason: 'For a test.' })));
  expect(second.status(), await second.text()).toBe(201);
}

test.beforeAll(async ({ browser }) => {
  server = await RunningServer.make();
  const page = await browser.newPage();
  await signInAs(page, server, 'analyst');
  for (const workflow of [WIDE, TALL]) await publish(page, workflow);
  await page.close();
});
test.afterAll(() => server.stop());

/** A stored value as it is compared: numbers by their amount, times without the seconds that nobody typed. */
function compared(stored: unknown): string | null {
  if (typeof stored !== 'string') return null;
  if (/^-?[\d.]+$/.test(stored)) return String(Number(stored));
  return /^\d\d:\d\d:00$/.test(stored) ? stored.slice(0, 5) : stored;
}

/** Holds what is stored for one input against what was meant there. */
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
        await page.evaluate((text) => {
          const clipboardData = new DataTransfer();
          clipboardData.setData('text/plain', text);
          document.activeElement?.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
        }, lines);
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
        // A row in which nothing is left is none.
        const kept = new Set(places.flatMap(({ id }, index) => (typist.meant.has(id) ? [cells[index]?.row] : [])));
        expect(rows.length).toBe(ROWS - ROWS_SHOWN + kept.size);
      }
    });
  });
}
