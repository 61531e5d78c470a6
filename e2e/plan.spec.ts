import { expect, type Page, test } from '@playwright/test';
import { expectAccessible, signInAs } from './people.ts';
import { RunningServer } from './running-server.ts';

let server: RunningServer;
test.beforeAll(async () => {
  server = await RunningServer.make();
});
test.afterAll(() => server.stop());

const inspectorOf = (page: Page) => page.getByRole('complementary', { name: 'Inspector' });
const kept = (page: Page) => expect(page.getByRole('status').getByText('Kept', { exact: true })).toBeVisible();

async function openPlan(page: Page, workflow = 'objectLoan'): Promise<void> {
  await signInAs(page, server, 'analyst');
  await page.goto(`${server.base}/workflows/${workflow}/plan`);
  await expect(page.getByRole('grid', { name: 'Field plan' })).toBeVisible();
}

test('the map by keyboard alone: a way is drawn, a stage put in and moved, all of it taken back', async ({ page }) => {
  await openPlan(page);
  const stations = page.getByRole('group', { name: 'Stage map' }).getByRole('button');
  const before = await stations.count();
  await test.step('H draws from a station to the one where Enter is pressed', async () => {
    await stations.first().focus();
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('h');
    await page.keyboard.press('ArrowRight');
    await expect(page.getByText('From Registrar check to Conservation review', { exact: true })).toHaveCount(1);
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: 'A branch of “Accept”' })).toBeVisible();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'A hand-off of its own' }).press('Enter');
    await expect(inspectorOf(page).getByRole('heading', { name: 'Hand on' })).toBeVisible();
  });
  await test.step('Escape gives it up', async () => {
    await stations.first().focus();
    await page.keyboard.press('h');
    await page.keyboard.press('Escape');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: 'A hand-off of its own' })).toHaveCount(0);
  });
  await test.step('Insert puts a stage into the line, Alt and the arrows move it', async () => {
    await stations.first().focus();
    await page.keyboard.press('Insert');
    await expect(stations).toHaveCount(before + 1);
    await page.getByRole('button', { name: 'Select New stage' }).focus();
    await page.keyboard.press('Alt+ArrowRight');
    await expect(stations.nth(2)).toHaveAccessibleName(/^Select New stage/);
    await page.keyboard.press('Alt+ArrowDown');
    await page.getByRole('button', { name: 'Select New stage' }).press('Enter');
    await expect(inspectorOf(page)).toContainText('Study track');
  });
  await test.step('every step can be undone', async () => {
    const undo = page.getByRole('button', { name: 'Undo' });
    while (await undo.isEnabled()) await undo.click();
    await expect(stations).toHaveCount(before);
    await kept(page);
    await expect(page.getByText('v1, unchanged').or(page.getByText('Draft of v2'))).toBeVisible();
  });
});

test('a key is renamed everywhere; what uses a field is one click away', async ({ page }) => {
  await openPlan(page);
  const inspector = inspectorOf(page);
  await page.getByRole('button', { name: 'Total value', exact: true }).click();
  await inspector.getByLabel('Key in expressions').fill('worthInAll');
  await inspector.getByLabel('Key in expressions').press('Enter');
  await kept(page);
  await expect(inspector.getByRole('button', { name: /Conservation review/ })).toBeVisible();
  await inspector.getByRole('button', { name: /branch “Conservation review”/ }).click();
  await inspector.getByRole('button', { name: 'as text' }).click();
  await expect(inspector.getByRole('textbox', { name: 'Condition as text' })).toHaveText('worthInAll > 50000');
  await page.getByRole('gridcell', { name: /^Total value at Registrar check.*read by .*Conservation review/ }).click();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('gridcell', { name: /^Total value at Registrar check/ })).toBeVisible();
  await page.getByRole('button', { name: 'Total value', exact: true }).click();
  await expect(inspector.getByLabel('Key in expressions')).toHaveValue('totalValue');
});

test('many cells at once: set together, and adjusted together under one condition', async ({ page }) => {
  await openPlan(page);
  const inspector = inspectorOf(page);
  await page.getByRole('gridcell', { name: 'Lux limit at Request: hidden' }).click();
  for (let down = 0; down < 3; down++) await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(inspector.getByRole('heading', { name: '8 cells' })).toBeVisible();
  await inspector.getByRole('radio', { name: /^nudged/ }).click();
  await expect(page.getByRole('gridcell', { name: /^Precautions at Registrar check: nudged/ })).toBeVisible();
  await inspector.getByRole('button', { name: 'Adjust them under a condition' }).click();
  await inspector.getByLabel('Name').fill('Careful loans');
  await inspector.getByLabel('Name').press('Enter');
  await expect(
    page.getByRole('gridcell', { name: /^Climate control at Request: nudged, adjusted by .*Careful loans/ }),
  ).toBeVisible();
  await expect(
    page.getByRole('gridcell', { name: /^Facility report at Registrar check: nudged, adjusted by Careful loans/ }),
  ).toBeVisible();
  await expectAccessible(page);
  const undo = page.getByRole('button', { name: 'Undo' });
  while (await undo.isEnabled()) await undo.click();
  await expect(page.getByRole('gridcell', { name: 'Lux limit at Request: hidden' })).toBeVisible();
});

