import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, signInAs, writeExpression } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make({ hasHistory: true });
});
test.afterAll(() => server.stop());

const rows = (page: Page) => page.getByRole('region', { name: 'Records' }).getByRole('row');
const records = (page: Page) =>
  page
    .getByLabel('Totals')
    .getByText(/^\d[\d,]*$/)
    .first();

test('many records are found, ordered, laid out, kept as a view and taken away as a file', async ({ page }) => {
  await signInAs(page, server, 'director');
  await page.getByRole('link', { name: 'Registers' }).click();
  await expect(page.getByRole('heading', { name: 'Object loan' })).toBeVisible();
  await expect(records(page)).toHaveText('324');
  await expectAccessible(page);

  await test.step('filtered with the editor that designs conditions', async () => {
    await page.getByRole('button', { name: 'Filter', exact: true }).click();
    const filter = page.getByRole('region', { name: 'Filter' });
    await filter.getByRole('button', { name: 'as text' }).click();
    await writeExpression(page, 'record.stage = "onLoan" and totalValue > 20000');
    await expect(page).toHaveURL(/filter=/);
    await expect(records(page)).not.toHaveText('324');
    await filter.getByRole('button', { name: 'as outline' }).click();
    await expect(filter).toContainText('Record’s stage is On loan and Total value is above €20,000.00');
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Filter', exact: true }).click();
    await expect(page.getByText('Record’s stage is On loan and Total value is above €20,000.00')).toBeVisible();
  });

  await test.step('ordered by a heading, by the keyboard', async () => {
    await page.getByRole('button', { name: 'Total value' }).focus();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('columnheader', { name: 'Total value' })).toHaveAttribute('aria-sort', 'ascending');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('columnheader', { name: 'Total value' })).toHaveAttribute('aria-sort', 'descending');
  });

  await test.step('with other columns, kept as a view that others have too', async () => {
    await page.getByRole('button', { name: 'Columns' }).click();
    await page.getByRole('checkbox', { name: 'Insurance class' }).click();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('columnheader', { name: 'Class' })).toBeVisible();
    await page.getByRole('button', { name: 'Views' }).click();
    await page.getByRole('textbox', { name: 'Keep what is shown now as' }).fill('Dear works abroad');
    await page.getByRole('checkbox', { name: 'for all who see this register' }).check();
    await page.getByRole('button', { name: 'Keep', exact: true }).click();
    await expect(page.getByLabel('Views').getByText('yours, shared')).toBeVisible();
    await page.keyboard.press('Escape');
  });

  await test.step('taken away as it is shown', async () => {
    const count = await records(page).textContent();
    await page.getByRole('button', { name: 'Export' }).click();
    const waiting = page.waitForEvent('download');
    await page.getByRole('menuitem', { name: 'CSV' }).click();
    const text = readFileSync(await (await waiting).path(), 'utf8');
    const [head = '', ...lines] = text.trim().split('\r\n');
    expect(head).toContain('Insurance class');
    expect(lines).toHaveLength(Number(count));
  });

  await test.step('taken away as another program reads it: keys, no byte order mark, the rows of one table', async () => {
    await page.getByRole('button', { name: 'Export' }).click();
    await page.getByRole('menuitem', { name: 'Choose how it is written' }).click();
    const dialog = page.getByRole('dialog', { name: 'Export these records' });
    await dialog.getByRole('radio', { name: 'By keys and ids' }).check();
    await dialog.getByRole('checkbox', { name: 'byte order mark' }).uncheck();
    await dialog.getByLabel('What is in it').click();
    await page.getByRole('option', { name: 'Only the rows of Objects' }).click();
    await expectAccessible(page);
    const waiting = page.waitForEvent('download');
    await dialog.getByRole('link', { name: 'Export' }).click();
    const file = await waiting;
    expect(file.suggestedFilename()).toBe('objectLoan-objects.csv');
    const [head] = readFileSync(await file.path(), 'utf8').split('\r\n');
    expect(head).toMatch(/^record\.number,objects\.title,/);
    await expect(dialog).toBeHidden();
  });

  await test.step('a record opens from it, and going back shows the same again', async () => {
    const address = page.url();
    await rows(page).nth(1).getByRole('link').click();
    await expect(page).toHaveURL(/\/records\//);
    await page.goBack();
    await expect(page).toHaveURL(address);
    await expect(page.getByRole('columnheader', { name: 'Class' })).toBeVisible();
  });
});

test('what the design gives a role is in its register, and nothing else is', async ({ page }) => {
  await signInAs(page, server, 'registrar');
  await page.goto(`${server.base}/registers/objectLoan`);
  await page.getByRole('button', { name: 'Views' }).click();
  await page
    .getByLabel('Views')
    .getByRole('button', { name: /Dear works abroad/ })
    .click();
  await expect(page.getByRole('columnheader', { name: 'Total value' })).toHaveAttribute('aria-sort', 'descending');
  await expect(page.getByRole('button', { name: /Delete the view/ })).toHaveCount(0);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Columns' }).click();
  // Conservators note precautions at stages where registrars don't act.
  await expect(page.getByRole('checkbox', { name: 'Lux limit' })).toBeVisible();
  await expect(page.getByRole('checkbox', { name: 'Precautions' })).toHaveCount(0);
  await page.keyboard.press('Escape');
  await page.goto(`${server.base}/registers/objectLoan?filter=${encodeURIComponent('precautions != null')}`);
  await expect(page.getByText('Nothing is called “precautions”.')).toBeVisible();

  await signInAs(page, server, 'borrower');
  await expect(page.getByRole('link', { name: 'Registers' })).toHaveCount(0);
  await page.goto(`${server.base}/registers/objectLoan`);
  await expect(page.getByText('There is no register that you may see')).toBeVisible();
});

test('where work waits is seen, and leads to the records; by stage; dark; on a phone', async ({ page }) => {
  await signInAs(page, server, 'director');
  await page.goto(`${server.base}/registers/objectLoan?layout=watching`);
  await expect(page.getByText('under way')).toBeVisible();
  await expect(page.getByRole('figure', { name: 'Which ways they took' })).toBeVisible();
  await page.getByRole('figure', { name: 'Records begun and ended, by week' }).getByText('The figures').click();
  await expect(page.getByRole('cell').first()).toBeVisible();
  await expectAccessible(page);
  const onLoan = page.getByRole('region', { name: 'Where records wait' }).getByRole('row', { name: /On loan/ });
  const count = await onLoan.getByRole('cell').first().textContent();
  await onLoan.getByRole('button', { name: 'On loan' }).click();
  await expect(records(page)).toHaveText(String(Number.parseInt(count ?? '', 10)));

  await page.getByText('By stage', { exact: true }).click();
  await expect(
    page
      .getByRole('region', { name: /^On loan, / })
      .getByRole('link')
      .first(),
  ).toBeVisible();
  await expectAccessible(page);

  await page.getByRole('button', { name: 'Use dark colours' }).click();
  await page.goto(`${server.base}/registers/objectLoan`);
  await expect(rows(page).nth(3)).toBeVisible();
  await expectAccessible(page);
  await page.goto(`${server.base}/registers/objectLoan?layout=watching`);
  await expect(page.getByText('under way')).toBeVisible();
  await expectAccessible(page);

  await page.setViewportSize({ width: 390, height: 844 });
  for (const layout of ['list', 'stages', 'watching']) {
    await page.goto(`${server.base}/registers/objectLoan?layout=${layout}`);
    await expect(page.getByRole('heading', { name: 'Object loan' })).toBeVisible();
    const overflow = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(overflow).toBeLessThanOrEqual(0);
  }
});
