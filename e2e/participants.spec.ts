import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, fillRequest, press, signInAs, untilAnswered } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const submit = (page: Page) => page.getByRole('button', { name: 'Submit request' });

async function beginRequest(page: Page): Promise<void> {
  await signInAs(page, server, 'borrower');
  await page.getByRole('link', { name: /^Object loan Ask to borrow/ }).click();
  await expect(submit(page)).toBeVisible();
}

/** Submits a request; its number. */
async function submitRequest(page: Page): Promise<string> {
  await beginRequest(page);
  await fillRequest(page);
  await submit(page).click();
  const thanks = page.getByRole('status').filter({ hasText: /Thank you, Hollen Street Gallery/ });
  await expect(thanks).toBeVisible();
  return /L-\d{4}-\d{4}/.exec((await thanks.textContent()) ?? '')?.[0] ?? '';
}

test('what was typed outlives a server that is away and a session that ran out', async ({ page }) => {
  await beginRequest(page);
  await fillRequest(page);

  await server.stop('SIGKILL');
  await submit(page).click();
  await expect(page.getByRole('alert')).toContainText(
    'The server can’t be reached. Try again in a moment; what you entered is still here',
  );
  await expect(page.locator('#field-fromDate')).toHaveValue('12 Mar 2027');
  await server.start();

  const cookies = await page.context().cookies();
  await page.context().clearCookies();
  await submit(page).click();
  await expect(page.getByRole('alert')).toContainText('You are not signed in.');
  await expect(page.getByLabel(/^Title, row 3/)).toHaveValue('Tide clock');

  await page.context().addCookies(cookies);
  await submit(page).click();
  await expect(page.getByRole('status').filter({ hasText: /Thank you, Hollen Street Gallery/ })).toBeVisible();
});

test('of two registrars at one record the later is told, and nothing is done twice', async ({ page, browser }) => {
  const number = await submitRequest(page);
  const other = await browser.newPage();
  for (const registrar of [page, other]) {
    await signInAs(registrar, server, 'registrar');
    await registrar.goto(`${server.base}/desk`);
    await registrar.getByRole('link', { name: new RegExp(`^${number}`) }).click();
    await registrar.locator('#field-luxLimit').fill('50');
  }
  await press(page, 'Accept');
  await expect(page.getByRole('status').filter({ hasText: new RegExp(`${number} went on to`) })).toBeVisible();
  await press(other, 'Accept');
  await expect(other.getByRole('alert')).toContainText('Somebody changed this record while you had it open');
  // What was entered stays when the record has moved on to a stage that doesn't ask for it.
  await other.getByRole('button', { name: 'Load the present state' }).click();
  await expect(other.getByText(/Others have this record now: what you entered is kept here/)).toBeVisible();
  await expect(other.getByText('50', { exact: true })).toBeVisible();
  await other.close();
});

test('the desk follows what happens elsewhere, and so does a record that is only looked at', async ({ page, browser }) => {
  const registrar = await browser.newPage();
  await signInAs(registrar, server, 'registrar');
  await registrar.goto(`${server.base}/desk`);
  await expect(
    registrar
      .getByRole('main')
      .getByRole('link', { name: /Object loan from/ })
      .first(),
  ).toBeVisible();
  const number = await submitRequest(page);
  // Sooner than the desk would ask by itself.
  const waiting = registrar.getByRole('link', { name: new RegExp(number) });
  await expect(waiting).toBeVisible({ timeout: 8000 });

  await page.goto(`${server.base}/desk`);
  await page.getByRole('link', { name: new RegExp(number) }).click();
  await expect(page.getByRole('heading', { name: 'Registrar check' })).toBeVisible();
  await waiting.click();
  await registrar.locator('#field-reason').fill('The hall is closed.');
  await press(registrar, 'Decline');
  await expect(page.getByRole('heading', { name: 'Closed' })).toBeVisible({ timeout: 8000 });

  // On paper there is the record and what happened to it, and nothing to press.
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByText('Hollen Street Gallery').first()).toBeVisible();
  await expect(page.getByText(/Decline/).first()).toBeVisible();
  for (const link of [page.getByRole('link', { name: 'Desk' }), page.getByRole('button', { name: 'Print' })])
    await expect(link).toBeHidden();
  await page.emulateMedia({ media: 'screen' });
  await registrar.close();
});

