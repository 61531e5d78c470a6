import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, publishWorkflow, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

// Each field type by its real input: entered with the keyboard alone, and as somebody who listens to the page has it.
let server: RunningServer;

const OPTIONS = [
  { code: 'paper', label: 'Paper' },
  { code: 'glass', label: 'Glass' },
];
const EVERY_TYPE = {
  format: 'ypomet.workflow/1',
  key: 'everyType',
  name: 'Every type',
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 'all', name: 'Everything' }],
  fields: [
    { type: 'text', key: 'title', name: 'Title', treatment: 'required', help: 'As it is on the label' },
    { type: 'long-text', key: 'story', name: 'Story' },
    { type: 'number', key: 'lux', name: 'Light', unit: 'lx', scale: 1 },
    { type: 'money', key: 'worth', name: 'Worth', currency: 'EUR' },
    { type: 'yes-no', key: 'fragile', name: 'Fragile' },
    { type: 'date', key: 'made', name: 'Made on' },
    { type: 'time', key: 'opens', name: 'Opens at' },
    { type: 'date-time', key: 'moved', name: 'Moved at' },
    { type: 'choice', key: 'material', name: 'Material', options: OPTIONS },
    { type: 'multi-choice', key: 'others', name: 'Other materials', options: OPTIONS },
    { type: 'member', key: 'keeper', name: 'Keeper' },
    { type: 'reference', key: 'loan', name: 'Loan', workflow: 'objectLoan' },
    { type: 'file', key: 'plans', name: 'Plans' },
    {
      type: 'table',
      key: 'parts',
      name: 'Parts',
      fields: [
        { type: 'text', key: 'part', name: 'Part' },
        { type: 'number', key: 'weight', scale: 1, name: 'Weight' },
      ],
    },
    { type: 'sign-off', key: 'signed', name: 'Signed' },
    { type: 'note', key: 'hint', name: 'Hint', text: 'Weigh it twice.' },
    { type: 'number', key: 'double', name: 'Twice the light', expression: 'lux * 2' },
  ].map((field) => ({ section: 'all', treatment: 'optional', ...field })),
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [{ key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'done' } }],
};

test.beforeAll(async ({ browser }) => {
  server = await RunningServer.make();
  const page = await browser.newPage();
  await signInAs(page, server, 'analyst');
  await publishWorkflow(page, server, EVERY_TYPE);
  await page.close();
});
test.afterAll(() => server.stop());

/** Goes on with the tab key until something in a field has the focus. */
async function tabInto(page: Page, field: string): Promise<void> {
  for (let pressed = 0; pressed < 80; pressed += 1) {
    await page.keyboard.press('Tab');
    const at = await page.evaluate(() => document.activeElement?.closest('[data-field]')?.getAttribute('data-field') ?? '');
    if (at === field) return;
  }
  throw new Error(`${field} can’t be reached with the tab key`);
}

