import { expect, type Locator, type Page, test } from '@playwright/test';
import { expectAccessible, fillRequest, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make({ hasHistory: true });
});
test.afterAll(() => server.stop());

/** Goes on with the tab key until something has the focus, as somebody without a pointer does. */
async function tabTo(page: Page, target: Locator): Promise<void> {
  for (let pressed = 0; pressed < 120; pressed += 1) {
    if (await target.evaluate((element) => element === document.activeElement)) return;
    await page.keyboard.press('Tab');
  }
  throw new Error('it can’t be reached with the tab key');
}

test('the desk is filtered by the fields of a workflow, and kept as a view that colleagues have', async ({ page }) => {
  await signInAs(page, server, 'registrar');
  await page.goto(`${server.base}/desk`);
  const rows = page.getByRole('link', { name: /^L-\d{4}-\d{4}/ });
  await expect(rows.first()).toBeVisible();
  await page.getByRole('button', { name: 'Filter' }).click();
  const filter = page.getByRole('region', { name: 'Filter' });
  // Where more than one workflow waits it is asked which is meant: of the demo's past that depends on the day.
  const loans = page.getByRole('menuitem', { name: 'Object loan' });
  await expect(filter.or(loans)).toBeVisible();
  if (await loans.isVisible()) await loans.click();
  await filter.getByRole('button', { name: '+ clause' }).first().click();
  await page.goto(`${server.base}/desk?at=objectLoan&sort=due&filter=${encodeURIComponent('totalValue > 20000')}`);
  await expect(filter).toContainText('Total value is above €20,000.00');
  await expect(page.getByRole('region', { name: 'Due later' })).toBeVisible();
  await expectAccessible(page);
  const narrowed = await rows.count();
  await page.getByRole('button', { name: 'Views' }).click();
  await page.getByLabel('Keep what is shown now as').fill('Dear ones');
  await page.getByLabel('for all who hold one of my roles').check();
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.keyboard.press('Escape');
  await page.goto(`${server.base}/desk`);
  await page.getByRole('button', { name: 'Views' }).click();
  await page.getByRole('button', { name: 'Dear ones yours, shared' }).click();
  await expect(page).toHaveURL(/at=objectLoan&sort=due&filter=totalValue/);
  await expect(rows).toHaveCount(narrowed);
  // Whoever holds none of its owner's roles hasn't got it.
  await signInAs(page, server, 'director');
  await page.goto(`${server.base}/desk`);
  await page.getByRole('button', { name: 'Views' }).click();
  await expect(page.getByText('No view is kept yet.')).toBeVisible();
  await page.goto(`${server.base}/desk?at=objectLoan&filter=${encodeURIComponent('nothing = 1')}`);
  await expect(page.getByText('Nothing is called “nothing”', { exact: false }).first()).toBeVisible();
});

test('with the keyboard alone: from the desk through a form, and on', async ({ page }) => {
  await signInAs(page, server, 'borrower');
  await page.goto(`${server.base}/begin/objectLoan/request`);
  await fillRequest(page);
  await page.getByRole('button', { name: 'Submit request' }).click();
  const thanks = page.getByRole('status').filter({ hasText: /Thank you/ });
  await expect(thanks).toBeVisible();
  const number = /L-\d{4}-\d{4}/.exec((await thanks.textContent()) ?? '')?.[0] ?? '';

  await signInAs(page, server, 'registrar');
  await page.goto(`${server.base}/desk`);
  await expect(page.getByRole('link', { name: /^L-/ }).first()).toBeVisible();
  // The link that leads past the frame comes first.
  await page.keyboard.press('Tab');
  await expect(page.getByRole('link', { name: 'Skip to the content' })).toBeFocused();
  await page.keyboard.press('Enter');
  await tabTo(page, page.getByLabel('Find by number or name'));
  await page.keyboard.type(number);
  const row = page.getByRole('link', { name: new RegExp(`^${number}`) });
  await expect(page.getByRole('link', { name: /^L-/ })).toHaveCount(1);
  await tabTo(page, row);
  await page.keyboard.press('Enter');

  await expect(page.getByRole('heading', { level: 1, name: 'Registrar check' })).toBeVisible();
  await tabTo(page, page.locator('#field-luxLimit'));
  await page.keyboard.type('50');
  // A value in a row of the table, and a yes or no.
  await tabTo(page, page.getByLabel(/^Insured value, row 1/));
  await page.keyboard.press('ControlOrMeta+a');
  await page.keyboard.type('4500');
  await tabTo(page, page.locator('#field-reason'));
  await page.keyboard.type('All is well.');
  await tabTo(page, page.getByRole('button', { name: 'Accept', exact: true }));
  await page.keyboard.press('Enter');
  // Nothing that is worth having was entered: that is asked once, and the question has the focus.
  await expect(page.getByRole('button', { name: 'Back to the form' })).toBeFocused();
  await tabTo(page, page.getByRole('button', { name: 'Accept all the same' }));
  await page.keyboard.press('Enter');
  await expect(page.getByRole('status').filter({ hasText: `${number} went on to Director sign-off.` })).toBeVisible();
  await tabTo(page, page.getByRole('link', { name: 'To the desk' }));
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Waiting for you' })).toBeVisible();
});

test('on a phone: desk, record and form fit, and can be pressed with a thumb', async ({ browser }) => {
  const context = await browser.newContext({ viewport: { width: 375, height: 720 }, hasTouch: true });
  const page = await context.newPage();
  await signInAs(page, server, 'registrar');
  await page.goto(`${server.base}/desk`);
  const fits = async (): Promise<void> =>
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(375);
  const first = page.getByRole('link', { name: /^L-/ }).first();
  await expect(first).toBeVisible();
  await fits();
  await expectAccessible(page);
  await first.tap();
  await page.waitForURL(/\/records\//);
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await fits();
  await page.goto(`${server.base}/begin/objectLoan/request`);
  await expect(page.locator('#field-borrower')).toBeVisible();
  await fits();
  const box = await page.getByRole('button', { name: 'Submit request' }).boundingBox();
  expect(box?.height).toBeGreaterThanOrEqual(32);
  await context.close();
});
