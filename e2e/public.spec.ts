import { mkdtempSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { type Browser, expect, type Page, test } from '@playwright/test';
import { expectAccessible, fillRequest, handOn, openOnDesk, type PEOPLE, pressHandOff, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const press = (page: Page, name: string): Promise<void> => page.getByRole('button', { name, exact: true }).click();
const report = path.join(mkdtempSync(path.join(os.tmpdir(), 'ypomet-public-')), 'facility.pdf');
writeFileSync(report, Buffer.concat([Buffer.from('%PDF-1.7\n'), Buffer.alloc(300_000, 'x')]));

/** Opens the public link of the loan's request; its address. */
async function openLink(page: Page): Promise<string> {
  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/workflows/objectLoan/intakes`);
  const panel = page.getByRole('region', { name: 'Public link of Request' });
  const isOpen = panel.getByRole('switch', { name: 'People without an account may begin here' });
  await expect(isOpen).toBeVisible();
  if (!(await isOpen.isChecked())) await isOpen.click();
  await expect(panel.getByText(/^Open/)).toBeVisible();
  return panel.getByLabel('Address of Request').inputValue();
}

async function guestOf(browser: Browser, address: string): Promise<Page> {
  const page = await (await browser.newContext()).newPage();
  await page.goto(address);
  await expect(page.getByRole('heading', { level: 1, name: 'Object loan' })).toBeVisible();
  return page;
}

/** Opens a record on somebody's desk. */
const openAs = (page: Page, who: keyof typeof PEOPLE, record: string) => openOnDesk(page, server, who, record);

test('a loan from a public intake to its end: sent back, answered, reviewed, agreed and signed', async ({ page, browser }) => {
  const address = await openLink(page);
  const guest = await guestOf(browser, address);
  let number = '';
  let own = '';
  await test.step('somebody without an account hands it in, with a file', async () => {
    await fillRequest(guest);
    // An address that nobody of the house has.
    await guest.locator('#field-borrowerEmail').clear();
    await guest.locator('#field-borrowerEmail').pressSequentially('wilma@marsh.invalid');
    const field = guest.locator('[data-field="facilityReport"]');
    await field.locator('input[type=file]').setInputFiles(report);
    await expect(field.getByText('300.0 kB')).toBeVisible();
    await expectAccessible(guest);
    await pressHandOff(guest, 'Submit request');
    await expect(guest.getByRole('heading', { name: 'It has arrived' })).toBeVisible();
    number = /L-\d{4}-\d{4}/.exec((await guest.getByRole('main').textContent()) ?? '')?.[0] ?? '';
    own = await guest.getByLabel('Your private address').inputValue();
    await expectAccessible(guest);
  });

  await test.step('the registrar finds it on the desk, reads the file, and asks', async () => {
    await openAs(page, 'registrar', number);
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'facility.pdf' }).click(),
    ]);
    expect(download.suggestedFilename()).toBe('facility.pdf');
    await page.locator('#field-reason').fill('How bright are your rooms?');
    await pressHandOff(page, 'Ask borrower');
  });

  await test.step('the guest learns of it by mail, and answers at the private address', async () => {
    await signInAs(page, server, 'analyst');
    const openMail = async (subject: string): Promise<void> => {
      const mail = page.getByRole('link', { name: subject }).first();
      await expect(async () => {
        await page.goto(`${server.base}/mailbox`);
        await mail.click({ timeout: 1000 });
      }).toPass({ timeout: 60_000 });
      await page.getByText('As plain text').click();
    };
    // The guest typed an address that belongs to no member: before its holder confirms it, only the mail that asks for this is sent.
    await openMail('Please confirm your mail address');
    const confirmAt = /\S+\/confirm#\S+/.exec((await page.getByText('/confirm#').last().textContent()) ?? '')?.[0] ?? '';
    const reader = await (await browser.newContext()).newPage();
    await reader.goto(confirmAt);
    await expect(reader.getByRole('heading', { name: 'Confirm your mail address' })).toBeVisible();
    await expectAccessible(reader);
    await reader.getByRole('button', { name: 'Confirm this address' }).press('Enter');
    await expect(reader.getByRole('heading', { name: 'Your address is confirmed' })).toBeVisible();
    await reader.goto(`${server.base}/confirm#cut-off`);
    await reader.reload();
    await reader.getByRole('button', { name: 'Confirm this address' }).click();
    await expect(reader.getByText('or a week has passed')).toBeVisible();
    await expect(reader.getByRole('button', { name: 'Confirm this address' })).toBeHidden();
    await openMail(`Your loan request ${number}`);
    await expect(page.getByText(own)).toBeVisible();

    const later = await (await browser.newContext()).newPage();
    await later.goto(own);
    await expect(later.getByText('It came back to you')).toBeVisible();
    await expectAccessible(later);
    // Whoever asked isn't told by name.
    await expect(later.getByRole('main')).not.toContainText('Rufus');
    await later.locator('#field-venue').click();
    await later.getByRole('option', { name: 'Home' }).click();
    await pressHandOff(later, 'Submit request');
    await expect(later.getByText('Others have it now')).toBeVisible();
    // The file that was handed over is still theirs to save.
    const [download] = await Promise.all([
      later.waitForEvent('download'),
      later.getByRole('button', { name: 'facility.pdf', exact: true }).click(),
    ]);
    expect(download.suggestedFilename()).toBe('facility.pdf');
  });

  await test.step('checked by the registrar, reviewed by the conservator, agreed by the director', async () => {
    await openAs(page, 'registrar', number);
    await page.locator('#field-luxLimit').fill('50');
    await page.getByLabel(/^Insured value, row 1/).fill('60000');
    await pressHandOff(page, 'Accept');
    await openAs(page, 'conservator', number);
    await page.locator('[data-field="climateControl"]').getByText('Yes', { exact: true }).click();
    await pressHandOff(page, 'Pass to director');
    await openAs(page, 'director', number);
    await pressHandOff(page, 'Agree');
    await expect(page.getByRole('heading', { name: 'It opened' })).toBeVisible();
  });

  // At home nothing is transported: the terms wait for the condition reports alone.
  await test.step('the terms come to the guest, who signs them', async () => {
    await openAs(page, 'registrar', number);
    const id = page.url().split('/').at(-1) ?? '';
    const { opened } = await (await page.request.get(`${server.base}/api/records/${id}`)).json();
    await page.locator('#field-policyNumber').fill('P-77');
    await pressHandOff(page, 'Insured');
    await signInAs(page, server, 'conservator');
    for (const one of opened.filter((one: { workflow: string }) => one.workflow === 'conditionReport'))
      await handOn(page, server, one.id, 'file', { seenOn: '2027-03-01', state: 'good', signed: { sign: true } });

    const signing = await (await browser.newContext()).newPage();
    await signing.goto(own);
    await expect(signing.getByText('It came back to you')).toBeVisible();
    await signing.locator('[data-field="agreed"]').getByRole('button', { name: 'Sign' }).click();
    await pressHandOff(signing, 'Agree to the terms');
    await expect(signing.getByText(/at On loan since/)).toBeVisible();
  });

  await test.step('back, looked at, closed: and the guest sees that it is', async () => {
    await openAs(page, 'registrar', number);
    await pressHandOff(page, 'It is back');
    await openAs(page, 'conservator', number);
    await page.locator('[data-field="damaged"]').getByText('No', { exact: true }).click();
    await pressHandOff(page, 'All is well');
    await guest.goto('about:blank');
    await guest.goto(own);
    await expect(guest.getByText('It is finished')).toBeVisible();
  });
});

