/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { screen, within } from '@testing-library/react';
import { type DeliveryConsequence, makeOutside, ORDINARY_CALENDAR, type RichText } from '@ypomet/core';
import { handedOn, recordOf, smallCompiled, smallWorkflow } from '@ypomet/testkit/small-workflow';
import { renderPart } from '../../../testing/render.tsx';
import { RichTextView } from '../../shared/RichTextView.tsx';
import { Arriving, Carried, sayDelivery } from './Arriving.tsx';

const FIELDS = [
  { type: 'text', key: 'borrower', name: 'Borrower' },
  { type: 'money', key: 'worth', name: 'Worth', currency: 'EUR' },
  { type: 'file', key: 'papers', name: 'Papers' },
];
const VALUES = {
  borrower: '<b>Søn</b>',
  worth: '1200.50',
  papers: [{ name: 'a.pdf', mediaType: 'application/pdf', bytes: 3, sha256: 'a'.repeat(64) }],
};
const MEMBER = { id: 'm1', name: 'Ines Vale', email: 'ines@example.invalid', roles: [] };
const outside = makeOutside({
  now: Date.UTC(2026, 10, 26),
  zone: 'UTC',
  locale: 'en-GB',
  calendar: ORDINARY_CALENDAR,
  findMember: (id: string) => (id === 'm1' ? MEMBER : null),
});

function arriving(delivery: object) {
  const deliveries = [{ key: 'd', name: 'D', ...delivery }];
  const workflow = smallCompiled({ fields: FIELDS, handOffs: { send: { deliveries } } });
  const record = { ...recordOf(workflow), values: VALUES as never };
  const [sent] = handedOn(workflow, record, 'send', {}, undefined, outside).deliveries;
  if (!sent) throw new Error('nothing is sent');
  const at = { workflow, outside };
  renderPart(<Arriving delivery={sent} at={at} />);
  return { sent: sent as DeliveryConsequence, line: sayDelivery(sent, at) };
}
const headOf = (name: string): string | null | undefined => screen.queryByText(name)?.nextElementSibling?.textContent;

describe('a mail as it would arrive', () => {
  const mail = {
    kind: 'mail',
    to: [
      { kind: 'role', role: 'clerk' },
      { kind: 'member', member: 'm1' },
    ],
    subject: 'Loan to {{borrower}}',
    body: '# For {{borrower}}\n\nWorth **{{worth}}**, see [the form](https://museum.example/).',
  };

  test('has its heads in words, and no head that is empty', () => {
    const { line } = arriving({ ...mail, cc: [{ kind: 'expression', expression: '"b@c.example"' }] });
    expect(headOf('To')).toBe('role Clerk, Ines Vale');
    expect(headOf('Copies')).toBe('b@c.example');
    expect(screen.queryByText('Attached')).not.toBeInTheDocument();
    expect(screen.queryByText('Blind copies')).not.toBeInTheDocument();
    expect(screen.queryByText('Answers to')).not.toBeInTheDocument();
    expect(line).toBe('to role Clerk, Ines Vale, b@c.example: Loan to <b>Søn</b>');
  });

  test('reads as text, whatever is in its values', () => {
    arriving(mail);
    expect(screen.getByRole('heading', { name: 'For <b>Søn</b>' })).toBeInTheDocument();
    expect(screen.getByText('€1,200.50').tagName).toBe('STRONG');
    const link = screen.getByRole('link', { name: 'the form' });
    expect(link).toHaveAttribute('href', 'https://museum.example/');
    expect(link).toHaveAttribute('rel', 'noreferrer');
  });

  test('names what is attached', () => {
    arriving({ ...mail, attach: 'pdf' });
    expect(headOf('Attached')).toBe('the record as PDF');
  });

  test('names the files that go along, when they are shown to whoever gets it', () => {
    arriving({ ...mail, attachFiles: true, attach: 'json' });
    expect(headOf('Attached')).toContain('the record as JSON');
  });

  test('says whom it can’t reach, and that it has no subject', () => {
    arriving({ ...mail, to: [{ kind: 'expression', expression: 'borrower' }], subject: '' });
    expect(headOf('To')).toBe('nobody');
    expect(screen.getByText(/has no e-mail address: a person would have to look/)).toBeInTheDocument();
    expect(screen.getByText('without a subject')).toBeInTheDocument();
  });
});

describe('a request as it would arrive', () => {
  test('has its line, its headers, its JSON a line for each property, and where its answer goes', () => {
    const { line } = arriving({
      kind: 'web',
      outlet: 'insurer',
      method: 'PUT',
      address: '/quotes/{{borrower}}',
      headers: [{ name: 'X-Loan', value: '{{worth}}' }],
      properties: [{ name: 'loan.worth', value: 'worth' }],
      answers: [{ name: 'premium', field: 'worth' }],
    });
    expect(line).toBe('PUT /quotes/%3Cb%3ES%C3%B8n%3C%2Fb%3E to insurer');
    expect(screen.getByText('X-Loan: €1,200.50')).toBeInTheDocument();
    expect(screen.getByText(/"worth": 1200.5/).textContent).toBe('{\n  "loan": {\n    "worth": 1200.5\n  }\n}');
    expect(screen.getByText('From its answer “premium” goes into worth.')).toBeInTheDocument();
  });

  test('a form has a line for each of its values', () => {
    const properties = [
      { name: 'a', value: '"x & y"' },
      { name: 'b', value: '1' },
    ];
    arriving({ kind: 'web', outlet: 'o', encoding: 'form', properties });
    expect(screen.getByText(/^a=/).textContent).toBe('a=x+%26+y\n&b=1');
  });
});

