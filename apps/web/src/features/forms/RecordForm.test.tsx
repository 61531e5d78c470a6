/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { blankRecord, compileWorkflow, makeOutside, ORDINARY_CALENDAR } from '@ypomet/core';
import { useState } from 'react';
import { askWorkflow } from '../../../testing/ask-workflow.ts';
import { renderPart } from '../../../testing/render.tsx';
import type { FormIssues } from './form-issues.ts';
import type { FormPlace } from './form-places.ts';
import { type Entered, makeFormState } from './form-state.ts';
import { FormWorldProvider } from './form-world.tsx';
import { pagesOf, RecordForm } from './RecordForm.tsx';

const OUTSIDE = makeOutside({ now: 0, zone: 'UTC', locale: 'en-GB', calendar: ORDINARY_CALENDAR });
const ACTOR = { id: 'a', name: 'A', email: null, roles: [] };

function givenForm() {
  const sections = [
    { key: 'who', name: 'Who' },
    { key: 'what', name: 'What', page: true },
    { key: 'more', name: 'More' },
    { key: 'last', name: 'Last', page: true },
  ];
  const fields = [
    { type: 'text', key: 'name', name: 'Name', section: 'who' },
    { type: 'text', key: 'kind', name: 'Kind', section: 'what' },
    { type: 'number', key: 'size', name: 'Size', section: 'more', default: '3' },
    { type: 'text', key: 'gone', name: 'Gone', section: 'last', treatment: 'hidden' },
    {
      type: 'table',
      key: 'parts',
      name: 'Parts',
      section: 'more',
      fields: [{ type: 'number', key: 'n', name: 'Pieces', short: 'Pcs', default: 'size', total: true }],
    },
  ];
  const workflow = compileWorkflow(askWorkflow(fields, { sections }));
  return { workflow, record: blankRecord(workflow, 'ask', 'r', null, ACTOR, OUTSIDE), actor: ACTOR, outside: OUTSIDE };
}

const WORLD = {
  zone: 'UTC',
  locale: 'en-GB',
  names: {},
  findChoices: async () => [],
  handOver: () => Promise.reject(new Error('no files here')),
  filesOf: null,
  signer: 'Somebody',
  brokenSignOffs: [],
};

function Host({
  issues,
  begun = {},
  aim = null,
  locale = 'en-GB',
}: {
  readonly issues: FormIssues;
  readonly begun?: Entered;
  readonly aim?: FormPlace | null;
  readonly locale?: string;
}) {
  const [given] = useState(givenForm);
  const [entered, setEntered] = useState<Entered>(begun);
  const { form, unreadable } = makeFormState(given, entered);
  return (
    <FormWorldProvider value={WORLD}>
      <RecordForm
        form={form}
        record={given.record}
        entered={entered}
        unreadable={unreadable}
        issues={issues}
        aim={aim}
        style={{ locale, zone: 'UTC' }}
        isOpen
        onEnter={(key, value) => setEntered((before) => ({ ...before, [key]: value }))}
      />
    </FormWorldProvider>
  );
}

const NONE: FormIssues = new Map();

test('what the workspace wrote is in its language, for whoever has it read aloud; the application’s own words are in English', () => {
  renderPart(<Host issues={NONE} locale="de-AT" />);
  expect(screen.getByText('Who', { selector: 'legend' }).lang).toBe('de-AT');
  expect(screen.getByText('Name').closest('[data-field]')?.getAttribute('lang')).toBe('de-AT');
});

describe('a form in pages', () => {
  test('begins one with every section that says so and shows something', () => {
    const given = givenForm();
    const pages = pagesOf(makeFormState(given, {}).form);
    expect(pages.map(({ name, sections }) => [name, sections.map((section) => section.name)])).toEqual([
      ['Who', ['Who']],
      ['What', ['What', 'More']],
    ]);
  });

  test('shows one at a time, and what was entered stays', async () => {
    renderPart(<Host issues={NONE} />);
    await userEvent.type(screen.getByLabelText('Name'), 'Lamp');
    expect(screen.queryByRole('textbox', { name: 'Kind' })).toBeNull();
    await userEvent.click(screen.getByRole('button', { name: 'Next page' }));
    expect(screen.getByRole('textbox', { name: 'Kind' })).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: '1. Who' }));
    expect(screen.getByLabelText('Name')).toHaveProperty('value', 'Lamp');
  });

  test('turns to the place that a press leads to, and says which pages have something to mend', async () => {
    const issues = new Map([['kind', { messages: ['Kind is required.'], rows: new Map() }]]);
    const { rerender } = renderPart(<Host issues={NONE} />);
    rerender(<Host issues={issues} />);
    expect(screen.getByRole('button', { name: '1. Who' }).getAttribute('aria-current')).toBe('page');
    rerender(<Host issues={issues} aim={{ field: 'kind', row: null, subField: null }} />);
    expect(screen.getByRole('button', { name: '2. What to mend' }).getAttribute('aria-current')).toBe('page');
    expect(screen.getByText('Kind is required.')).toBeTruthy();
  });
});