test('what was entered is there again after the page was closed, and can be forgotten', async ({ page, browser }) => {
  const guest = await guestOf(browser, await openLink(page));
  await guest.locator('#field-borrower').fill('Quayside Study Centre');
  const again = await guest.context().newPage();
  await again.goto(guest.url());
  await expect(again.getByText('A form was begun here before, in this browser')).toBeVisible();
  // Others may use this device: nothing is shown before somebody says that it was them.
  await expect(again.getByText('Quayside Study Centre')).toHaveCount(0);
  await expect(again.locator('#field-borrower')).toHaveCount(0);
  await press(again, 'Go on with it');
  await expect(again.locator('#field-borrower')).toHaveValue('Quayside Study Centre');
  await again.reload();
  await press(again, 'Forget it, begin afresh');
  await expect(again.locator('#field-borrower')).toHaveValue('');
});

test('a program that fills in everything is asked to be a person; a person presses again', async ({ page, browser }) => {
  const guest = await guestOf(browser, await openLink(page));
  await fillRequest(guest);
  await guest.locator('input[name=website]').evaluate((input: HTMLInputElement) => {
    input.value = 'https://pills.invalid';
  });
  await press(guest, 'Submit request');
  await expect(guest.getByRole('alert')).toContainText('as if a program had filled it in');
  await press(guest, 'Submit request');
  await expect(guest.getByRole('heading', { name: 'It has arrived' })).toBeVisible();
});

