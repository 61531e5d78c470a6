import { mkdtempSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, fillRequest, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const folder = mkdtempSync(path.join(os.tmpdir(), 'ypomet-files-'));
const make = (name: string, contents: Buffer): string => {
  const place = path.join(folder, name);
  writeFileSync(place, contents);
  return place;
};
const pdf = (name: string, bytes: number): string =>
  make(name, Buffer.concat([Buffer.from('%PDF-1.7\n'), Buffer.alloc(bytes - 9, name)]));
/** A picture's beginning, with its sides (RFC 2083, 4.1.1). */
const png = (name: string, width: number, height: number): string => {
  const head = Buffer.alloc(40);
  Buffer.from('89504e470d0a1a0a0000000d49484452', 'hex').copy(head);
  head.writeUInt32BE(width, 16);
  head.writeUInt32BE(height, 20);
  return make(name, head);
};
/** One red point, as PNG. */
const POINT = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR4nGP4z8DwHwAFAAH/iZk9HQAAAABJRU5ErkJggg==',
  'base64',
);

/** A PDF of pages with a line each (ISO 32000-1, 7.5; the cross-reference table is left out, as readers rebuild it). */
const pages = (name: string, lines: readonly string[]): string => {
  const kids = lines.map((_, index) => `${4 + 2 * index} 0 R`).join(' ');
  const objects = [
    '<< /Type /Catalog /Pages 2 0 R >>',
    `<< /Type /Pages /Kids [${kids}] /Count ${lines.length} >>`,
    '<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>',
    ...lines.flatMap((line, index) => {
      const drawn = `BT /F 24 Tf 40 700 Td (${line}) Tj ET`;
      return [
        `<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents ${5 + 2 * index} 0 R /Resources << /Font << /F 3 0 R >> >> >>`,
        `<< /Length ${drawn.length} >>\nstream\n${drawn}\nendstream`,
      ];
    }),
  ];
  const body = objects.map((one, index) => `${index + 1} 0 obj\n${one}\nendobj\n`).join('');
  return make(name, Buffer.from(`%PDF-1.7\n${body}trailer\n<< /Root 1 0 R /Size ${objects.length + 1} >>\n%%EOF\n`));
};

const field = (page: Page) => page.locator('[data-field="facilityReport"]');
const choose = (page: Page, ...files: readonly string[]) =>
  field(page)
    .locator('input[type=file]')
    .setInputFiles([...files]);

async function beginRequest(page: Page): Promise<void> {
  await signInAs(page, server, 'borrower');
  // What an earlier test entered and handed on to nobody.
  await page.request.delete(`${server.base}/api/unfinished/intake.objectLoan.request`, { headers: { origin: server.base } });
  await page.goto(`${server.base}/begin/objectLoan/request`);
  await expect(field(page)).toBeVisible();
}

test('a large file goes on where the connection broke, and tells how far it is', async ({ page }) => {
  await beginRequest(page);
  const offsets: string[] = [];
  let isAway = false;
  await page.route('**/api/uploads/**', async (route) => {
    const request = route.request();
    if (request.method() === 'PATCH') offsets.push(request.headers()['upload-offset'] ?? '');
    // The connection breaks once, in the middle.
    if (request.method() === 'PATCH' && offsets.length === 3 && !isAway) {
      isAway = true;
      return route.abort('connectionreset');
    }
    await new Promise((resolve) => setTimeout(resolve, 300));
    return route.continue();
  });
  await choose(page, pdf('large.pdf', 18_000_000));
  await expect(field(page).getByRole('progressbar', { name: 'large.pdf, sent' })).toBeVisible();
  await expect(field(page).getByText(/of 18\.0 MB$/)).toBeVisible();
  await expectAccessible(page);
  await expect(field(page).getByRole('button', { name: 'Remove large.pdf' })).toBeVisible({ timeout: 30_000 });
  // Nothing that had arrived was sent again: the part that broke off goes on from where the server had it.
  expect(offsets.slice(0, 4)).toEqual(['0', '4000000', '8000000', '8000000']);
  expect(new Set(offsets).size).toBe(5);
});

test('a server that goes away and comes back loses no file that is on its way', async ({ page }) => {
  await beginRequest(page);
  let parts = 0;
  await page.route('**/api/uploads/**', async (route) => {
    parts += 1;
    if (parts === 2) {
      await server.stop('SIGKILL');
      setTimeout(() => void server.start(), 1500);
    }
    await route.continue().catch(() => {});
  });
  await choose(page, pdf('through.pdf', 12_000_000));
  await expect(field(page).getByRole('button', { name: 'Remove through.pdf' })).toBeVisible({ timeout: 45_000 });
});