describe('a file as it would arrive', () => {
  const file = { kind: 'file', outlet: 'archive', folder: 'loans', fileName: '{{worth}}' };

  test('JSON, by its place', () => {
    const { line } = arriving({ ...file, properties: [{ name: 'x', value: 'borrower' }] });
    expect(line).toBe('loans/1200.5.json in archive');
    expect(screen.getByText('loans/1200.5.json')).toBeInTheDocument();
    expect(screen.getByText(/"x": "<b>Søn<\/b>"/)).toBeInTheDocument();
  });

  test('a row of a table, under its columns', () => {
    arriving({
      ...file,
      format: 'csv',
      properties: [
        { name: 'Who', value: 'borrower' },
        { name: 'Worth', value: 'worth' },
      ],
    });
    const table = screen.getByRole('table');
    expect(
      within(table)
        .getAllByRole('columnheader')
        .map((one) => one.textContent),
    ).toEqual(['Who', 'Worth']);
    expect(
      within(table)
        .getAllByRole('cell')
        .map((one) => one.textContent),
    ).toEqual(['<b>Søn</b>', '1200.5']);
  });

  test('a name that has its ending has it once', () => {
    expect(arriving({ ...file, folder: '', fileName: 'Agreement.PDF', format: 'pdf', body: 'Agreed.' }).line).toBe(
      'Agreement.PDF in archive',
    );
    expect(screen.getByText('Agreed.')).toBeInTheDocument();
  });
});

test('what a follow-up begins with, by the names of its own fields', () => {
  const target = smallWorkflow({
    key: 'other',
    fields: [
      { type: 'text', key: 'title', name: 'Title of the thing' },
      { type: 'number', key: 'size', name: 'Size', unit: 'cm' },
      { type: 'date', key: 'from', name: 'From' },
      { type: 'choice', key: 'kind', name: 'Kind', options: [{ code: 'a', label: 'A loan' }] },
      { type: 'member', key: 'courier', name: 'Courier', role: 'clerk' },
      { type: 'money', key: 'worth', name: 'Worth', currency: 'EUR' },
      { type: 'text', key: 'none', name: 'None' },
    ],
  });
  const carried = [
    { field: 'title', value: 'borrower' },
    { field: 'size', value: '3' },
    { field: 'from', value: 'date("2027-03-12")' },
    { field: 'kind', value: '"a"' },
    { field: 'courier', value: '"m1"' },
    { field: 'worth', value: 'worth' },
    { field: 'none', value: 'null' },
  ];
  const followUps = [{ key: 'f', name: 'F', workflow: 'other', handOff: 'send', carried }];
  const workflow = smallCompiled({ fields: FIELDS, handOffs: { send: { followUps } } }, (key) =>
    key === 'other' ? target : null,
  );
  const record = { ...recordOf(workflow), values: VALUES as never };
  const [opened] = handedOn(workflow, record, 'send').followUps;
  if (!opened) throw new Error('nothing is opened');
  const list = (own: typeof opened): readonly (string | null)[] => {
    const { unmount } = renderPart(<Carried opened={own} at={{ workflow, outside }} />);
    const items = screen.getAllByRole('listitem').map((one) => one.textContent);
    unmount();
    return items;
  };
  expect(list(opened)).toEqual([
    'Title of the thing: <b>Søn</b>',
    'Size: 3 cm',
    'From: 12 Mar 2027',
    'Kind: A loan',
    'Courier: Ines Vale',
    'Worth: €1,200.50',
    'None: nothing',
  ]);
  expect(list({ ...opened, values: { size: 'many', gone: ['x'] } })).toEqual(['Size: many', 'gone: ["x"]']);
});

test('every passage of a text has its element', () => {
  const text: RichText = [
    { kind: 'heading', level: 2, runs: [{ text: 'Head' }] },
    { kind: 'list', isOrdered: true, items: [[{ text: 'one' }], [{ text: 'two', isEmphasis: true }]] },
    { kind: 'list', isOrdered: false, items: [[{ text: 'three', isStrong: true, isEmphasis: true }]] },
    { kind: 'fields', entries: [{ name: 'Name', text: 'Value' }] },
  ];
  renderPart(<RichTextView text={text} />);
  // Two levels below the page's own.
  expect(screen.getByRole('heading', { level: 4, name: 'Head' })).toBeInTheDocument();
  expect(screen.getAllByRole('listitem').map((one) => [one.parentElement?.tagName, one.innerHTML])).toEqual([
    ['OL', 'one'],
    ['OL', '<em>two</em>'],
    ['UL', '<strong><em>three</em></strong>'],
  ]);
  expect(screen.getByRole('rowheader', { name: 'Name' })).toBeInTheDocument();
  expect(screen.getByRole('cell', { name: 'Value' })).toBeInTheDocument();
});
