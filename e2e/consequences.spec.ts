import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, signInAs, untilAnswered } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const kept = (page: Page): Promise<void> => expect(page.getByRole('status').getByText('Kept', { exact: true })).toBeVisible();
const panel = (page: Page) => page.getByRole('complementary', { name: 'The chosen one' });

/** Chooses in a select of the panel. */
async function choose(page: Page, label: string, option: string | RegExp): Promise<void> {
  await panel(page)
    .getByRole('combobox', { name: label })
    .or(panel(page).getByRole('textbox', { name: label }))
    .first()
    .click();
  await page.getByRole('option', { name: option }).first().click();
}

/** A workflow with two stages and a table, from nothing but fields. */
const BLANK = {
  format: 'ypomet.workflow/1',
  key: 'blank',
  name: 'Blank',
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 's', name: 'S' }],
  fields: [
    { type: 'text', key: 'who', name: 'Who asks', section: 's', treatment: 'optional' },
    { type: 'text', key: 'mail', name: 'Their e-mail', section: 's', treatment: 'optional' },
    { type: 'money', key: 'worth', name: 'Worth', currency: 'EUR', section: 's', treatment: 'optional' },
    { type: 'money', key: 'premium', name: 'Premium', currency: 'EUR', section: 's', treatment: 'read-only' },
    {
      type: 'table',
      key: 'objects',
      name: 'Objects',
      section: 's',
      treatment: 'optional',
      fields: [
        { type: 'text', key: 'title', name: 'Title' },
        {
          type: 'choice',
          key: 'material',
          name: 'Material',
          options: ['paper', 'textile', 'metal', 'glass', 'wood', 'stone'].map((code) => ({ code, label: code })),
        },
      ],
    },
  ],
  tracks: [{ key: 'm', name: 'M' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['m'] },
    { key: 'rest', name: 'Rest', kind: 'work', tracks: ['m'], roles: ['registrar'] },
    { key: 'end', name: 'End', kind: 'end', tracks: ['m'] },
  ],
  plan: { worth: { rest: 'read-only' } },
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'rest' } },
    { key: 'finish', name: 'Finish', from: 'rest', otherwise: { to: 'end' } },
  ],
};

