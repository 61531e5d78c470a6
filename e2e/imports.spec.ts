import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { expectAccessible, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;
test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const HEAD = 'Borrower,Borrower e-mail,Kind of loan,Venue country,From,To,Title,Material,Insured value,Remark';

/** Loans in a sheet: of the thousand, three have a cell that means nothing and four lack their borrower. */
function sheetOf(count: number): string {
  const lines = Array.from({ length: count }, (_, index) => {
    const isNameless = index % 250 === 17;
    const value = index % 400 === 30 ? 'priceless' : String(index + 1);
    return `${isNameless ? '' : `=Gallery ${index}`},g${index}@gallery.invalid,Exhibition,Home,2027-03-02,2027-06-11,Study ${index},Metal,${value},x`;
  });
  return [HEAD, ...lines, ',,,,,,One more object,Glass,50,'].join('\n');
}

test('a thousand rows with seven wrong ones are tried out and begun; the seven are told', async ({ page }) => {
  await signInAs(page, server, 'borrower');
  await page.goto(`${server.base}/begin/objectLoan/request`);
  await page.getByRole('link', { name: 'many at once, from a sheet' }).click();
  await expect(page.getByRole('heading', { name: 'Object loan: many at once, from a sheet' })).toBeVisible();
  const file = { name: 'loans.csv', mimeType: 'text/csv', buffer: Buffer.from(sheetOf(1000)) };
  await page.locator('input[type=file]').setInputFiles(file);
  await expect(page.getByText('1001 lines make 1000 records; in 3 of them a cell can’t be read as its field')).toBeVisible();
  await expect(page.getByRole('combobox', { name: 'Material fills' })).toHaveValue('Objects: Material');
  await expect(page.getByRole('combobox', { name: 'Remark fills' })).toHaveValue('');
  await expectAccessible(page);

  await page.getByRole('button', { name: 'Try it out' }).click();
  await expect(page.getByText('993 records would begin, 7 wouldn’t.')).toBeVisible({ timeout: 60_000 });
  const outcome = page.getByRole('region', { name: 'What comes of it' });
  await expect(outcome).toContainText('993 would go to Registrar check');
  await expect(outcome).toContainText('Objects: Insured value: “priceless” is not a number. lines 32, 432, 832');
  await expect(outcome).toContainText('lines 19, 269, 519, 769');
  const saved = page.waitForEvent('download');
  await outcome.getByRole('button', { name: 'Save their lines with the reasons (CSV)' }).click();
  const text = readFileSync(await (await saved).path(), 'utf8');
  expect(text.trim().split('\n')).toHaveLength(8);
  // A cell is never taken for a formula.
  expect(text).toContain("'=Gallery 30");

  await page.getByRole('button', { name: 'Begin 993 records' }).click();
  await expect(page.getByText('993 records were begun, 7 weren’t.')).toBeVisible({ timeout: 120_000 });
  await expectAccessible(page);
  await signInAs(page, server, 'registrar');
  await page.goto(`${server.base}/registers/objectLoan?find=Gallery%20999`);
  await page.getByRole('gridcell', { name: '=Gallery 999' }).or(page.getByText('=Gallery 999')).first().click();
});

test('an import is cancelled, and gone on with: nothing is begun twice', async ({ page }) => {
  await signInAs(page, server, 'borrower');
  await page.goto(`${server.base}/begin/objectLoan/request/many`);
  const file = { name: 'loans.csv', mimeType: 'text/csv', buffer: Buffer.from(sheetOf(600)) };
  await page.locator('input[type=file]').setInputFiles(file);
  await page.getByRole('combobox', { name: 'Mails they come to' }).click();
  await page.getByRole('option', { name: 'are not sent' }).click();
  await expect(page.getByText('The same holds for records that they open.')).toBeVisible();
  await page.getByRole('button', { name: 'Try it out' }).click();
  await page.getByRole('button', { name: /^Begin \d+ records$/ }).click({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText('It was cancelled')).toBeVisible();
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.getByText(/^595 records were begun, 5 weren’t\.$/)).toBeVisible({ timeout: 60_000 });
  const { entries } = await (await page.request.get(`${server.base}/api/submitted?limit=200`)).json();
  const numbers = entries.map(({ record }: { record: { number: string } }) => record.number);
  expect(new Set(numbers).size).toBe(numbers.length);
  // What wasn't sent is told where the record tells what was, to those of the house.
  await signInAs(page, server, 'registrar');
  await page.goto(`${server.base}/records/${entries[0].record.id}`);
  await expect(page.getByText('put away, not sent').first()).toBeVisible();
});

test('a file that can’t be read says why', async ({ page }) => {
  await signInAs(page, server, 'borrower');
  await page.goto(`${server.base}/begin/objectLoan/request/many`);
  for (const [name, content, why] of [
    ['a.csv', 'Borrower\n', 'There are no lines under the one that names the columns.'],
    ['a.xlsx', 'no sheet', 'It can’t be read as a sheet.'],
  ] as const) {
    await page.locator('input[type=file]').setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(content) });
    await expect(page.getByRole('alert')).toContainText(why);
  }
});

test('a workbook that was exported is read as it was written', async ({ page }) => {
  await signInAs(page, server, 'director');
  const query = 'format=xlsx&columns=borrower,kind,fromDate,totalValue&sort=totalValue&direction=down';
  const exported = await page.request.get(`${server.base}/api/registers/objectLoan/export?${query}`);
  await page.goto(`${server.base}/begin/objectLoan/request/many`);
  const mimeType = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';
  await page.locator('input[type=file]').setInputFiles({ name: 'loans.xlsx', mimeType, buffer: await exported.body() });
  const inIt = (column: string) => page.getByRole('row', { name: new RegExp(`^${column} `) });
  await expect(inIt('Borrower')).toContainText('Hollen Street Gallery');
  await expect(inIt('From')).toContainText('2027-03-12');
  await expect(inIt('Total value')).toContainText('62400');
  await expect(page.getByLabel('Kind of loan fills').first()).toHaveValue('Kind of loan');
  // Its numbers are numbers: there is nothing to choose.
  await expect(page.getByLabel('Numbers are written like')).toHaveCount(0);
});