test('mistakes are listed, each beside its field, and go away as they are mended', async ({ page }) => {
  await beginRequest(page);
  await submit(page).click();
  const alert = page.getByRole('alert');
  await expect(alert).toContainText('things to mend before it can go on');
  const before = Number(/^(\d+) things/.exec((await alert.textContent()) ?? '')?.[1]);
  // So many are listed at first that the form stays in view.
  await expect(alert.getByRole('listitem')).toHaveCount(3);
  await expect(page.locator('#field-borrower')).toBeFocused();
  await page.locator('#field-borrower').fill('Hollen Street Gallery');
  await expect(alert).toContainText(`${before - 1} things to mend`);
  await page.locator('#field-fromDate').fill('2027-03-12');
  await page.locator('#field-toDate').fill('2027-03-01');
  await submit(page).click();
  await expect(page.locator('[data-field="toDate"]')).toContainText(/before it begins|ends before/i);
  await page.locator('#field-toDate').fill('2027-06-11');
  await expect(page.locator('[data-field="toDate"]')).not.toContainText(/before it begins|ends before/i);
});

test('a row can be removed, and what it asked for goes with it', async ({ page }) => {
  await beginRequest(page);
  await fillRequest(page);
  await expect(page.getByLabel(/^Title, row 3/)).toBeVisible();
  await page.getByRole('button', { name: /Remove row 3/ }).click();
  await expect(page.getByLabel(/^Title, row 3/)).toHaveCount(0);
  await expect(page.getByLabel(/^Title, row 2/)).toHaveValue('Storm lantern');
  await submit(page).click();
  await expect(page.getByRole('status').filter({ hasText: /Thank you/ })).toBeVisible();
});

for (const [name, viewport] of [
  ['a phone', { width: 390, height: 844 }],
  ['a small screen', { width: 1280, height: 800 }],
] as const) {
  test(`on ${name} nothing runs off the side, in light and dark`, async ({ browser }) => {
    for (const colorScheme of ['light', 'dark'] as const) {
      const context = await browser.newContext({ viewport, colorScheme });
      const page = await context.newPage();
      await beginRequest(page);
      for (const address of [page.url(), `${server.base}/desk`]) {
        await page.goto(address);
        await expect(page.getByRole('heading').first()).toBeVisible();
        const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
        expect([address, colorScheme, wide]).toEqual([address, colorScheme, 0]);
        await expectAccessible(page);
      }
      await context.close();
    }
  });
}

test('somebody who may not is told so, not shown an empty page', async ({ page }) => {
  await signInAs(page, server, 'borrower');
  await page.goto(`${server.base}/records/00000000-0000-4000-8000-000000000000`);
  await expect(page.getByText('There is nothing here that you may see.')).toBeVisible();
  await page.goto(`${server.base}/no/such/page`);
  await expect(page.getByRole('heading', { name: 'There is nothing at this address' })).toBeVisible();
});

test('work is found, ordered, taken, given back and handed over', async ({ page }) => {
  await signInAs(page, server, 'registrar');
  await page.goto(`${server.base}/desk`);
  const find = page.getByRole('textbox', { name: 'Find by number or name' });
  await find.fill('tomas');
  const rows = page.getByRole('main').getByRole('link', { name: /Object loan from/ });
  await expect(rows).toHaveCount(1);
  await find.press('Escape');
  await expect(rows).not.toHaveCount(1);
  await page.getByText('due first', { exact: true }).click();
  await expect(page).toHaveURL(/sort=due/);
  await expectAccessible(page);

  const number = /[A-Z]+-\d{4}-\d{4}/.exec((await rows.first().textContent()) ?? '')?.[0] ?? '';
  await rows.first().click();
  const who = page.getByRole('region', { name: 'Who has it' });
  await expect(who).toContainText('Nobody has taken it yet.');
  await who.getByRole('button', { name: 'Take it' }).dblclick();
  await expect(who).toContainText('You have it.');
  await expect(page.getByRole('complementary', { name: 'History' })).toContainText('Rufus Okonjo took it.');
  await expectAccessible(page);
  // What is entered isn't lost by giving the record away, and goes to nobody else.
  await page.locator('#field-luxLimit').fill('40');
  await expect(who).toContainText('What you entered stays with you');
  await who.getByRole('button', { name: 'Hand it over …' }).click();
  await expect(page.getByText('Nobody else may act here.')).toBeVisible();
  await page.keyboard.press('Escape');
  await who.getByRole('button', { name: 'Give it back' }).click();
  await expect(who).toContainText('Nobody has taken it yet.');
  await page.reload();
  await expect(page.locator('#field-luxLimit')).toHaveValue('40');
  await untilAnswered(page, 'DELETE', /unfinished/, () => page.getByRole('button', { name: 'Give it up, begin afresh' }).click());
  await page.goto(`${server.base}/desk`);
  await expect(page.getByText('yours', { exact: true })).toHaveCount(0);
  // What one has opened isn't new any more.
  const opened = page.getByRole('main').getByRole('link', { name: new RegExp(`^${number}`) });
  await expect(opened).toBeVisible();
  await expect(opened.getByText('new')).toHaveCount(0);
  await expect(rows.getByText('new').first()).toBeVisible();
});
