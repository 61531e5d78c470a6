import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, signInAs, writeExpression } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const inspectorOf = (page: Page) => page.getByRole('complementary', { name: 'Inspector' });
const kept = (page: Page) => expect(page.getByRole('status').getByText('Kept', { exact: true })).toBeVisible();

/** Picks an option of a select in the inspector. */
async function choose(page: Page, label: string, option: string): Promise<void> {
  await inspectorOf(page).getByRole('combobox', { name: label }).click();
  await page.getByRole('option', { name: option, exact: true }).click();
}

test('an analyst builds a workflow from nothing, publishes it, and a record runs through it', async ({ page }) => {
  await signInAs(page, server, 'analyst');

  await test.step('a name is all that is asked', async () => {
    await page.goto(`${server.base}/workflows`);
    await page.getByRole('button', { name: 'New workflow' }).click();
    await expect(page.getByRole('button', { name: 'Make it' })).toBeDisabled();
    await page.getByLabel('What is it called?').fill('Travel request');
    await page.keyboard.press('Enter');
    await expect(page.getByText('Nothing is asked yet.')).toBeVisible();
    await expectAccessible(page);
  });

  await test.step('twelve fields from one list, their types looked over', async () => {
    await page.getByRole('button', { name: 'Add fields to General' }).click();
    const names = page.getByLabel('Names, one a line');
    await expect(names).toBeFocused();
    await names.fill(
      'Traveller\nDestination\nFrom; date\nTo; date\nReason\nCost; money\nKind of travel; choice\nBy car?\nNights; number\nHotel\nRemarks\nTraveller\nTicket',
    );
    await expect(page.getByText('Left out: Traveller, of which there is one already.')).toBeVisible();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Add 12 fields' }).click();
    await expect(page.getByRole('gridcell', { name: 'Cost at Request: optional' })).toBeVisible();
    await expect(page.getByRole('gridcell', { name: 'Cost at Work: read-only' })).toBeVisible();
    await kept(page);
  });

  await test.step('a choice gets its options, pasted; a field is renamed, label and key', async () => {
    const inspector = inspectorOf(page);
    await page.getByRole('button', { name: 'Kind of travel' }).click();
    await inspector.getByRole('button', { name: 'Paste several' }).click();
    await page.getByLabel('One option a line').fill('rail; By rail\nair; By air\nBy ship');
    await inspector.getByRole('button', { name: 'Add 3 options' }).click();
    await inspector.getByRole('button', { name: 'Remove Option 1' }).click();
    await expect(inspector.getByLabel('Label of option 3')).toHaveValue('By ship');
    await expect(inspector.getByLabel('Code of By ship')).toHaveValue('byShip');
    await page.getByRole('button', { name: 'Ticket' }).click();
    await inspector.getByLabel('Name', { exact: true }).fill('Ticket number');
    await page.keyboard.press('Enter');
    await inspector.getByLabel('Key in expressions').fill('ticketNumber');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: 'Ticket number' })).toBeVisible();
    await expectAccessible(page);
  });

  await test.step('three more stages; each takes its place in the line', async () => {
    const inspector = inspectorOf(page);
    for (const [after, name] of [
      ['Request', 'Check'],
      ['Check', 'Approval'],
      ['Work', 'Settling'],
    ]) {
      await page.getByRole('button', { name: `Select ${after}` }).click();
      await inspector.getByRole('button', { name: 'Insert a stage after it' }).click();
      await inspector.getByLabel('Name', { exact: true }).fill(name ?? '');
      await page.keyboard.press('Enter');
      await expect(page.getByRole('button', { name: `Select ${name}` })).toBeVisible();
    }
    const stations = page.getByRole('group', { name: 'Stage map' }).getByRole('button');
    await expect(stations).toHaveCount(6);
    const names = await stations.evaluateAll((all) => all.map((one) => one.getAttribute('aria-label')?.split(',')[0]));
    expect(names).toEqual(['Request', 'Check', 'Approval', 'Work', 'Settling', 'Closed'].map((name) => `Select ${name}`));
    await kept(page);
  });

  await test.step('the map is walked through with the arrow keys', async () => {
    await page.getByRole('button', { name: 'Select Request' }).focus();
    await page.keyboard.press('ArrowRight');
    await expect(page.getByRole('button', { name: /^Select Check/ })).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(inspectorOf(page).getByRole('heading', { name: 'Check' })).toBeVisible();
  });

  await test.step('a branch with a condition: cheap journeys go past the approval', async () => {
    const inspector = inspectorOf(page);
    await inspector.getByRole('button', { name: 'Hand on' }).first().click();
    await inspector.getByRole('button', { name: 'Add a branch' }).click();
    await inspector.getByLabel('Name', { exact: true }).fill('Cheap');
    await page.keyboard.press('Enter');
    await choose(page, 'To', 'Work');
    await inspector.getByRole('button', { name: 'as text' }).click();
    await writeExpression(page, 'cost < 100');
    await expect(inspector).toContainText('Cost is below €100.00');
    await kept(page);
    await expectAccessible(page);
  });

  await test.step('cells are set with one key, and adjusted under a condition', async () => {
    const inspector = inspectorOf(page);
    await page.getByRole('gridcell', { name: 'Cost at Request: optional' }).click();
    await page.keyboard.press('r');
    await page.getByRole('gridcell', { name: 'Hotel at Request: optional' }).click();
    await inspector.getByRole('button', { name: 'Adjust it under a condition' }).click();
    await inspector.getByLabel('Name', { exact: true }).fill('Nights away');
    await page.keyboard.press('Enter');
    await inspector.getByRole('button', { name: 'as text' }).click();
    await writeExpression(page, 'nights > 0');
    await expect(page.getByRole('gridcell', { name: 'Hotel at Request: optional, adjusted by Nights away' })).toBeVisible();
    await kept(page);
  });

  await test.step('what is used says so before it goes; undo brings all of it back', async () => {
    const inspector = inspectorOf(page);
    await page.getByRole('button', { name: 'Nights', exact: true }).click();
    await expect(inspector.getByText('the adjustment “Nights away”')).toBeVisible();
    await inspector.getByRole('button', { name: 'Delete', exact: true }).click();
    const question = page.getByRole('alertdialog', { name: 'Delete with its uses' });
    await expect(question).toContainText('The field “Nights” is used by the adjustment “Nights away”.');
    await expect(question).toContainText(
      'Stays, with an expression that is a fault until you mend it: the adjustment “Nights away”.',
    );
    await expect(question.getByRole('button', { name: 'Keep it' })).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(inspector.getByRole('button', { name: 'Delete', exact: true })).toBeFocused();
    await page.keyboard.press('Enter');
    await question.getByRole('button', { name: 'Delete it, leave 1 fault to mend' }).click();
    await expect(page.getByRole('button', { name: 'Nights', exact: true })).toHaveCount(0);
    await kept(page);
    // The edits before a reload, and before a visit to another page, can still be undone and redone.
    await page.reload();
    await expect(page.getByRole('button', { name: 'Nights', exact: true })).toHaveCount(0);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByRole('button', { name: 'Nights', exact: true })).toBeVisible();
    await kept(page);
    await page.getByRole('link', { name: 'Desk', exact: true }).click();
    await page.waitForURL(/\/desk/);
    await page.goBack();
    await page.getByRole('button', { name: 'Redo' }).click();
    await expect(page.getByRole('button', { name: 'Nights', exact: true })).toHaveCount(0);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByRole('button', { name: 'Nights', exact: true })).toBeVisible();
    await kept(page);
  });

  await test.step('a workflow that is named for the first time is known without a reload', async () => {
    await page.getByRole('button', { name: 'Ticket number', exact: true }).click();
    await choose(page, 'Type', 'Reference to a record');
    for (const name of ['Condition report', 'Object loan', 'Transport booking']) {
      await choose(page, 'To a record of', name);
      await kept(page);
    }
    await expect(page.getByRole('button', { name: /\d+ faults?/ })).toHaveCount(0);
    await choose(page, 'Type', 'Text');
    await kept(page);
  });

  await test.step('a field is moved with the keyboard', async () => {
    await page.getByRole('gridcell', { name: /^Destination at Request/ }).click();
    await page.keyboard.press('Alt+ArrowUp');
    const first = page
      .getByRole('row')
      .filter({ has: page.getByRole('gridcell') })
      .first();
    await expect(first).toContainText('Destination');
    await expect(page.getByRole('gridcell', { name: /^Destination at Request/ })).toBeFocused();
  });

  await test.step('it is published, and says what was changed', async () => {
    await kept(page);
    await page.getByRole('button', { name: 'Publish' }).click();
    await page.getByRole('button', { name: 'Publish version 1' }).click();
    await page.getByRole('link', { name: 'Versions' }).click();
    await expect(page.getByText('moved the field “Destination” before “Traveller”')).toBeVisible();
    await expect(page.getByText('took back what was changed of', { exact: false }).first()).toBeVisible();
    await expectAccessible(page);
  });

  await test.step('a borrower begins a record, which goes past the approval', async () => {
    await signInAs(page, server, 'borrower');
    await page.goto(`${server.base}/desk`);
    await page.getByRole('link', { name: /^Travel request/ }).click();
    await page.locator('#field-cost').fill('80');
    await page.locator('#field-nights').fill('2');
    await expect(page.locator('[data-field="hotel"]')).toContainText('required');
    await page.locator('#field-hotel').fill('Harbour House');
    await page.getByRole('button', { name: 'Submit' }).click();
    await page.getByRole('link', { name: /desk/i }).first().click();
    await page
      .getByRole('link', { name: /Travel request.*Check/ })
      .first()
      .click();
    await page.getByRole('button', { name: 'Hand on' }).click();
    await expect(page.getByText('It is at Work now.')).toBeVisible();
  });
});
