import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, fillRequest, signInAs, writeExpression } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const why = (page: Page) => page.getByRole('region', { name: 'Why' });
const stageIs = (page: Page, name: string) =>
  expect(page.getByRole('region', { name: 'Form' }).getByRole('heading', { level: 2, name, exact: true })).toBeVisible();
/** A field's input in the form of the stage. */
const input = (page: Page, key: string) => page.locator(`#field-${key}`);

async function choose(page: Page, name: string, option: string): Promise<void> {
  await page.getByRole('combobox', { name }).or(page.getByRole('textbox', { name })).first().click();
  await page.getByRole('option', { name: option, exact: true }).click();
}

test('a rehearsal through four roles, back a step, an earlier answer changed, kept as a test that fails after a change', async ({
  page,
}) => {
  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/workflows/objectLoan/rehearse`);
  const form = page.getByRole('region', { name: 'Form' });

  await test.step('a refusal leads to the first thing to mend, in one line', async () => {
    await page.getByRole('button', { name: 'Submit request' }).click();
    await expect(form.getByRole('alert')).toContainText('“Submit request” is refused: Borrower is required.');
    await expect(input(page, 'borrower')).toBeFocused();
    await form.getByRole('button', { name: '1 of 7, next' }).click();
    await expect(input(page, 'borrowerEmail')).toBeFocused();
    await expectAccessible(page);
  });

  await test.step('an answer shows at once what it changes, and why', async () => {
    await fillRequest(page);
    await expect(why(page)).toContainText(
      'Climate control required, was optional: adjustment “Overseas needs climate control” holds',
    );
    await expect(why(page)).toContainText('Venue country Overseas is Overseas');
    await input(page, 'venue').click();
    await page.getByRole('option', { name: 'Home' }).click();
    await expect(page.getByRole('status').filter({ hasText: 'Since the last answer' })).toContainText(
      'Climate control is optional, was required',
    );
    await input(page, 'venue').click();
    await page.getByRole('option', { name: 'Overseas' }).click();
  });

  await test.step('what would be sent is shown as it would arrive', async () => {
    const mail = why(page).getByText('Mail New request to the registrars to role Registrar');
    await expect(mail).toContainText('Loan request REHEARSAL: Hollen Street Gallery, 3 objects');
    await mail.click();
    await expect(why(page).getByText('A new request came in from Hollen Street Gallery')).toBeVisible();
  });

  await test.step('the borrower, the registrar, the director and the conservator, each in their role', async () => {
    await page.getByRole('button', { name: 'Submit request' }).click();
    await stageIs(page, 'Registrar check');
    await choose(page, 'Who acts', 'as Director');
    await page.getByRole('button', { name: 'Accept' }).click();
    await expect(form.getByRole('alert')).toContainText('Accept');
    await stageIs(page, 'Registrar check');
    await choose(page, 'Who acts', 'as Registrar');
    await page.getByRole('button', { name: 'Fill', exact: true }).click();
    await expect(page.getByText(/Filled with made-up answers, seed 1/)).toBeVisible();
    await page.getByRole('button', { name: 'understood' }).click();
    await page.getByRole('button', { name: 'Accept' }).click();
    await stageIs(page, 'Director sign-off');
    await expect(page.getByRole('list', { name: 'Steps' })).toContainText('Submit requestAcceptnow');
  });

  await test.step('a step back, and an earlier answer changed: it is said where the path parts', async () => {
    await page.getByRole('list', { name: 'Steps' }).getByRole('button', { name: 'Submit request' }).click();
    await stageIs(page, 'Request');
    await page.getByLabel(/^Insured value, row 1/).fill('90000');
    await expect(
      page.getByText('The path parts after Registrar check: it went to Director sign-off, now to Conservation review.'),
    ).toBeVisible();
    await page.getByRole('button', { name: 'A step on' }).click();
    await page.getByRole('button', { name: 'A step on' }).click();
    await stageIs(page, 'Conservation review');
    await expectAccessible(page);
  });

  await test.step('on from there as the conservator and as the director', async () => {
    await choose(page, 'Who acts', 'as Conservator');
    await page.getByRole('button', { name: 'Fill', exact: true }).click();
    await page.getByRole('button', { name: 'understood' }).click();
    await page.getByRole('button', { name: 'Pass to director' }).click();
    await stageIs(page, 'Director sign-off');
    await choose(page, 'Who acts', 'as Director');
    await page.getByRole('button', { name: 'Fill', exact: true }).click();
    await page.getByRole('button', { name: 'understood' }).click();
    await page.getByRole('button', { name: 'Agree', exact: true }).click();
    await stageIs(page, 'Insurance');
  });

  await test.step('it is kept as a test, which passes', async () => {
    await page.getByRole('button', { name: 'Keep as test' }).click();
    await page.getByLabel('Name of the test').fill('A dear loan');
    await page.getByRole('button', { name: 'Keep it' }).click();
    await page.getByText('Tests (1)').click();
    const tests = page.getByRole('region', { name: 'Tests' });
    await expect(tests).toContainText(
      'A dear loan passes · Request → Registrar check → Conservation review → Director sign-off → Insurance',
    );
    await expectAccessible(page);
  });

  await test.step('after a change it fails, and says what has changed', async () => {
    await page.getByRole('link', { name: 'Decisions' }).click();
    // The steps of the rehearsal have a button of that name too, until the other page is there.
    await page
      .getByRole('navigation', { name: 'Decisions' })
      .getByRole('button', { name: /^Accept/ })
      .click();
    await page.getByRole('rowheader', { name: 'Conservation review' }).click();
    const row = page.getByRole('complementary', { name: 'The selected branch' });
    await row.getByRole('button', { name: 'as text' }).click();
    await writeExpression(page, 'totalValue > 500000');
    await expect(row).toContainText('Total value is above €500,000.00');
    await page.getByRole('link', { name: 'Rehearse' }).click();
    await page.getByText('Tests (1)').click();
    const tests = page.getByRole('region', { name: 'Tests' });
    await expect(tests).toContainText('Step 2: went to Conservation review, now goes to nowhere, it is refused.');
    await expect(tests).toContainText('1 of 1 fail');
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(tests).toContainText('It passes');
  });
});

test('exactly the threshold is told as it is; a rehearsal is shared by its link', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/workflows/objectLoan/rehearse`);
  await fillRequest(page);
  await page.getByLabel(/^Insured value, row 1/).fill('47000');
  await page.getByLabel(/^Insured value, row 2/).fill('899.50');
  await page.getByRole('button', { name: 'Submit request' }).click();
  await stageIs(page, 'Registrar check');
  await expect(why(page)).toContainText('Straight to sign-off is taken');
  await expect(why(page)).toContainText('Total value €50,000.00 is at most €50,000.00');
  await why(page).getByText('2 branches that aren’t taken').click();
  await expect(why(page)).toContainText('Total value €50,000.00 is above €50,000.00');
  await page.getByRole('button', { name: 'Share' }).click();
  await expect(page.getByText('The link is copied.')).toBeVisible();
  const address = await page.evaluate(() => navigator.clipboard.readText());
  await page.goto('about:blank');
  await page.goto(address);
  await stageIs(page, 'Registrar check');
  await expect(why(page)).toContainText('Total value €50,000.00 is at most €50,000.00');
  await page.goto(`${address.slice(0, address.indexOf('#'))}#cut`);
  await expect(page.getByText('The link holds no rehearsal')).toBeVisible();
});