test('what is looked for is found: in the plan, and from anywhere', async ({ page }) => {
  await openPlan(page);
  await page.keyboard.press('/');
  await expect(page.getByRole('searchbox', { name: 'Find a field' })).toBeFocused();
  await page.keyboard.type('lux');
  await expect(page.getByRole('gridcell', { name: /^Borrower at/ })).toHaveCount(0);
  await expect(page.getByRole('gridcell', { name: /^Lux limit at Request/ })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Objects', expanded: true }).click();
  await expect(page.getByRole('gridcell', { name: /^Title at Request/ })).toHaveCount(0);
  // The letters are typed before the palette is loaded. They must reach the palette, not the cell that had the focus.
  const cell = page.getByRole('gridcell', { name: /^Lux limit at Request/ });
  await cell.click();
  const before = await cell.getAttribute('aria-label');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('agree terms');
  const palette = page.getByRole('combobox', { name: 'Find anything' });
  await expect(palette).toBeFocused();
  await expect(palette).toHaveValue('agree terms');
  await expect(cell).toHaveAttribute('aria-label', before ?? '');
  await expectAccessible(page);
  await page.getByRole('option', { name: /Agree to the terms/ }).click();
  await expect(inspectorOf(page).getByRole('heading', { name: 'Agree to the terms' })).toBeVisible();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('draw a hand-off from here');
  await expectAccessible(page);
});

test('any state of a draft is looked at and restored; a version can be gone back to', async ({ page }) => {
  await openPlan(page);
  await page.getByRole('gridcell', { name: 'Care notes at Registrar check: hidden' }).click();
  await page.keyboard.press('o');
  await kept(page);
  await page.getByRole('gridcell', { name: /^Care notes at Registrar check/ }).click();
  await page.keyboard.press('n');
  await kept(page);
  await page.getByRole('link', { name: 'Versions' }).click();
  await expect(page.getByText('made “Care notes” nudged at Registrar check').first()).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Look at it as it was' }).nth(1).click();
  const earlier = page.getByRole('dialog');
  await expect(earlier).toContainText('made “Care notes” nudged at Registrar check');
  await earlier.getByRole('button', { name: 'Restore it as it was' }).click();
  await expect(page.getByText(/restored the draft as it was after change/)).toBeVisible();
  await page.getByRole('button', { name: 'Compare, or go back' }).click();
  await page.getByRole('button', { name: 'Go back to version 1' }).click();
  await expect(page.getByText('Nothing: the draft is as version 1 has it.')).toBeVisible();
  await expect(page.getByText(/went back to version 1/)).toBeVisible();
});

test('workflows: from an example, copied, found by what is in them, put away and taken out', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  await page.getByRole('button', { name: 'New workflow' }).click();
  await page.getByLabel('What is it called?').fill('Spring grants');
  await page.getByRole('radio', { name: 'Like a grant round' }).check();
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByRole('gridcell', { name: 'First opinion, of ten at First opinion: required' })).toBeVisible();
  await page.getByRole('link', { name: 'Workflows', exact: true }).click();
  await page.getByRole('button', { name: 'More about Spring grants' }).click();
  await expect(page.getByRole('menuitem', { name: 'Ines Halvard' })).toBeVisible();
  await page.getByRole('menuitem', { name: 'Copy it' }).click();
  await expect(page.getByRole('heading', { name: 'Copy of Spring grants' })).toBeVisible();
  await page.getByRole('link', { name: 'Workflows', exact: true }).click();
  await page.getByRole('searchbox').fill('firstOpinion');
  await expect(page.getByRole('link', { name: /^Object loan/ })).toHaveCount(0);
  await expect(page.getByRole('link', { name: /grants/ })).toHaveCount(2);
  await page.getByRole('searchbox').fill('no workflow says this');
  await expect(page.getByText('No workflow says')).toBeVisible();
  await page.getByRole('searchbox').fill('');
  await page.getByRole('button', { name: 'More about Copy of Spring grants' }).click();
  await page.getByRole('menuitem', { name: /^Put it away/ }).click();
  await expect(page.getByRole('link', { name: /^Copy of Spring grants/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Put away: 1' }).click();
  await expect(page.getByRole('link', { name: /^Copy of Spring grants/ })).toBeVisible();
  await expectAccessible(page);
});

test('a large workflow opens, scrolls, fits in, and is edited', async ({ page }) => {
  await signInAs(page, server, 'analyst');
  const { realSizeWorkflow } = await import('@ypomet/testkit/real-size');
  const made = await page.request.post(`${server.base}/api/workflows`, {
    data: { ...realSizeWorkflow(), key: 'large', name: 'Large' },
    headers: { origin: server.base },
  });
  expect(made.status()).toBe(201);
  await openPlan(page, 'large');
  const count = (): Promise<number> => page.evaluate(() => document.querySelectorAll('*').length);
  expect(await count()).toBeLessThan(6000);
  const overview = page.getByRole('scrollbar', { name: 'Overview of all stages' });
  await overview.focus();
  await page.keyboard.press('End');
  await expect(page.getByRole('gridcell', { name: /^Field number 0 at Stage number 59/ })).toBeVisible();
  await page.getByRole('button', { name: 'Fit', exact: true }).click();
  await expect(overview).toHaveCount(0);
  expect(await count()).toBeLessThan(6000);
  const cell = page.getByRole('gridcell', { name: /^Field number 12 at Stage number 30/ });
  await cell.click();
  await page.keyboard.press('h');
  await expect(page.getByRole('gridcell', { name: /^Field number 12 at Stage number 30: hidden/ })).toBeFocused();
  await kept(page);
});
