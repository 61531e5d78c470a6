import { expect, test } from '@playwright/test';
import { expectAccessible, fillRequest, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;
test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

test('what was entered is there again: after a lost connection, in another window, in another browser', async ({
  page,
  context,
  browser,
}) => {
  await signInAs(page, server, 'borrower');
  await page.goto(`${server.base}/begin/objectLoan/request`);
  const borrower = page.getByLabel('Borrower', { exact: false }).first();
  await borrower.fill('Hollen Street Gallery');
  await expect(page.getByText('What you entered is kept.')).toBeVisible();

  await context.setOffline(true);
  await page.locator('#field-borrowerEmail').fill('beryl@hollenstreet.invalid');
  await expect(page.getByText('What you entered is kept in this browser only.')).toBeVisible();
  // The window is gone, as when a computer is switched off.
  await page.close();
  await context.setOffline(false);
  const again = await context.newPage();
  await again.goto(`${server.base}/begin/objectLoan/request`);
  await expect(again.getByText('You began this before, and what you entered is here')).toBeVisible();
  await expect(again.locator('#field-borrowerEmail')).toHaveValue('beryl@hollenstreet.invalid');
  await expect(again.getByText('What you entered is kept.')).toBeVisible();
  await expectAccessible(again);

  const elsewhere = await browser.newPage();
  await signInAs(elsewhere, server, 'borrower');
  await elsewhere.goto(`${server.base}/desk`);
  const begun = elsewhere.getByRole('region', { name: 'Begun, not handed on' });
  await begun.getByRole('link', { name: 'Object loan · Request' }).click();
  await expect(elsewhere.locator('#field-borrowerEmail')).toHaveValue('beryl@hollenstreet.invalid');
  await fillRequest(elsewhere);
  await elsewhere.getByRole('button', { name: 'Submit request' }).click();
  await expect(elsewhere.getByRole('status').filter({ hasText: /Thank you, Hollen Street Gallery/ })).toBeVisible();
  await elsewhere.goto(`${server.base}/desk`);
  await expect(elsewhere.getByRole('heading', { name: 'What you submitted' })).toBeVisible();
  await expect(begun).toHaveCount(0);
  await elsewhere.close();
});

test('what was begun is given up: at the form, or on the desk', async ({ page }) => {
  await signInAs(page, server, 'borrower');
  for (const way of ['form', 'desk'] as const) {
    await page.goto(`${server.base}/begin/objectLoan/request`);
    await page.getByLabel('Borrower', { exact: false }).first().fill('Hollen Street Gallery');
    await expect(page.getByText('What you entered is kept.')).toBeVisible();
    await page.goto(`${server.base}${way === 'desk' ? '/desk' : '/begin/objectLoan/request'}`);
    if (way === 'desk') await page.getByRole('button', { name: 'Give up what you entered: Object loan · Request' }).click();
    else await page.getByRole('button', { name: 'Give it up, begin afresh' }).click();
    if (way === 'form') await expect(page.getByLabel('Borrower', { exact: false }).first()).toHaveValue('');
    else await expect(page.getByRole('region', { name: 'Begun, not handed on' })).toHaveCount(0);
    await page.goto(`${server.base}/begin/objectLoan/request`);
    await expect(page.getByLabel('Borrower', { exact: false }).first()).toHaveValue('');
  }
});

test('what others changed meanwhile is shown field by field, and nothing is lost before one chooses', async ({ page }) => {
  await signInAs(page, server, 'borrower');
  await page.goto(`${server.base}/begin/objectLoan/request`);
  await fillRequest(page);
  await page.getByRole('button', { name: 'Submit request' }).click();
  const thanks = page.getByRole('status').filter({ hasText: /Thank you/ });
  const number = /L-\d{4}-\d{4}/.exec((await thanks.textContent()) ?? '')?.[0] ?? '';
  await signInAs(page, server, 'registrar');
  await page.goto(`${server.base}/desk`);
  await page.getByRole('link', { name: new RegExp(number) }).click();
  await page.locator('#field-luxLimit').fill('50');
  await page.locator('#field-reason').fill('Ask about the frames');
  await expect(page.getByText('What you entered is kept.')).toBeVisible();
  await server.query(
    `update records set values = values || '{"luxLimit": "80", "reason": "Frames are fine"}', revision = revision + 1 where number = '${number}'`,
  );
  await page.reload();
  const meetings = page.getByRole('note').filter({ hasText: 'These were changed meanwhile' });
  await expect(meetings.getByRole('row')).toHaveCount(3);
  await expect(meetings).toContainText('80');
  await expectAccessible(page);
  await meetings.getByRole('button', { name: /^Lux limit: take what it has now$/ }).click();
  await expect(page.locator('#field-luxLimit')).toHaveValue('80');
  await meetings.getByRole('button', { name: /keep mine$/ }).click();
  await expect(meetings).toHaveCount(0);
  await expect(page.locator('#field-reason')).toHaveValue('Ask about the frames');
  await page.reload();
  await expect(page.locator('#field-reason')).toHaveValue('Ask about the frames');
  await expect(meetings).toHaveCount(0);
});

test('what an analyst has typed and not left is kept when the window is loaded again', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/workflows/objectLoan/plan`);
  await page.getByRole('button', { name: 'Borrower', exact: true }).click();
  const name = page.getByRole('complementary', { name: 'Inspector' }).getByLabel('Name', { exact: true });
  await name.click();
  await page.keyboard.press('End');
  await page.keyboard.type(' of the loan');
  await page.reload();
  await expect(page.getByRole('button', { name: 'Borrower of the loan', exact: true })).toBeVisible();
});
