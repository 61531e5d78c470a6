import { expect, type Page, test } from '@playwright/test';
import { fillRequest, handOn, openOnDesk, type PEOPLE, pressHandOff, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const history = (page: Page) => page.getByRole('complementary', { name: 'History' });

/** Opens a record on somebody's desk. */
const openAs = (page: Page, who: keyof typeof PEOPLE, record: string) => openOnDesk(page, server, who, record);

test('a loan from its request to the objects’ return, with all that is answered, sent, opened and due', async ({ page }) => {
  let number = '';
  let id = '';
  await test.step('asked for: what is read goes by the kind of loan', async () => {
    await signInAs(page, server, 'borrower');
    await page.goto(`${server.base}/begin/objectLoan/request`);
    await fillRequest(page);
    await pressHandOff(page, 'Submit request');
    const thanks = page.getByRole('status').filter({ hasText: /Thank you, Hollen Street Gallery/ });
    await expect(thanks).toBeVisible();
    number = /L-\d{4}-\d{4}/.exec((await thanks.textContent()) ?? '')?.[0] ?? '';
  });

  await test.step('checked', async () => {
    await openAs(page, 'registrar', number);
    id = page.url().split('/').at(-1) ?? '';
    await page.locator('#field-luxLimit').fill('50');
    await pressHandOff(page, 'Accept');
    await expect(page.getByRole('status').filter({ hasText: `${number} went on to Director sign-off.` })).toBeVisible();
  });

  await test.step('agreed: a condition report for each object and one transport are opened', async () => {
    await openAs(page, 'director', number);
    await pressHandOff(page, 'Agree');
    await expect(page.getByRole('heading', { name: 'It opened' })).toBeVisible();
    await expect(page.getByRole('listitem').filter({ hasText: 'Condition report' })).toHaveCount(3);
    await expect(page.getByRole('listitem').filter({ hasText: 'Transport booking' })).toHaveCount(1);
  });

  await test.step('insured: the premium that the insurer answers comes into the record', async () => {
    await openAs(page, 'registrar', number);
    await expect(async () => {
      await page.reload();
      await expect(history(page)).toContainText('insurer answered, and values were taken from the answer', { timeout: 1000 });
    }).toPass({ timeout: 20_000 });
    await expect(page.locator('[data-field="quotedPremium"]')).toContainText(/\d/);
    await page.locator('#field-policyNumber').fill('P-77');
    await pressHandOff(page, 'Insured');
  });

  await test.step('the borrower’s terms wait for the reports and the transport, and are due', async () => {
    await openAs(page, 'borrower', number);
    await expect(page.getByRole('heading', { level: 1, name: 'Agreement' })).toBeVisible();
    await expect(page.getByText(/^due \d/)).toBeVisible();
    await expect(page.getByRole('button', { name: 'Agree to the terms' })).toHaveCount(0);
    await signInAs(page, server, 'registrar');
    const { opened } = await (await page.request.get(`${server.base}/api/records/${id}`)).json();
    const transport = opened.find((one: { workflow: string }) => one.workflow === 'transportBooking');
    const crates = [{ id: 'c', values: { label: 'Crate 1', weight: '30.0' } }];
    await handOn(page, server, transport.id, 'book', {
      carrier: 'Nordkai',
      price: '400.00',
      pickUp: '2027-03-10T09:00:00Z',
      crates,
    });
    await signInAs(page, server, 'conservator');
    for (const report of opened.filter((one: { workflow: string }) => one.workflow === 'conditionReport'))
      await handOn(page, server, report.id, 'file', { seenOn: '2027-03-01', state: 'good', signed: { sign: true } });
  });

  await test.step('signed', async () => {
    await openAs(page, 'borrower', number);
    await page.locator('[data-field="agreed"]').getByRole('button').first().click();
    await pressHandOff(page, 'Agree to the terms');
    await expect(page.getByText('It is at On loan now.')).toBeVisible();
  });

  await test.step('on loan until its end, reminded of before; back, looked at, closed', async () => {
    await openAs(page, 'registrar', number);
    await expect(page.getByText('due 11 Jun 2027')).toBeVisible();
    // The clock has come to two weeks before.
    await server.query(`update records set clock_at = now() where number = '${number}'`);
    await pressHandOff(page, 'It is back');
    await openAs(page, 'conservator', number);
    await page.locator('[data-field="damaged"]').getByText('No', { exact: true }).click();
    await pressHandOff(page, 'All is well');
    await expect(page.getByText('It is at Closed now.')).toBeVisible();
  });

  await test.step('all that was sent is in the log, the mailbox and the register', async () => {
    await signInAs(page, server, 'analyst');
    await page.goto(`${server.base}/dispatch?record=${number}`);
    for (const name of ['New request to the registrars', 'Agreement to the borrower', 'Ask for a premium'])
      await expect(page.getByRole('row').filter({ hasText: name }).first()).toContainText('sent');
    await page.goto(`${server.base}/file-registers`);
    await expect(page.getByRole('link', { name: /Hollen-Street-Gallery-2027-03-12\.pdf/ })).toBeVisible();
    await page.goto(`${server.base}/mailbox`);
    await expect(page.getByText(new RegExp(number)).first()).toBeVisible();
  });
});
