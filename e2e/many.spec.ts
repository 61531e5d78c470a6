import { expect, test } from '@playwright/test';
import { expectAccessible, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;
test.beforeAll(async () => {
  server = await RunningServer.make({ hasHistory: true });
});
test.afterAll(() => server.stop());

/** A request for one object; works on paper need a lux limit before they are accepted. */
const requestOf = (material: string) => ({
  borrower: 'Hollen Street Gallery',
  borrowerEmail: 'beryl@hollenstreet.invalid',
  kind: 'exhibition',
  venue: 'home',
  fromDate: '2027-03-12',
  toDate: '2027-06-11',
  objects: [{ id: 'a', values: { title: 'Tide clock', material, insuredValue: '44000.00' } }],
});

test('many records are chosen, what a hand-off would come to is seen for each, and they go on', async ({ page }) => {
  // How many of the demo's past wait here depends on the day: one that can't be accepted yet, and some that can, are begun.
  await signInAs(page, server, 'borrower');
  for (const material of ['paper', 'metal', 'metal', 'metal']) {
    const begun = await page.request.post(`${server.base}/api/intakes/objectLoan/records`, {
      data: { stage: 'request', handOff: 'submit', values: requestOf(material) },
      headers: { origin: server.base },
    });
    expect(begun.ok(), await begun.text()).toBe(true);
  }
  await signInAs(page, server, 'registrar');
  await page.goto(`${server.base}/registers/objectLoan?filter=${encodeURIComponent('record.stage = "registrarCheck"')}`);
  const table = page.getByRole('region', { name: 'Records' });
  await table.getByRole('checkbox', { name: 'Choose all that are shown and not finished' }).check();
  const bar = page.getByRole('status').filter({ hasText: 'chosen' });
  const count = Number(/^(\d+) chosen/.exec((await bar.textContent()) ?? '')?.[1]);
  expect(count).toBeGreaterThan(2);
  await expectAccessible(page);
  /** Lets go of the first record by the keyboard, so that one less is chosen. */
  const letGoOfFirst = async (): Promise<void> => {
    await table
      .getByRole('checkbox', { name: /^Choose L-/ })
      .first()
      .focus();
    await page.keyboard.press('Space');
    await expect(bar).toContainText(`${count - 1} chosen`);
  };
  await letGoOfFirst();
  // All that match: those beyond the first page too. Here that is the one that was let go, which is then let go again.
  await bar.getByRole('button', { name: /^Choose all that match/ }).click();
  await expect(bar).not.toContainText(`${count - 1} chosen`);
  const all = Number(/^(\d+) chosen/.exec((await bar.textContent()) ?? '')?.[1]);
  expect(all).toBeGreaterThanOrEqual(count);
  await bar.getByRole('button', { name: 'Choose none' }).click();
  await table.getByRole('checkbox', { name: 'Choose all that are shown and not finished' }).check();
  await letGoOfFirst();

  await bar.getByRole('button', { name: 'Hand on …' }).click();
  const dialog = page.getByRole('dialog', { name: `Hand on ${count - 1} records` });
  await dialog.getByRole('button', { name: `Accept (${count - 1})` }).click();
  const outcome = dialog.getByRole('region', { name: 'What comes of it' });
  const sum = outcome.getByRole('status');
  await expect(sum).toHaveText(/^\d+ records? would go on, \d+ wouldn’t\.$/);
  await expectAccessible(page);
  await expect(outcome).toContainText('Lux limit is required.');
  // Another one is tried out instead, and the first again.
  await dialog.getByRole('button', { name: /^Decline/ }).click();
  await expect(sum).toHaveText(`${count - 1} records would go on, 0 wouldn’t.`);
  await dialog.getByRole('button', { name: /^Accept \(/ }).click();
  await expect(outcome).toContainText('Lux limit is required.');
  // The same value entered for all: the first lacked it, so now all go on.
  const before = Number(/^(\d+)/.exec((await sum.textContent()) ?? '')?.[1]);
  await dialog.getByLabel('Enter a value for all').click();
  await page.getByRole('option', { name: 'Lux limit' }).click();
  await expect(dialog.getByRole('textbox', { name: 'Lux limit' })).toBeFocused();
  await page.keyboard.type('50');
  await expect(outcome).toBeHidden();
  await dialog.getByRole('button', { name: 'Try it out with these values' }).click();
  await expect(sum).toHaveText(/would go on/);
  await expectAccessible(page);
  expect(Number(/^(\d+)/.exec((await sum.textContent()) ?? '')?.[1])).toBeGreaterThan(before);
  const goes = Number(/^(\d+)/.exec((await sum.textContent()) ?? '')?.[1]);
  await dialog.getByRole('button', { name: /^Accept: hand on/ }).click();
  await expect(sum).toHaveText(new RegExp(`^${goes} records? went on, ${count - 1 - goes} didn’t\\.$`));
  // It was the wrong button: nothing of it was sent yet, so it is taken back, by keyboard, and tried again.
  await dialog.getByRole('button', { name: `Take ${goes} records back` }).press('Enter');
  await expect(dialog.getByText(`${goes} taken back`)).toBeVisible();
  await expect(dialog.getByRole('status').filter({ hasText: 'taken back' })).toBeFocused();
  await expect(dialog).toContainText('They are again as they were, and nothing was sent.');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Done' }).click();
  await expect(table.getByRole('checkbox', { name: /^Choose L-/ })).toHaveCount(count);
  // The first one was let go before.
  await table.getByRole('link', { name: /^L-/ }).nth(1).click();
  await expect(page.getByText(/took “Accept” back, before anything was sent/)).toBeVisible();
});