test('every type is entered with the keyboard alone, and read back as it was meant', async ({ page }) => {
  await signInAs(page, server, 'borrower');
  await page.goto(`${server.base}/begin/everyType/ask`);
  await expect(page.locator('#field-title')).toBeVisible();
  const type = async (field: string, text: string): Promise<void> => {
    await tabInto(page, field);
    await page.keyboard.type(text);
  };
  await type('title', 'Storm lantern');
  await type('story', 'Found at sea.');
  await type('lux', '50.5');
  await type('worth', '1200.50');
  await tabInto(page, 'fragile');
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowLeft');
  await type('made', '12 Mar 1911');
  await type('opens', '9:30');
  await type('moved', '3 Apr 2027, 14:00');
  await tabInto(page, 'material');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await tabInto(page, 'others');
  await page.keyboard.press('Space');
  await type('keeper', 'Rufus');
  // The first of what is found is chosen; going down chooses another.
  await expect(page.getByRole('option')).toHaveCount(1);
  await page.keyboard.press('Enter');
  await expect(page.locator('#field-keeper')).toHaveValue('Rufus Okonjo');
  // Until what was typed is found, no key chooses anything.
  const found = page.waitForResponse((response) => /\/choices\?.*search=L-/.test(response.url()));
  await type('loan', 'L-');
  await found;
  const records = page.getByRole('listbox', { name: 'Records' });
  await expect(records.locator('[data-combobox-selected]')).toHaveCount(1);
  await expectAccessible(page);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await tabInto(page, 'parts');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel(/^Part, row 1/)).toBeVisible();
  await page.getByLabel(/^Part, row 1/).focus();
  await page.keyboard.type('Burner');
  await page.keyboard.press('Tab');
  await page.keyboard.type('0.4');
  await tabInto(page, 'signed');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Beryl Quist signs what this form shows')).toBeVisible();
  await expectAccessible(page);

  await page.getByRole('button', { name: 'Send' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Handed on' })).toBeVisible();
  await page.getByRole('link', { name: 'Look at the record' }).click();
  const shown = (field: string) => page.locator(`[data-field="${field}"]`);
  for (const [field, said] of [
    ['title', 'Storm lantern'],
    ['story', 'Found at sea.'],
    ['lux', '50.5 lx'],
    ['worth', '€1,200.50'],
    ['made', '12 Mar 1911'],
    ['opens', '09:30'],
    ['moved', '3 Apr 2027'],
    ['material', 'Glass'],
    ['others', 'Paper'],
    ['keeper', 'Rufus Okonjo'],
    ['loan', /L-\d{4}/],
    ['parts', 'Burner'],
    ['signed', 'Signed by Beryl Quist'],
    ['double', '101'],
  ] as const)
    await expect(shown(field)).toContainText(said);
  await expect(shown('fragile')).toContainText('yes');
});

test('what is half typed into a table is there again after a reload, costs no other cell, and is handed on as it was meant', async ({
  page,
}) => {
  await signInAs(page, server, 'borrower');
  await page.goto(`${server.base}/begin/objectLoan/request`);
  await page.getByRole('button', { name: 'Add a row' }).click();
  const title = page.getByLabel(/^Title, row 1/);
  await expect(title).toBeFocused();
  await title.pressSequentially('Tide clock');
  const value = page.getByLabel(/^Insured value, row 1/);
  for (const [typed, left] of [
    ['18.', '18.00'],
    ['-', '-'],
    ['1,250.50', '1,250.50'],
    ['12 abc', '12 abc'],
    ['.5', '0.50'],
  ] as const) {
    await value.press('ControlOrMeta+a');
    await value.pressSequentially(typed);
    await expect(value).toHaveValue(typed);
    await value.press('Tab');
    await expect(value).toHaveValue(left);
    await expect(title).toHaveValue('Tide clock');
    await expect(page.getByText('What you entered is kept.')).toBeVisible();
    await page.reload();
    await expect(value).toHaveValue(left);
    await expect(title).toHaveValue('Tide clock');
  }
  // A press leads to what can't be read, and is never taken with it.
  await value.press('ControlOrMeta+a');
  await value.pressSequentially('62,400 or so');
  await page.getByRole('button', { name: 'Submit request' }).click();
  await page.getByRole('button', { name: /^Show the other/ }).click();
  await page.getByRole('button', { name: 'Objects, row 1, Insured value: what is typed there can’t be read yet.' }).click();
  await expect(value).toBeFocused();
  // Pasted, an amount means what it says: marks, currency and all.
  await value.press('ControlOrMeta+a');
  await page.keyboard.insertText('€62,400');
  await value.press('Tab');
  await expect(value).toHaveValue('62,400.00');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Give it up, begin afresh' }).click();
});

test('each is told by its name, what it takes, and whether it must be filled in', async ({ page }) => {
  await signInAs(page, server, 'borrower');
  await page.goto(`${server.base}/begin/everyType/ask`);
  const form = page.getByRole('main');
  await expect(form.getByRole('textbox', { name: /^Title/ })).toHaveAccessibleDescription(/As it is on the label/);
  await expect(form.getByRole('textbox', { name: /^Title/ })).toHaveAttribute('aria-required', 'true');
  await expect(form.getByRole('textbox', { name: /^Story/ })).toBeVisible();
  await expect(form.getByRole('textbox', { name: /^Light/ })).toBeVisible();
  await expect(form.getByRole('textbox', { name: /^Worth/ })).toBeVisible();
  await expect(form.getByRole('radiogroup', { name: /^Fragile/ }).getByRole('radio')).toHaveCount(2);
  for (const name of [/^Made on/, /^Opens at/, /^Moved at/]) await expect(form.getByRole('textbox', { name })).toBeVisible();
  // A choice and what is looked for are comboboxes; several options are boxes of a group.
  for (const name of [/^Keeper/, /^Loan/]) await expect(form.getByRole('combobox', { name })).toBeVisible();
  await expect(form.getByRole('combobox', { name: /^Material/ })).toBeVisible();
  await expect(form.getByRole('group', { name: /^Other materials/ }).getByRole('checkbox')).toHaveCount(2);
  await expect(form.getByRole('group', { name: /^Plans/ }).getByRole('button', { name: 'Choose a file' })).toBeVisible();
  await expect(form.getByRole('group', { name: /^Signed/ }).getByRole('button', { name: 'Sign' })).toBeVisible();
  await expect(form.getByRole('button', { name: 'Add a row' })).toBeVisible();
  await expect(form.getByText('Weigh it twice.')).toBeVisible();

  // What is missing is said where it is missing, and the focus goes there.
  await page
    .getByRole('button', { name: 'Give it up, begin afresh' })
    .click({ timeout: 2000 })
    .catch(() => {});
  await form.getByRole('textbox', { name: /^Title/ }).fill('');
  await page.getByRole('button', { name: 'Send' }).click();
  await expect(page.getByRole('alert').first()).toBeVisible();
  await expect(form.getByRole('textbox', { name: /^Title/ })).toBeFocused();
  await expect(form.getByRole('textbox', { name: /^Title/ })).toHaveAttribute('aria-invalid', 'true');
});
