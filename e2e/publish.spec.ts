import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;

test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

/** A workflow with one reference field, and follow-ups that its hand-off "Send" opens. */
const design = (key: string, name: string, refersTo: string, opens: readonly string[]) => ({
  format: 'ypomet.workflow/1',
  key,
  name,
  sections: [{ key: 'all', name: 'All' }],
  fields: [{ type: 'reference', key: 'about', name: 'About', section: 'all', treatment: 'optional', workflow: refersTo }],
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [
    {
      key: 'send',
      name: 'Send',
      from: 'ask',
      otherwise: { to: 'done' },
      followUps: opens.map((workflow) => ({ key: workflow, name: workflow, workflow, handOff: 'send', link: 'about' })),
    },
  ],
});

async function make(page: Page, definition: object): Promise<void> {
  const headers = { origin: server.base };
  expect((await page.request.post(`${server.base}/api/workflows`, { data: definition, headers })).ok()).toBe(true);
}

test('two workflows that refer to each other are published in one step, and then changed together', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  await make(page, design('visit', 'Visit', 'tour', ['tour']));
  await make(page, design('tour', 'Tour', 'visit', []));

  await test.step('the dialog names the other workflow, and both become versions', async () => {
    await page.goto(`${server.base}/workflows/visit/plan`);
    await page.getByRole('button', { name: 'Publish', exact: true }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog.getByRole('region', { name: 'Published in the same step' })).toContainText('Tour, version 1');
    await expectAccessible(page);
    await dialog.getByRole('button', { name: 'Publish 2 workflows' }).click();
    await expect(page.getByText('Published together: version 1, Tour version 1.')).toBeVisible();
    const versions = await (await page.request.get(`${server.base}/api/workflows/tour/versions`)).json();
    expect(versions).toHaveLength(1);
  });

  await test.step('a chain that comes back to its beginning is told while it is designed', async () => {
    const answer = await page.request.put(`${server.base}/api/workflows/tour/draft`, {
      data: design('tour', 'Tour', 'visit', ['visit']),
      headers: { origin: server.base, 'if-match': '"1"' },
    });
    expect(answer.ok()).toBe(true);
    await page.goto(`${server.base}/workflows/tour/plan`);
    await page.getByRole('button', { name: 'Publish', exact: true }).click();
    await expect(page.getByRole('dialog')).toContainText('opens records that open each other in a circle: Tour, Visit, Tour');
    await page.getByRole('button', { name: 'Not now' }).click();
  });

  await test.step('a changed neighbour can be published along; what is wrong with it is told by its name', async () => {
    const changed = { ...design('visit', 'Visit', 'tour', []), description: 'Changed' };
    const answer = await page.request.put(`${server.base}/api/workflows/visit/draft`, {
      data: changed,
      headers: { origin: server.base, 'if-match': '"1"' },
    });
    expect(answer.ok()).toBe(true);
    await page.goto(`${server.base}/workflows/tour/plan`);
    await page.getByRole('button', { name: 'Publish', exact: true }).click();
    const dialog = page.getByRole('dialog');
    // Visit opens nothing any more: beside its draft the circle is gone.
    await dialog.getByLabel('Publish Visit version 2 too').check();
    await expect(dialog.getByText('in a circle')).toBeHidden();
    await expectAccessible(page);
    await dialog.getByRole('button', { name: 'Publish 2 workflows' }).click();
    await expect(page.getByText('Published together: version 2, Visit version 2.')).toBeVisible();
  });
});
