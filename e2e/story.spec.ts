import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, fillRequest, press, signInAs, writeExpression } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

/** Opens a Mantine select by its accessible name and picks an option. */
async function pick(page: Page, scope: ReturnType<Page['locator']>, name: string, option: string): Promise<void> {
  await scope.getByRole('combobox', { name }).or(scope.getByRole('textbox', { name })).last().click();
  await page.getByRole('option', { name: option, exact: true }).click();
}

test('an analyst changes a condition, publishes, and a real record takes the other path', async ({ page }) => {
  await test.step('the sign-in page lists the people of the demo', async () => {
    await page.goto(server.base);
    await expect(page.getByRole('region', { name: 'People of the demo' })).toContainText('Analyst: designs the workflows');
    await expectAccessible(page);
  });

  await test.step('the plan: one key sets a cell', async () => {
    await signInAs(page, server, 'analyst');
    await page.getByRole('link', { name: /Object loan/ }).click();
    await expect(page.getByRole('grid', { name: 'Field plan' })).toBeVisible();
    const column = await page.getByRole('button', { name: 'Registrar check Registrar' }).boundingBox();
    const cell = page.getByRole('gridcell', { name: 'Care notes at Conservation review: optional' });
    await cell.click();
    await page.keyboard.press('r');
    await expect(page.getByRole('gridcell', { name: 'Care notes at Conservation review: required' })).toBeFocused();
    await page.keyboard.press('ArrowLeft');
    const left = page.getByRole('gridcell', { name: /Care notes at Registrar check/ });
    await expect(left).toBeFocused();
    const box = await left.boundingBox();
    expect(Math.abs((column?.x ?? 0) + (column?.width ?? 0) / 2 - ((box?.x ?? 0) + (box?.width ?? 0) / 2))).toBeLessThan(2);
    await expect(page.getByRole('status').getByText('Kept', { exact: true })).toBeVisible();
    await expectAccessible(page);
  });

  await test.step('the branch’s condition becomes groups within groups', async () => {
    const inspector = page.getByRole('complementary', { name: 'Inspector' });
    await inspector.getByRole('button', { name: '← The whole workflow' }).click();
    await inspector.getByRole('listitem').getByRole('button', { name: 'Conservation review' }).click();
    await expect(inspector.getByText('Second of three branches')).toBeVisible();
    // total value > 50000 goes into an "any of" group with the venue, beside which "any fragile" is a clause of its own.
    await inspector.getByRole('button', { name: 'More about this clause' }).click();
    await page.getByRole('menuitem', { name: /Put into “any of”/ }).click();
    await inspector.getByRole('button', { name: '+ clause' }).click();
    await pick(page, inspector, 'Field', 'Venue country');
    await pick(page, inspector, 'Comparison', 'is not');
    await pick(page, inspector, 'Value', 'Home');
    await page.keyboard.press('Escape');
    await page.keyboard.press('Home');
    await page.keyboard.press('+');
    await pick(page, inspector, 'Field', 'Any fragile');
    await pick(page, inspector, 'Value', 'yes');
    await expect(inspector).toContainText(
      '(Total value is above €50,000.00 or Venue country is not Home) and Any fragile is yes',
    );
    await inspector.getByRole('button', { name: 'as text' }).click();
    await expect(inspector.getByRole('textbox', { name: 'Condition as text' })).toHaveText(
      '(totalValue > 50000 or venue != "home") and anyFragile = true',
    );
    await expectAccessible(page);
  });

  await test.step('a half-written condition is refused with its place, and not kept', async () => {
    const inspector = page.getByRole('complementary', { name: 'Inspector' });
    await writeExpression(page, '(totalValu > 50000 or venue != "home") and anyFragile = true');
    await expect(inspector).toContainText('Did you mean “totalValue”?');
    await writeExpression(page, '(totalValue > 50000 or venue != "home") and anyFragile = true');
    await expect(page.getByRole('status').getByText('Kept', { exact: true })).toBeVisible();
  });

  await test.step('rehearsing shows which branch would be taken, clause by clause', async () => {
    await page.keyboard.press('Alt+r');
    await expect(page.getByRole('heading', { name: 'Why' })).toBeVisible();
    await fillRequest(page);
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Submit request' }).click();
    await expect(page.getByRole('heading', { name: 'Registrar check' })).toBeVisible();
    const why = page.getByRole('region', { name: 'Why' });
    await expect(why).toContainText('Conservation review is taken');
    await expect(why).toContainText(
      '(Total value €7,000.50 is above €50,000.00 or Venue country Overseas is not Home) and Any fragile yes is yes',
    );
    await expect(why).toContainText('Lux limit required, was optional: adjustment “Light-sensitive works” holds');
    await expect(page.getByText('“Accept” would go to Conservation review')).toBeVisible();
  });

  await test.step('publishing makes version 2', async () => {
    await page.getByRole('button', { name: 'Publish' }).click();
    await page.getByRole('button', { name: 'Publish version 2' }).click();
    await page.getByRole('link', { name: 'Versions' }).click();
    await expect(page.getByRole('listitem').filter({ hasText: /^Version 2/ })).toContainText('in force');
    // What was changed is told in words, by whom.
    await expect(page.getByText('made “Care notes” required at Conservation review')).toBeVisible();
  });

  let number = '';
  await test.step('a borrower submits a request and reads the acknowledgement', async () => {
    await signInAs(page, server, 'borrower');
    await page.getByRole('link', { name: /^Object loan Ask to borrow/ }).click();
    // Once the form is there: nothing of the designer is beside it.
    await expect(page.locator('#field-borrower')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Submit request' })).toBeEnabled();
    await expect(page.getByRole('group', { name: 'Stage map' })).toHaveCount(0);
    await expect(page.getByRole('link', { name: 'Workflows' })).toHaveCount(0);
    await page.getByRole('button', { name: 'Submit request' }).click();
    await expect(page.getByRole('alert')).toContainText('Borrower is required.');
    await fillRequest(page);
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Submit request' }).dblclick();
    const thanks = page.getByRole('status').filter({ hasText: /Thank you, Hollen Street Gallery/ });
    await expect(thanks).toBeVisible();
    number = /L-\d{4}-\d{4}/.exec((await thanks.textContent()) ?? '')?.[0] ?? '';
    expect(number).toBe(`L-${new Date().getUTCFullYear()}-0005`);
  });

  await test.step('the registrar is refused until the adjusted field is filled in, then accepts', async () => {
    await signInAs(page, server, 'registrar');
    await page.goto(`${server.base}/desk`);
    await page.getByRole('link', { name: new RegExp(number) }).click();
    await expect(page.locator('[data-field="luxLimit"]')).toContainText('required');
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Accept' }).click();
    await expect(page.getByRole('alert')).toContainText('Lux limit is required.');
    await page.locator('#field-luxLimit').fill('5000');
    await page.getByRole('button', { name: 'Accept' }).click();
    await expect(page.getByRole('alert')).toContainText('Lux limit must be at most 1000.');
    await page.locator('#field-luxLimit').fill('50');
    await press(page, 'Accept');
    await expect(page.getByRole('status').filter({ hasText: `${number} went on to Conservation review.` })).toBeVisible();
  });

  await test.step('the record stands on the conservator’s desk, with its history', async () => {
    await signInAs(page, server, 'conservator');
    await page.getByRole('link', { name: new RegExp(number) }).click();
    await expect(page.getByRole('heading', { name: 'Conservation review' })).toBeVisible();
    await expect(page.getByRole('complementary', { name: 'History' })).toContainText(
      'Rufus Okonjo pressed “Accept” at Registrar check. It went to Conservation review.',
    );
    await expect(page.locator('[data-field="careNotes"]')).toContainText('required');
  });

  await test.step('a mail lies in the dispatch log and in the simulated mailbox', async () => {
    await signInAs(page, server, 'analyst');
    await page.getByRole('link', { name: 'Dispatch', exact: true }).click();
    const row = page.getByRole('row').filter({ hasText: number }).filter({ hasText: 'Review asked of the conservators' });
    await expect(row).toContainText('sent', { timeout: 15_000 });
    await expectAccessible(page);
    await page.getByRole('link', { name: 'Mailbox' }).click();
    await page
      .getByRole('link', { name: /Review asked: Hollen Street Gallery, 3 objects/ })
      .first()
      .click();
    await expect(page.getByRole('article')).toContainText(`Loan request ${number} waits for your review.`);
    await expectAccessible(page);
  });

  await test.step('after a crash and a new start all of it is still there', async () => {
    await server.stop('SIGKILL');
    await server.start();
    await page.goto(`${server.base}/workflows`);
    await expect(page.getByRole('link', { name: /Object loan/ })).toContainText('v2 in force');
    await signInAs(page, server, 'conservator');
    await expect(page.getByRole('link', { name: new RegExp(number) })).toContainText('Conservation review');
  });
});

test('two analysts at one draft: each sees the other’s changes come, and where they are; what meets is settled', async ({
  browser,
}) => {
  const contexts = await Promise.all([browser.newContext(), browser.newContext()]);
  const [one, two] = (await Promise.all(contexts.map((context) => context.newPage()))) as [Page, Page];
  for (const page of [one, two]) {
    await signInAs(page, server, 'analyst');
    await page.goto(`${server.base}/workflows/objectLoan/plan`);
    await expect(page.getByRole('grid', { name: 'Field plan' })).toBeVisible();
  }
  await test.step('a change comes by itself, and who made it is there', async () => {
    await one.getByRole('gridcell', { name: 'Reason at Study visit: optional' }).click();
    await one.keyboard.press('n');
    await expect(two.getByRole('gridcell', { name: 'Reason at Study visit: nudged' })).toBeVisible();
    await expect(two.getByRole('list', { name: 'Also at this draft' })).toContainText('Reason');
    await expectAccessible(two);
  });
  await test.step('both go on, and each takes back their own', async () => {
    await two.getByRole('gridcell', { name: 'Precautions at Study visit: hidden' }).click();
    await two.keyboard.press('o');
    await expect(one.getByRole('gridcell', { name: 'Precautions at Study visit: optional' })).toBeVisible();
    await one.keyboard.press('Control+z');
    await expect(two.getByRole('gridcell', { name: 'Reason at Study visit: optional' })).toBeVisible();
    await expect(one.getByRole('gridcell', { name: 'Precautions at Study visit: optional' })).toBeVisible();
  });
  await test.step('without a connection changes wait; one that met another’s is shown, and settled', async () => {
    await contexts[1]?.setOffline(true);
    await two.getByRole('gridcell', { name: 'Reason at Study visit: optional' }).click();
    await two.keyboard.press('r');
    await expect(two.getByRole('status').getByText('Not kept')).toBeVisible();
    await one.getByRole('gridcell', { name: 'Reason at Study visit: optional' }).click();
    await one.keyboard.press('h');
    await expect(one.getByRole('status').getByText('Kept', { exact: true })).toBeVisible();
    await contexts[1]?.setOffline(false);
    const met = two.getByRole('region', { name: 'Changes that met' });
    await expect(met).toContainText('made “Reason” hidden at Study visit', { timeout: 20_000 });
    await expect(two.getByRole('gridcell', { name: 'Reason at Study visit: hidden' })).toBeVisible();
    await expectAccessible(two);
    await met.getByRole('button', { name: 'Make mine all the same' }).click();
    await expect(one.getByRole('gridcell', { name: 'Reason at Study visit: required' })).toBeVisible();
    await expect(met).toHaveCount(0);
  });
  await Promise.all(contexts.map((context) => context.close()));
});

test('without a mouse: sign in, set a range of cells, undo it', async ({ page }) => {
  await page.goto(`${server.base}/sign-in`);
  await page.getByLabel('E-mail').focus();
  await page.keyboard.type('ines@lindenmuseum.invalid');
  await page.keyboard.press('Tab');
  await page.keyboard.type('museum-loans');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Workflows' })).toBeVisible();
  await page.getByRole('link', { name: /Object loan/ }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('gridcell', { name: /^Borrower at Request/ }).focus();
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('v');
  await expect(page.getByRole('gridcell', { name: 'Borrower at Request: read-only' })).toBeVisible();
  await expect(page.getByRole('gridcell', { name: 'Borrower e-mail at Registrar check: read-only' })).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('gridcell', { name: 'Borrower at Request: required' })).toBeVisible();
});