test('each kind of consequence from blank, seen as it would arrive, published and run', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  const made = await page.request.post(`${server.base}/api/workflows`, { data: BLANK, headers: { origin: server.base } });
  expect(made.ok(), await made.text()).toBe(true);
  await page.goto(`${server.base}/workflows/blank/consequences`);
  await expect(page.getByText('Nothing happens yet but that records move.')).toBeVisible();
  await expectAccessible(page);

  await test.step('an answer with a value', async () => {
    await page.getByRole('button', { name: 'Add answer at Ask · Send' }).click();
    await expect(panel(page).getByRole('heading', { name: 'New answer' })).toBeVisible();
    const text = panel(page).getByRole('textbox', { name: 'What is read' });
    await text.click();
    await page.keyboard.press('ControlOrMeta+End');
    await page.keyboard.type(' Dear ');
    await panel(page).getByRole('group', { name: 'What is read' }).getByRole('button', { name: '+ value' }).click();
    await page.getByRole('menuitem', { name: 'Who asks' }).click();
    await expect(text.getByText('Who asks')).toBeVisible();
    await kept(page);
  });

  await test.step('a mail under a condition, to the submitter and a role, with a passage', async () => {
    await page.getByRole('button', { name: 'Add mail at Ask · Send' }).click();
    await choose(page, 'To: add somebody', 'role Registrar');
    await expect(panel(page).getByText('role Registrar', { exact: true })).toBeVisible();
    // The subject ends with an inserted value. After the End key, typed text must follow the value, not replace it.
    const subject = panel(page).getByRole('textbox', { name: 'Subject', exact: true });
    await subject.click();
    await page.keyboard.press('Home');
    await page.keyboard.press('End');
    await page.keyboard.type(' again');
    await expect(subject).toHaveText(/Record’s number\s+again$/);
    const group = panel(page).getByRole('group', { name: 'Text', exact: true });
    await group.getByRole('button', { name: 'as text' }).click();
    await group
      .getByRole('textbox', { name: 'Text, as text' })
      .fill('Hello {{who}}\n\n{{#when worth > 100}}\nThat is **much**.\n{{/when}}\n\n{{objects}}');
    await group.getByRole('button', { name: 'as it reads' }).click();
    await expect(group.getByRole('button', { name: /only when Worth is above €100/ })).toBeVisible();
    await panel(page).getByRole('button', { name: 'Fill it with made-up answers' }).click();
    const arriving = panel(page).getByRole('region', { name: 'As it would arrive' });
    await expect(arriving).toContainText('Hello ');
    await panel(page).getByRole('button', { name: 'Send me a test' }).click();
    await expect(panel(page).getByRole('status').filter({ hasText: 'Sent.' })).toBeVisible();
  });

  await test.step('a web request whose answer comes back', async () => {
    await page.getByRole('button', { name: 'Add web request at Ask · Send' }).click();
    await choose(page, 'Add a property', 'Worth');
    await panel(page).getByRole('textbox', { name: 'Name', exact: true }).nth(1).fill('value');
    await page.keyboard.press('Enter');
    await choose(page, 'Take a value into a field', 'Premium');
    await panel(page)
      .getByRole('group', { name: 'Address, after the outlet’s own' })
      .getByRole('button', { name: 'as text' })
      .click();
    await panel(page).getByRole('textbox', { name: 'Address, after the outlet’s own, as text' }).fill('/quotes');
    await expect(panel(page).getByRole('region', { name: 'As it would arrive' })).toContainText('POST /quotes');
    await kept(page);
  });

  await test.step('a file', async () => {
    await page.getByRole('button', { name: 'Add file at Rest · Finish' }).click();
    await expect(panel(page).getByRole('region', { name: 'As it would arrive' })).toContainText('REHEARSAL.json');
  });

  await test.step('a record for each row, with values of equal name proposed', async () => {
    await page.getByRole('button', { name: 'Add record at Ask · Send' }).click();
    await choose(page, 'Opens a record of', 'Condition report');
    await choose(page, 'Entered by', 'Ask for the report');
    await choose(page, 'How many', /one for each of Objects/);
    await panel(page)
      .getByRole('button', { name: /Carry 2 values of equal name and type/ })
      .click();
    await expect(panel(page).getByRole('group', { name: 'Carried values' }).getByText('Title').first()).toBeVisible();
    await kept(page);
    // It requires the loan that it points back to, of another workflow.
    await expect(page.getByText(/1 fault/)).toHaveCount(0);
  });

  await test.step('by receiver and by outlet', async () => {
    await page.getByText('by receiver', { exact: true }).click();
    await expect(page.getByRole('heading', { name: 'role Registrar' })).toBeVisible();
    await page.getByText('by outlet', { exact: true }).click();
    await expect(page.getByRole('heading', { name: 'insurer' })).toBeVisible();
    await page.getByText('by stage', { exact: true }).click();
    await expectAccessible(page);
  });

  await test.step('undone and done again', async () => {
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: 'Redo' }).click();
    await kept(page);
  });
});