test('a file that is on its way when the hand-off is pressed goes with it: the press waits, says so, and can be called off', async ({
  page,
}) => {
  await beginRequest(page);
  await fillRequest(page);
  let letGo = (): void => undefined;
  const held = new Promise<void>((resolve) => {
    letGo = resolve;
  });
  await page.route('**/api/uploads/**', async (route) => {
    await held;
    await route.continue();
  });
  await choose(page, pdf('late.pdf', 12_000_000));
  await expect(field(page).getByText('0 bytes of 12.0 MB')).toBeVisible();
  let handedOn = 0;
  page.on('request', (request) => {
    if (request.method() === 'POST' && request.url().endsWith('/api/intakes/objectLoan/records')) handedOn += 1;
  });
  const submit = page.getByRole('button', { name: 'Submit request', exact: true });
  await submit.press('Enter');
  const waits = page.getByText(/^One file is still on the way/);
  await expect(waits).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Don’t wait' }).press('Enter');
  await expect(waits).toBeHidden();
  await submit.press('Enter');
  await expect(waits).toBeVisible();
  expect(handedOn).toBe(0);
  letGo();
  await expect.poll(() => handedOn).toBe(1);
  await expect(page.getByText(/L-\d{4}-\d{4}/).first()).toBeVisible();
  const { entries } = await (await page.request.get(`${server.base}/api/submitted`)).json();
  const shown = await (await page.request.get(`${server.base}/api/records/${entries[0].record.id}/shown`)).json();
  expect(JSON.stringify(shown.values.facilityReport)).toContain('late.pdf');
});

test('what can’t be taken is refused by name, and one that is let go is gone', async ({ page }) => {
  await beginRequest(page);
  const many = Array.from({ length: 200 }, (_, index) => pdf(`rooms-${index}.pdf`, 100));
  await page.route('**/api/uploads', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 700));
    await route.continue();
  });
  await choose(page, ...many);
  await expect(field(page).getByRole('alert')).toContainText('Only 5 more fit here: the other 195 were not taken.');
  await field(page).getByRole('button', { name: 'Don’t send rooms-4.pdf' }).click();
  await expect(field(page).getByRole('button', { name: /^Remove rooms-/ })).toHaveCount(4);
  await choose(page, png('really-a-picture.pdf', 10, 10));
  await expect(field(page).getByRole('alert').filter({ hasText: 'holds image/png' })).toContainText(
    'Give it a name that says what it holds.',
  );
  await field(page).getByRole('button', { name: 'Don’t send really-a-picture.pdf' }).click();
  await expect(field(page).getByText('really-a-picture.pdf')).toHaveCount(0);
});

test('a picture is looked at; one of 30,000 points a side isn’t unpacked', async ({ page }) => {
  await beginRequest(page);
  await fillRequest(page);
  await choose(page, make('point.png', POINT), png('huge.png', 30_000, 30_000));
  await expect(field(page).getByRole('button', { name: /^Remove/ })).toHaveCount(2);
  await page.getByRole('button', { name: 'Submit request' }).click();
  await page.getByRole('link', { name: 'Look at the record' }).click();
  await page.getByRole('button', { name: 'Look at point.png' }).click();
  const shown = page.getByRole('dialog', { name: 'point.png' });
  await expect(shown.getByRole('img', { name: 'point.png' })).toBeVisible();
  expect(await shown.getByRole('img', { name: 'point.png' }).evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(1);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Look at huge.png' }).click();
  await expect(page.getByRole('dialog')).toContainText('A picture of 900 million points isn’t shown here');
  await expectAccessible(page);
});

test('a PDF is looked at page by page, and read to who doesn’t see it; a damaged one says so', async ({ page }) => {
  await beginRequest(page);
  await fillRequest(page);
  await choose(page, pages('report.pdf', ['Climate of room 12', 'Guards at night']), pdf('damaged.pdf', 4000));
  await expect(field(page).getByRole('button', { name: /^Remove/ })).toHaveCount(2);
  await page.getByRole('button', { name: 'Submit request' }).click();
  await page.getByRole('link', { name: 'Look at the record' }).click();
  await page.getByRole('button', { name: 'Look at report.pdf' }).click();
  const shown = page.getByRole('dialog', { name: 'report.pdf' });
  const drawn = shown.getByRole('img', { name: 'report.pdf, page 1' });
  await expect(shown.getByText('Climate of room 12')).toBeAttached();
  const isInked = (canvas: HTMLCanvasElement): boolean =>
    canvas
      .getContext('2d')
      ?.getImageData(0, 0, canvas.width, canvas.height)
      .data.some((part, at) => at % 4 === 0 && part < 100) ?? false;
  expect(await drawn.evaluate(isInked)).toBe(true);
  await expectAccessible(page);
  await shown.getByRole('button', { name: 'Next page' }).click();
  await expect(shown.getByRole('status')).toHaveText('Page 2 of 2');
  await expect(shown.getByText('Guards at night')).toBeAttached();
  await expect(shown.getByRole('button', { name: 'Next page' })).toBeDisabled();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Look at damaged.pdf' }).click();
  await expect(page.getByRole('dialog')).toContainText('This PDF can’t be read: save it to look at it.');
});
