import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';
import type { RunningServer } from './running-server.ts';

/** The people of the demo, by what they do. */
export const PEOPLE = {
  analyst: 'Ines Halvard',
  registrar: 'Rufus Okonjo',
  borrower: 'Beryl Quist',
  conservator: 'Carla Wendt',
  director: 'Dorian Fells',
} as const;

/** Signs in on the sign-in page and waits until the session is there. */
export async function signInAs(page: Page, server: RunningServer, who: keyof typeof PEOPLE): Promise<void> {
  await page.context().clearCookies();
  await page.goto(`${server.base}/sign-in`);
  await page.getByRole('button', { name: new RegExp(PEOPLE[who]) }).click();
  // The sign-in page has a button of that name too: only leaving it says that the session is there.
  await expect(page).not.toHaveURL(/sign-in/);
  await expect(page.getByRole('button', { name: PEOPLE[who] })).toBeVisible();
}

/** Signs in, and opens a record that waits on the desk. */
export async function openOnDesk(page: Page, server: RunningServer, who: keyof typeof PEOPLE, record: string): Promise<void> {
  await signInAs(page, server, who);
  await page.goto(`${server.base}/desk`);
  await page
    .getByRole('link', { name: new RegExp(record) })
    .first()
    .click();
  await page.waitForURL(/\/records\//);
}

/** Does something that asks the server, and waits until it is answered: leaving the page before that would take the request back. */
export async function untilAnswered(page: Page, method: string, address: RegExp, act: () => Promise<void>): Promise<void> {
  const [answer] = await Promise.all([
    page.waitForResponse((response) => response.request().method() === method && address.test(response.url())),
    act(),
  ]);
  expect(answer.ok(), answer.ok() ? '' : await answer.text()).toBe(true);
}

/** Presses a hand-off until the record is handed on: whoever signs in next finds it there. One's own is nobody else's change. */
export async function pressHandOff(page: Page, name: string): Promise<void> {
  await untilAnswered(page, 'POST', /\/(records|hand-offs)$/, () => press(page, name));
  await expect(page.getByText('Somebody changed this record')).toHaveCount(0);
}

/** Presses a hand-off, and says that it is meant where that is asked. */
export async function press(page: Page, name: string): Promise<void> {
  const isAnswered = page.waitForResponse(
    (response) => response.request().method() === 'POST' && /hand-offs|records$/.test(response.url()),
  );
  const meant = page.getByRole('button', { name: `${name} all the same`, exact: true });
  await page.getByRole('button', { name, exact: true }).click();
  await Promise.race([isAnswered.catch(() => null), meant.waitFor()]);
  if (await meant.isVisible()) await meant.click();
}

/** Hands a record on by the API, as whoever is signed in. */
export async function handOn(page: Page, server: RunningServer, id: string, handOff: string, values: object): Promise<void> {
  const { record } = await (await page.request.get(`${server.base}/api/records/${id}`)).json();
  const answer = await page.request.post(`${server.base}/api/records/${id}/hand-offs`, {
    data: { handOff, values },
    headers: { origin: server.base, 'if-match': `"${record.revision}"` },
  });
  expect(answer.ok(), await answer.text()).toBe(true);
}

/** Writes an expression in the place of the one that is there, as people do: the editor keeps a selection of its own. */
export async function writeExpression(page: Page, text: string): Promise<void> {
  await page.getByRole('textbox', { name: 'Condition as text' }).click();
  await page.keyboard.press('ControlOrMeta+a');
  await page.keyboard.insertText(text);
}

/** WCAG 2.2 AA, as far as axe can tell. */
export async function expectAccessible(page: Page): Promise<void> {
  // Nothing runs in a sandboxed frame, axe neither.
  const { violations } = await new AxeBuilder({ page })
    .exclude('iframe[sandbox]')
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    .analyze();
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.target.join(' ')).join(', ')}`)).toEqual([]);
}

/** Fills in the request of the demo's workflow, as the form asks for it. */
export async function fillRequest(page: Page): Promise<void> {
  await page.getByLabel('Borrower', { exact: false }).first().fill('Hollen Street Gallery');
  await page.locator('#field-borrowerEmail').fill('beryl@hollenstreet.invalid');
  await page.locator('#field-kind').click();
  await page.getByRole('option', { name: 'Exhibition' }).click();
  await page.locator('#field-venue').click();
  await page.getByRole('option', { name: 'Overseas' }).click();
  await page.locator('#field-fromDate').fill('2027-03-12');
  await page.locator('#field-toDate').fill('2027-06-11');
  const objects = [
    ['Harbour study, 1911', 'Paper', '4000'],
    ['Storm lantern', 'Glass', '900'],
    ['Tide clock', 'Metal', '2100.50'],
  ] as const;
  for (const [index, [title, material, value]] of objects.entries()) {
    await page.getByRole('button', { name: 'Add a row' }).click();
    const row = index + 1;
    await page.getByLabel(new RegExp(`^Title, row ${row}`)).fill(title);
    await page
      .getByLabel(new RegExp(`^Material, row ${row}`))
      .first()
      .click();
    await page.getByRole('option', { name: material }).click();
    await page.getByLabel(new RegExp(`^Insured value, row ${row}`)).fill(value);
  }
  // Overseas asks for climate control: an adjustment makes it required.
  await expect(page.locator('[data-field="climateControl"]')).toHaveAttribute('data-treatment', 'required');
  await page.locator('[data-field="climateControl"]').getByText('Yes', { exact: true }).click();
}

/** Puts a text on what has the focus as if it came from the clipboard. */
export const pasteText = (page: Page, text: string): Promise<void> =>
  page.evaluate((pasted) => {
    const data = new DataTransfer();
    data.setData('text/plain', pasted);
    document.activeElement?.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
  }, text);

/** Makes a workflow by the API, as the analyst who is signed in, and publishes it. Warnings are accepted. */
export async function publishWorkflow(page: Page, server: RunningServer, workflow: { readonly key: string }): Promise<void> {
  const headers = { origin: server.base };
  const created = await page.request.post(`${server.base}/api/workflows`, { headers, data: workflow });
  expect(created.status(), await created.text()).toBe(201);
  const publish = (accepted: readonly object[]) =>
    page.request.post(`${server.base}/api/workflows/${workflow.key}/versions`, {
      headers: { ...headers, 'if-match': '"1"' },
      data: { accepted },
    });
  const first = await publish([]);
  if (first.ok()) return;
  const { details } = (await first.json()) as { details: readonly { path: string; code: string }[] };
  const second = await publish(details.map(({ path, code }) => ({ path, code, reason: 'For a test.' })));
  expect(second.status(), await second.text()).toBe(201);
}