test('a failing endpoint is seen, mended and tried again by hand', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/receiver`);
  await page
    .getByRole('combobox', { name: 'From now on it' })
    .or(page.getByRole('textbox', { name: 'From now on it' }))
    .first()
    .click();
  await untilAnswered(page, 'PUT', /receiver$/, () => page.getByRole('option', { name: 'answers an error' }).click());
  await page.goto(`${server.base}/outlets`);
  await expectAccessible(page);
  const insurer = page.getByRole('region', { name: 'Insurer' });
  await insurer.getByRole('button', { name: 'Try it' }).click();
  await expect(insurer.getByRole('status')).toContainText('It works');

  // A loan that comes to its insurance, by the people whose work it is.
  const number = await test.step('a loan asks the insurer', async () => {
    const call = async (who: string, path: string, data: object, headers: object = {}) => {
      await page.context().clearCookies();
      await page.request.post(`${server.base}/api/session`, {
        data: { email: `${who}.invalid`, password: 'museum-loans' },
        headers: { origin: server.base },
      });
      const answer = await page.request.post(`${server.base}${path}`, { data, headers: { origin: server.base, ...headers } });
      expect(answer.ok(), await answer.text()).toBe(true);
      return answer.json();
    };
    const objects = [{ id: 'a', values: { title: 'Bell', material: 'metal', insuredValue: '30000.00' } }];
    const begun = await call('beryl@hollenstreet', '/api/intakes/objectLoan/records', {
      stage: 'request',
      handOff: 'submit',
      values: {
        borrower: 'Hollen Street Gallery',
        borrowerEmail: 'beryl@hollenstreet.invalid',
        kind: 'exhibition',
        venue: 'home',
        fromDate: '2027-03-12',
        toDate: '2027-06-11',
        objects,
      },
    });
    const { id } = begun.record;
    await call(
      'rufus@lindenmuseum',
      `/api/records/${id}/hand-offs`,
      { handOff: 'accept', values: { climateControl: true } },
      { 'if-match': '"1"' },
    );
    await call('dorian@lindenmuseum', `/api/records/${id}/hand-offs`, { handOff: 'agree', values: {} }, { 'if-match': '"2"' });
    return begun.record.number as string;
  });

  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/dispatch?outlet=insurer&record=${number}`);
  const row = page.getByRole('row').filter({ hasText: 'Ask for a premium' });
  await expect(row).toContainText('It answered 500.');
  await row.getByRole('button', { name: 'Ask for a premium' }).click();
  await expect(page.getByRole('region', { name: 'Attempts' })).toContainText('It answered 500.');
  await expectAccessible(page);
  // Its attempts are spent: it waits for a person.
  await server.query(`update deliveries set status = 'waiting' where outlet = 'insurer' and status = 'queued'`);
  await page.reload();
  await expect(row).toContainText('waits for a person');

  await page.goto(`${server.base}/receiver`);
  await page
    .getByRole('combobox', { name: 'From now on it' })
    .or(page.getByRole('textbox', { name: 'From now on it' }))
    .first()
    .click();
  await untilAnswered(page, 'PUT', /receiver$/, () => page.getByRole('option', { name: 'answers', exact: true }).click());
  await page.goto(`${server.base}/dispatch?outlet=insurer&record=${number}`);
  await row.getByRole('button', { name: 'Try again' }).click();
  await expect(row).toContainText('sent', { timeout: 15_000 });
  await page.goto(`${server.base}/receiver`);
  await expect(page.getByText('POST /quotes').first()).toBeVisible();
  await expectAccessible(page);
  await page.goto(`${server.base}/file-registers`);
  await expect(page.getByRole('link', { name: /Hollen-Street-Gallery-2027-03-12\.pdf/ })).toBeVisible();
});

test('a follow-up is rehearsed on in its own workflow', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  const objects = [{ id: 'a', values: { title: 'Storm lantern', material: 'glass', insuredValue: '900.00' } }];
  const start = { borrower: 'Hollen Street Gallery', kind: 'exhibition', venue: 'home', objects };
  const script = { intake: 'request', at: 'directorSignOff', today: null, start, steps: [] };
  const coded = Buffer.from(JSON.stringify({ script, open: {}, role: null })).toString('base64url');
  await page.goto(`${server.base}/workflows/objectLoan/rehearse#${coded}`);
  const why = page.getByRole('region', { name: 'Why' });
  await why.getByRole('combobox', { name: 'After which hand-off' }).selectOption({ label: 'Agree' });
  const opened = why.getByText(/Opens Condition report/).first();
  await opened.click();
  await why.getByRole('link', { name: 'Rehearse it on' }).first().click();
  await expect(page).toHaveURL(/workflows\/conditionReport\/rehearse/);
  await expect(page.getByRole('region', { name: 'Form' }).getByRole('heading', { name: 'Looked at' })).toBeVisible();
  // The bar names the record that opened this one, since values read through the link depend on the role that is played.
  await expect(page.getByRole('status').filter({ hasText: 'Opened by Object loan' })).toBeVisible();
});

test('from a branch to what is sent on it, and from a stage to the workflow that it opens', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/workflows/objectLoan/plan?at=handOffs.accept`);
  await page
    .getByRole('complementary', { name: 'Inspector' })
    .getByRole('button', { name: /Light|Insured|review/i })
    .first()
    .click();
  await page.getByRole('button', { name: 'Send something when it goes this way' }).click();
  await expect(page).toHaveURL(/consequences\?at=handOffs\.accept\.deliveries/);
  await expect(panel(page).getByRole('heading', { name: 'New mail' })).toBeVisible();
  await expect(page.locator('[aria-current=true]')).toContainText('when Next stage is');
  await page.getByRole('button', { name: 'Undo' }).click();
  await kept(page);

  await page.goto(`${server.base}/workflows/objectLoan/plan?at=stages.directorSignOff`);
  const map = page.getByRole('group', { name: 'Stage map' });
  const link = map.getByText('Condition report, Transport booking', { exact: true });
  await expect(link).toBeVisible();
  await link.click();
  await expect(page).toHaveURL(/workflows\/conditionReport\/plan/);
  await page.getByRole('button', { name: /Select Begun/ }).hover();
  await expect(page.getByRole('group', { name: 'Stage map' }).locator('text', { hasText: 'Object loan' })).toBeVisible();
});