test('a default shows, and a row begins with those of its columns; their sum stands below', async () => {
  renderPart(<Host issues={NONE} />);
  await userEvent.click(screen.getByRole('button', { name: 'Next page' }));
  expect(screen.getByLabelText('Size')).toHaveProperty('value', '3');
  for (let row = 0; row < 2; row++) await userEvent.click(screen.getByRole('button', { name: 'Add a row' }));
  expect(screen.getByLabelText('Pieces, row 2')).toHaveProperty('value', '3');
  expect(screen.getByRole('columnheader', { name: 'Pcs' })).toBeTruthy();
  expect(document.querySelector('tfoot')?.textContent).toBe('6');
});

describe('a long table', () => {
  const parts = Array.from({ length: 65 }, (_, index) => ({ id: `r${index}`, values: { n: String(index) } }));
  const inputs = () => screen.getAllByRole('textbox', { name: /^Pieces, row/ }).map((input) => input.getAttribute('aria-label'));

  test('has its rows by thirties; on paper all of them', async () => {
    renderPart(<Host issues={NONE} begun={{ parts }} />);
    await userEvent.click(screen.getByRole('button', { name: 'Next page' }));
    await waitFor(() => expect(inputs()).toHaveLength(30));
    expect(screen.getByText('Rows 1 to 30 of 65')).toBeTruthy();
    expect(document.querySelectorAll('tbody tr')).toHaveLength(65);
    await userEvent.click(screen.getByRole('button', { name: 'Next rows' }));
    await userEvent.click(screen.getByRole('button', { name: 'Next rows' }));
    expect(inputs()).toEqual(['61', '62', '63', '64', '65'].map((row) => `Pieces, row ${row}`));
    await userEvent.type(screen.getByLabelText('Pieces, row 65'), '0');
    expect(screen.getByLabelText('Pieces, row 65')).toHaveProperty('value', '640');
    await userEvent.click(screen.getByRole('button', { name: 'Remove row 61' }));
    expect(screen.getByText('Rows 61 to 64 of 64')).toBeTruthy();
    expect(screen.getByLabelText('Pieces, row 64')).toHaveProperty('value', '640');
    await userEvent.click(screen.getByRole('button', { name: 'Rows before' }));
    await userEvent.click(screen.getByRole('button', { name: 'Add a row' }));
    expect(screen.getByLabelText('Pieces, row 65')).toHaveProperty('value', '3');
  });

  test('turns to the rows in which something is wrong', async () => {
    const { rerender } = renderPart(<Host issues={NONE} begun={{ parts }} />);
    const rows = new Map([['r40/n', 'Pieces is too much.']]);
    const aim = { field: 'parts', row: 'r40', subField: 'n' };
    rerender(<Host issues={new Map([['parts', { messages: [], rows }]])} begun={{ parts }} aim={aim} />);
    expect(await screen.findByText('Pieces is too much.')).toBeTruthy();
    expect(screen.getByText('Rows 31 to 60 of 65')).toBeTruthy();
  });
});

describe('a table is worked in as a sheet is', () => {
  const open = async (): Promise<void> => {
    const parts = ['1', '2'].map((n, index) => ({ id: `r${index}`, values: { n } }));
    renderPart(<Host issues={NONE} begun={{ parts }} />);
    await userEvent.click(screen.getByRole('button', { name: 'Next page' }));
  };
  const cell = (row: number) => screen.getByLabelText(`Pieces, row ${row}`);

  test('Enter and the arrows move between rows; Enter in the last one adds a row', async () => {
    await open();
    await userEvent.click(cell(1));
    await userEvent.keyboard('{Enter}');
    expect(cell(2)).toHaveFocus();
    await userEvent.keyboard('{ArrowUp}');
    expect(cell(1)).toHaveFocus();
    await userEvent.keyboard('{ArrowDown}{Enter}');
    await waitFor(() => expect(cell(3)).toHaveFocus());
    await userEvent.keyboard('7');
    expect(cell(3)).toHaveProperty('value', '37');
  });

  test('“Add a row” leads into the new row', async () => {
    await open();
    await userEvent.click(screen.getByRole('button', { name: 'Add a row' }));
    await waitFor(() => expect(cell(3)).toHaveFocus());
  });

  test('Ctrl+D fills a cell from above', async () => {
    await open();
    await userEvent.click(cell(2));
    await userEvent.keyboard('{Control>}d{/Control}');
    expect(cell(2)).toHaveProperty('value', '1');
  });

  test('Ctrl+Z takes a paste back as long as nothing was entered since', async () => {
    await open();
    await userEvent.click(cell(1));
    await userEvent.paste('5\n6\n7');
    await waitFor(() => expect(cell(3)).toHaveProperty('value', '7'));
    await userEvent.click(cell(1));
    await userEvent.keyboard('{Control>}z{/Control}');
    expect(cell(1)).toHaveProperty('value', '1');
    expect(screen.queryByLabelText('Pieces, row 3')).toBeNull();
    expect(screen.getByText('The paste was taken back.')).toBeTruthy();
  });
});
