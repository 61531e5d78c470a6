import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, pressHandOff, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const DESIGN = {
  format: 'ypomet.workflow/1',
  key: 'timed',
  name: 'Timed',
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 's', name: 'S' }],
  fields: [{ type: 'text', key: 'note', name: 'Note', section: 's', treatment: 'optional' }],
  tracks: [{ key: 'm', name: 'M' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['m'], roles: ['registrar'] },
    { key: 'rest', name: 'Rest', kind: 'work', tracks: ['m'], roles: ['registrar'] },
    { key: 'end', name: 'End', kind: 'end', tracks: ['m'] },
  ],
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'rest' } },
    { key: 'finish', name: 'Finish', from: 'rest', otherwise: { to: 'end' } },
  ],
};

const kept = (page: Page): Promise<void> => expect(page.getByRole('status').getByText('Kept', { exact: true })).toBeVisible();

/** Chooses in a select. */
async function choose(page: Page, label: string, option: string): Promise<void> {
  await page
    .getByRole('combobox', { name: label })
    .or(page.getByRole('textbox', { name: label }))
    .first()
    .click();
  await page.getByRole('option', { name: option, exact: true }).click();
}

test('a due date, a reminder and a hand-off by the clock: designed, rehearsed, published, and they happen', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  const made = await page.request.post(`${server.base}/api/workflows`, { data: DESIGN, headers: { origin: server.base } });
  expect(made.ok(), await made.text()).toBe(true);

  await test.step('a date and a reminder, among the consequences', async () => {
    await page.goto(`${server.base}/workflows/timed/consequences`);
    await page.getByRole('button', { name: 'Give Rest a due date' }).click();
    const due = page.getByRole('textbox', { name: /^Due: a date/ });
    await due.click();
    await page.keyboard.press('ControlOrMeta+a');
    await page.keyboard.insertText('record.arrivedAt + @"PT12S"');
    await page.keyboard.press('Tab');
    await kept(page);
    await page.getByRole('button', { name: 'Add a reminder' }).click();
    await page.getByRole('textbox', { name: 'Reminder' }).fill('Almost there');
    await page.keyboard.press('Enter');
    await page.getByRole('textbox', { name: 'Sent: how many' }).fill('0');
    await page.keyboard.press('Enter');
    await choose(page, 'Sent: unit', 'minutes');
    await kept(page);
    await expect(page.getByRole('heading', { name: /Rest · when it is due: Almost there/ })).toBeVisible();
    await expectAccessible(page);
  });

  await test.step('a hand-off that happens by itself, in the plan', async () => {
    await page.goto(`${server.base}/workflows/timed/plan?at=handOffs.finish`);
    await page.getByRole('switch', { name: 'Happens by itself' }).click();
    await page.getByRole('switch', { name: 'Nobody presses it' }).click();
    await choose(page, 'It happens: unit', 'minutes');
    await kept(page);
    await expectAccessible(page);
  });

  await test.step('rehearsed: when it is due, what would be sent, and that it goes on', async () => {
    await page.getByRole('link', { name: 'Rehearse' }).click();
    await page.getByRole('region', { name: 'Form' }).getByRole('button', { name: 'Send', exact: true }).click();
    const clock = page.getByRole('region', { name: 'By the clock' });
    await expect(clock.getByRole('heading', { name: /^Due \d/ })).toBeVisible();
    await clock.getByText('Reminder', { exact: false }).first().click();
    await expect(clock).toContainText('Almost there');
    await expectAccessible(page);
    await clock.getByRole('button', { name: 'Let “Finish” happen by itself' }).click();
    await expect(page.getByRole('region', { name: 'Form' }).getByRole('heading', { name: 'End' })).toBeVisible();
  });

  await test.step('published', async () => {
    await page.getByRole('button', { name: 'Publish', exact: true }).click();
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /^Publish/ })
      .click();
    await expect(page.getByText('v1, unchanged')).toBeVisible();
  });

  await test.step('a record is due, is reminded of, and goes on by itself', async () => {
    await signInAs(page, server, 'registrar');
    await page.goto(`${server.base}/begin/timed/ask`);
    await pressHandOff(page, 'Send');
    await page.goto(`${server.base}/desk`);
    const row = page.getByRole('link', { name: /Timed.*Rest/ }).first();
    await expect(row).toContainText(/due \d|overdue since \d/);
    await row.click();
    await expect(page.getByText(/due \d|overdue since \d/).first()).toBeVisible();
    await expect(page.getByRole('button', { name: 'Finish' })).toHaveCount(0);
    await expect(async () => {
      await page.reload();
      await expect(page.getByRole('complementary', { name: 'History' })).toContainText(/“Finish” at Rest\. It went to End/, {
        timeout: 500,
      });
    }).toPass({ timeout: 30_000 });
    await expect(page.getByRole('complementary', { name: 'History' })).toContainText('The reminder “Almost there” was sent.');
    await expectAccessible(page);
  });
});

test('the working calendar is changed, counted in at once, and mistakes are told beside their day', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/calendar`);
  const monday = page.getByRole('textbox', { name: 'Monday' });
  await expect(monday).toHaveValue('09:00–17:00');
  await monday.fill('17-9');
  await expect(page.getByText('Each must end after it begins')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Keep' })).toBeDisabled();
  await monday.fill('8-12, 13-16:30');
  await page.getByRole('textbox', { name: 'Holidays' }).fill('2026-12-25 Winter feast\nnext week');
  await expect(page.getByText('“next week” doesn’t begin with a date')).toBeVisible();
  await page.getByRole('textbox', { name: 'Holidays' }).fill('2027-01-01\n2026-12-25 Winter feast');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Keep' }).click();
  await expect(page.getByRole('status').getByText('Kept')).toBeVisible();
  await page.reload();
  await expect(monday).toHaveValue('08:00–12:00, 13:00–16:30');
  await expect(page.getByRole('textbox', { name: 'Holidays' })).toHaveValue('2026-12-25 Winter feast\n2027-01-01');
});
