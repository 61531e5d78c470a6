import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;
test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const FIELDS = [
  { type: 'text', key: 'title', name: 'Title' },
  { type: 'date-time', key: 'at', name: 'Handover' },
  { type: 'date', key: 'day', name: 'Day', expression: 'date(at)' },
  { type: 'reference', key: 'about', name: 'Belongs to loan', workflow: 'objectLoan' },
  { type: 'member', key: 'keeper', name: 'Keeper', role: 'registrar' },
  { type: 'file', key: 'plans', name: 'Plans' },
  { type: 'number', key: 'offer', name: 'Offer' },
  { type: 'number', key: 'reserve', name: 'Reserve', treatment: 'hidden', confidentialTo: ['director'] },
  { type: 'text', key: 'why', name: 'Why so little' },
  { type: 'text', key: 'care', name: 'Care notes', treatment: 'hidden' },
  { type: 'sign-off', key: 'agreed', name: 'Agreed', treatment: 'hidden' },
];
const DOSSIER = {
  format: 'ypomet.workflow/1',
  key: 'dossier',
  name: 'Dossier',
  description: 'Papers of an object.',
  numbering: 'D-{number:3}',
  roles: [
    { key: 'registrar', name: 'Registrar' },
    { key: 'director', name: 'Director' },
  ],
  sections: [{ key: 'all', name: 'Object' }],
  fields: FIELDS.map((field) => ({ section: 'all', treatment: 'optional', ...field })),
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
    { key: 'check', name: 'Check', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  plan: { care: { check: 'optional' }, agreed: { check: 'optional' } },
  adjustments: [
    { key: 'low', name: 'Low offers', when: 'offer < reserve', stages: ['ask'], fields: ['why'], treatment: 'required' },
  ],
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'check' } },
    { key: 'finish', name: 'Finish', from: 'check', otherwise: { to: 'done' } },
    { key: 'back', name: 'Send back', from: 'check', checking: 'none', otherwise: { to: 'ask' } },
  ],
};

/** Opens a record of the list by its number. */
async function openRecord(page: Page, number: string): Promise<void> {
  await page.goto(`${server.base}/desk`);
  await page
    .getByRole('link', { name: new RegExp(number) })
    .first()
    .click();
  await expect(page.locator('#field-title, [data-field="title"]').first()).toBeVisible();
}