test('a version, a day, a real record; beside the plan; dark', async ({ browser }) => {
  const context = await browser.newContext({ colorScheme: 'dark' });
  const page = await context.newPage();
  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/workflows/objectLoan/rehearse`);
  await choose(page, 'What is rehearsed', 'version 1');
  await input(page, 'fromDate').fill('2027-03-12');
  await page.getByRole('textbox', { name: 'Day of the rehearsal' }).fill('2027-01-04');
  await page.keyboard.press('Tab');
  await expect(page.getByRole('textbox', { name: 'Day of the rehearsal' })).toHaveValue('4 Jan 2027');
  await page.getByRole('button', { name: 'Begin …' }).click();
  await expect(page.getByRole('menuitem', { name: 'None of this workflow is open to you' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expectAccessible(page);
  await page.goto(`${server.base}/workflows/objectLoan/plan`);
  await page.getByRole('grid', { name: 'Field plan' }).waitFor();
  await page.keyboard.press('Alt+Shift+R');
  const drawer = page.getByRole('region', { name: 'Rehearsal' });
  await expect(drawer.getByRole('region', { name: 'Form' })).toBeVisible();
  await page.getByRole('gridcell', { name: 'Borrower at Request: required' }).click();
  await page.keyboard.press('h');
  await expect(drawer.locator('#field-borrower')).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(drawer.locator('#field-borrower')).toBeVisible();
  await expectAccessible(page);
  await context.close();
});