test('a link after its end says so, on a phone too; an address that is none says what to look for', async ({ page, browser }) => {
  const address = await openLink(page);
  const panel = page.getByRole('region', { name: 'Public link of Request' });
  await panel.getByLabel('Until', { exact: true }).fill('3 Mar 2020, 12:00');
  await panel.getByLabel('Until', { exact: true }).press('Enter');
  await expect(panel.getByText(/^Over/)).toBeVisible();
  await expectAccessible(page);
  const phone = await (await browser.newContext({ viewport: { width: 375, height: 720 } })).newPage();
  await phone.goto(address);
  await expect(phone.getByText('It was open until 3 Mar 2020, 12:00.')).toBeVisible();
  await phone.goto(`${server.base}/follow#nothing`);
  await expect(phone.getByRole('heading', { name: 'There is nothing to follow at this address' })).toBeVisible();
  await expectAccessible(phone);
  await panel.getByLabel('Until', { exact: true }).fill('');
  await panel.getByLabel('Until', { exact: true }).press('Enter');
  await expect(panel.getByText(/^Open/)).toBeVisible();
  await phone.goto(address);
  await expect(phone.locator('#field-borrower')).toBeVisible();
  expect(await phone.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(375);
});

test('another site shows the form within its page only where the link names it', async ({ page, browser }) => {
  const address = (await openLink(page)).replace('/open/', '/embed/');
  let site: Server | null = null;
  try {
    site = createServer((_, response) =>
      response
        .setHeader('content-type', 'text/html')
        .end(`<title>A museum</title><iframe src="${address}" width="900" height="700"></iframe>`),
    );
    await new Promise<void>((resolve) => site?.listen(0, '127.0.0.1', resolve));
    const origin = `http://127.0.0.1:${(site.address() as AddressInfo).port}`;
    const visitor = await (await browser.newContext()).newPage();
    await visitor.goto(origin);
    await expect(visitor.frameLocator('iframe').locator('#field-borrower')).toHaveCount(0);

    const sites = page.getByRole('combobox', { name: 'Sites that may show the form within their pages' });
    await sites.fill(origin);
    await sites.press('Enter');
    await expect(page.getByLabel('Snippet of Request')).toHaveValue(new RegExp(`<iframe src="${server.base}/embed/`));
    await visitor.reload();
    const form = visitor.frameLocator('iframe');
    await expect(form.locator('#field-borrower')).toBeVisible();
    await form.locator('#field-borrower').fill('Hollen Street Gallery');
    await expect(form.getByRole('heading', { name: 'Object loan' })).toBeVisible();
  } finally {
    site?.close();
  }
});