test('from a warning that is accepted to a sign-off that no longer stands', async ({ page, browser }) => {
  await signInAs(page, server, 'analyst');
  const status = await page.evaluate(
    async (definition) =>
      (await fetch('/api/workflows', { method: 'POST', headers: { 'content-type': 'application/json' }, body: definition }))
        .status,
    JSON.stringify(DOSSIER),
  );
  expect(status).toBe(201);

  await test.step('the warning says what could be found out, and wants a reason', async () => {
    await page.goto(`${server.base}/workflows/dossier/plan`);
    await page.getByRole('button', { name: 'Publish' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog).toContainText('somebody who tries values of Offer could find out Reserve');
    await expectAccessible(page);
    const publish = dialog.getByRole('button', { name: /reason to give/ });
    await expect(publish).toBeDisabled();
    await dialog.getByRole('textbox', { name: /^Why/ }).fill('Offers are few, and looked at by hand.');
    await dialog.getByRole('textbox', { name: /^Notes/ }).fill('The first one.');
    await dialog.getByRole('button', { name: /^Publish/ }).click();
    await expect(dialog).toBeHidden();
  });

  const borrower = await (await browser.newContext()).newPage();
  await signInAs(borrower, server, 'borrower');
  await borrower.getByRole('link', { name: /^Dossier/ }).click();

  await test.step('each field has its input; a time is the clock’s of the workspace', async () => {
    await borrower.locator('#field-title').fill('Storm lantern');
    await borrower.locator('#field-at').fill('2027-01-02T00:30');
    await expect(borrower.locator('[data-field="day"]')).toContainText(/2 Jan 2027/);
    await borrower.locator('#field-about').click();
    const records = borrower.getByRole('option', { name: /^L-/ });
    await expect(records.first()).toBeVisible();
    await borrower.keyboard.press('ArrowDown');
    await borrower.keyboard.press('Enter');
    await expect(borrower.locator('#field-about')).toHaveValue(/^L-/);
    await borrower.locator('#field-keeper').fill('Ruf');
    await borrower.getByRole('option', { name: /Rufus Okonjo/ }).click();
    await expect(borrower.locator('#field-keeper')).toHaveValue('Rufus Okonjo');
    await borrower
      .locator('input[type=file]')
      .setInputFiles({ name: 'hall.pdf', mimeType: 'application/pdf', buffer: Buffer.from('%PDF-1.7 a plan') });
    await expect(borrower.locator('[data-field="plans"]')).toContainText('hall.pdf');
    await expectAccessible(borrower);
  });

  await test.step('what was entered is there again after one has left', async () => {
    await borrower.getByRole('link', { name: 'Desk' }).click();
    await borrower.getByRole('region', { name: 'Begun, not handed on' }).getByRole('link').click();
    await expect(borrower.locator('#field-title')).toHaveValue('Storm lantern');
    await expect(borrower.locator('#field-keeper')).toHaveValue('Rufus Okonjo');
    await expect(borrower.locator('#field-about')).toHaveValue(/^L-/);
    await expect(borrower.locator('[data-field="plans"]')).toContainText('hall.pdf');
  });

  await test.step('a question that fails says so, and can be asked again', async () => {
    await borrower.route('**/ask/form', (route) => route.abort());
    await borrower.locator('#field-offer').fill('5');
    await expect(borrower.getByRole('alert')).toContainText('the buttons wait', { timeout: 30_000 });
    await expect(borrower.getByRole('button', { name: 'Send', exact: true })).toBeDisabled();
    await borrower.unroute('**/ask/form');
    await borrower.getByRole('button', { name: 'Ask again' }).click();
    await expect(borrower.getByRole('button', { name: 'Send', exact: true })).toBeEnabled();
    await borrower.getByRole('button', { name: 'Send', exact: true }).click();
    await expect(borrower.getByText('It is at Check now.')).toBeVisible();
  });

  const registrar = await (await browser.newContext()).newPage();
  await signInAs(registrar, server, 'registrar');

  await test.step('the registrar signs; the borrower looks in and sees no notes', async () => {
    await openRecord(registrar, 'D-001');
    await expect(registrar.locator('#field-at')).toHaveValue('2 Jan 2027, 00:30');
    await registrar.locator('#field-care').fill('Brittle glass.');
    await openRecord(borrower, 'D-001');
    await expect(borrower.getByText('You can read this record. Others have it now.')).toBeVisible();
    await expect(borrower.locator('[data-field="care"]')).toHaveCount(0);
    await registrar.getByRole('button', { name: 'Sign', exact: true }).click();
    await registrar.getByRole('button', { name: 'Send back' }).click();
    await expect(registrar.getByText('It is at Ask now.')).toBeVisible();
  });

  await test.step('what was signed changes: it no longer stands', async () => {
    await openRecord(borrower, 'D-001');
    await borrower.locator('#field-title').fill('Another lantern');
    await borrower.getByRole('button', { name: 'Send', exact: true }).click();
    await expect(borrower.getByText('It is at Check now.')).toBeVisible();
    await openRecord(registrar, 'D-001');
    await expect(registrar.locator('[data-field="agreed"]')).toContainText('Signed by Rufus Okonjo');
    await expect(registrar.locator('[data-field="agreed"]')).toContainText('It no longer stands');
    await expectAccessible(registrar);
  });
  await test.step('a panel that fails leaves the rest of the page, and can be tried again', async () => {
    const damaged = /\/api\/records\/[0-9a-f-]{36}$/;
    await registrar.route(damaged, async (route) => {
      const response = await route.fetch();
      const answer = await response.json();
      await route.fulfill({ response, json: { ...answer, form: { ...answer.form, brokenSignOffs: null } } });
    });
    await registrar.reload();
    await expect(registrar.getByRole('alert')).toContainText('The form');
    await expect(registrar.getByText('So far')).toBeVisible();
    await registrar.unroute(damaged);
    await registrar.reload();
    await expect(registrar.locator('#field-title')).toHaveValue('Another lantern');
  });
  await borrower.close();
  await registrar.close();
});

test('a file without JSON and a server that is away are told apart', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/workflows`);
  const choose = (text: string) =>
    page.locator('input[type=file]').setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer: Buffer.from(text) });
  await choose('{"format":');
  await expect(page.getByRole('alert')).toContainText('It holds no JSON');
  await page.route('**/api/workflows', (route) => route.abort());
  await choose('{"format": "ypomet.workflow/1"}');
  await expect(page.getByRole('alert')).toContainText('The server can’t be reached');
  await page.unroute('**/api/workflows');
  await choose('{"format": "ypomet.workflow/1"}');
  await expect(page.getByRole('alert')).toContainText(/doesn’t have the shape it should/);
});

test('a definition file whose workflow is there changes nothing unasked: it is compared, read in and undone, or made a workflow beside', async ({
  page,
}) => {
  await signInAs(page, server, 'analyst');
  const get = async (key: string) => (await page.request.get(`${server.base}/api/workflows/${key}/draft`)).json();
  const before = (await get('transportBooking')).definition;
  const file = { ...before, description: 'As the carrier wants it' };
  const choose = async () => {
    await page.goto(`${server.base}/workflows`);
    const buffer = Buffer.from(JSON.stringify(file));
    await page.locator('input[type=file]').setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer });
    return page.getByRole('dialog', { name: 'The file’s workflow is here already' });
  };
  const description = async (): Promise<string> => (await get('transportBooking')).definition.description;

  let dialog = await choose();
  await expect(dialog.getByText('As the carrier wants it')).toBeVisible();
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Leave the draft as it is' }).click();
  await expect(dialog).toBeHidden();
  expect((await get('transportBooking')).definition).toEqual(before);

  dialog = await choose();
  await dialog.getByRole('button', { name: 'Read it into this draft' }).click();
  await expect.poll(description).toBe('As the carrier wants it');
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect.poll(description).toBe(before.description);

  dialog = await choose();
  await dialog.getByRole('button', { name: 'Make a new workflow of it' }).click();
  await expect(page).toHaveURL(/\/workflows\/copyOf[A-Za-z]*\/plan/);
  expect((await get('transportBooking')).definition).toEqual(before);
});
