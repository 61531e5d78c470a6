import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import type { RichText } from '@ypomet/core';
import { parse as parseCsv } from 'csv-parse/sync';
import fc from 'fast-check';
import { faultOf } from '../testing/fault-of.ts';
import { writePdf } from '../workers/write-pdf.ts';
import { makeFileOutlet, safeName } from './file.ts';
import { NotSent, type OutletSetup, type Sending } from './outlet.ts';
import { makeRender } from './written.ts';

const folder = mkdtempSync(path.join(os.tmpdir(), 'ypomet-registers-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const render = makeRender(async ({ title, text }) => writePdf(title, text, 'en', new Date(0)));

describe('file registers', () => {
  const setup: OutletSetup<'file'> = {
    key: 'agreements',
    secret: null,
    changedAt: '1',
    settings: { kind: 'file', folder: 'Agreements' },
  };
  let round = 0;
  const begin = () => {
    const root = path.join(folder, `registers-${round++}`);
    return { root, home: path.join(root, 'Agreements'), outlet: makeFileOutlet({ root, render, alone: (_, work) => work() }) };
  };
  const file = (id: string, more: Partial<Sending<'file'>['content']> = {}): Sending<'file'> => ({
    id,
    sequence: 1,
    content: {
      type: 'file',
      delivery: 'f',
      name: 'F',
      outlet: 'agreements',
      folder: '2027',
      fileName: 'Hollen-Street',
      exists: 'number',
      written: { format: 'json', text: '{"a":1}' },
      ...more,
    },
  });
  const shown = (home: string): readonly string[] =>
    (readdirSync(home, { recursive: true }) as string[]).filter((name) => /\.(json|csv|pdf)$/.test(name)).sort();

  test('each delivery has its file, written once however often it is tried', async () => {
    const { outlet, home } = begin();
    for (const id of ['a', 'a', 'b', 'a', 'b']) await outlet.send(setup, file(id));
    expect(shown(home)).toEqual(['2027/Hollen-Street-2.json', '2027/Hollen-Street.json']);
  });

  test('a name that is taken is numbered, replaced or refused, as the design says', async () => {
    const { outlet, home } = begin();
    await outlet.send(setup, file('a'));
    await outlet.send(setup, file('b', { exists: 'replace', written: { format: 'json', text: '{"b":2}' } }));
    expect(readFileSync(path.join(home, '2027/Hollen-Street.json'), 'utf8')).toBe('{"b":2}\n');
    expect(await faultOf(outlet.send(setup, file('c', { exists: 'refuse' })))).toEqual(['file-there', true]);
    // The one that was replaced knows that it was written.
    await outlet.send(setup, file('b', { exists: 'replace' }));
    expect(shown(home)).toEqual(['2027/Hollen-Street.json']);
  });

  const row = (id: string, cells: readonly string[], head = ['number', 'borrower']): Sending<'file'> =>
    file(id, { folder: '', fileName: 'loans', written: { format: 'csv', head, row: cells } });

  test('rows are added, each once, and read back by another library', async () => {
    const { outlet, home } = begin();
    const rows = [
      ['L-1', 'Hollen "Street", Gallery'],
      ['L-2', 'line\nbreak'],
    ];
    for (const id of [0, 0, 1, 0, 1]) await outlet.send(setup, row(String(id), rows[id] as string[]));
    const read = parseCsv(readFileSync(path.join(home, 'loans.csv')), { columns: false });
    expect(read).toEqual([['number', 'borrower'], ...rows]);
  });

  test.each(['', '{"name":"/x', 'null'])('a note that was cut off (“%s”) costs no row', async (note) => {
    const { outlet, home } = begin();
    await outlet.send(setup, row('a', ['L-1', 'A']));
    writeFileSync(path.join(home, '.written', 'b.row'), note);
    await outlet.send(setup, row('b', ['L-2', 'B']));
    await outlet.send(setup, row('b', ['L-2', 'B']));
    const read = parseCsv(readFileSync(path.join(home, 'loans.csv')), { columns: false });
    expect(read).toEqual([
      ['number', 'borrower'],
      ['L-1', 'A'],
      ['L-2', 'B'],
    ]);
  });

  test('a row whose attempt was cut off is written, wherever others wrote meanwhile', async () => {
    const { outlet, home } = begin();
    await outlet.send(setup, row('a', ['1', 'a']));
    // What is left when a process is killed after it noted where its row was to go.
    const from = readFileSync(path.join(home, 'loans.csv')).length;
    writeFileSync(path.join(home, '.written', 'b.row'), JSON.stringify({ name: path.join(home, 'loans.csv'), from }));
    await outlet.send(setup, row('c', ['3', 'c']));
    await outlet.send(setup, row('b', ['2', 'b']));
    await outlet.send(setup, row('b', ['2', 'b']));
    expect(parseCsv(readFileSync(path.join(home, 'loans.csv')))).toEqual([
      ['number', 'borrower'],
      ['1', 'a'],
      ['3', 'c'],
      ['2', 'b'],
    ]);
  });

  test('other columns begin another file', async () => {
    const { outlet, home } = begin();
    await outlet.send(setup, row('a', ['1', 'a']));
    await outlet.send(setup, row('b', ['1'], ['number']));
    expect(shown(home)).toEqual(['loans-2.csv', 'loans.csv']);
  });

  test.each<[string, string | null]>([
    ['../../etc/passwd', 'etc-passwd'],
    ['..', null],
    ['   ', null],
    ['CON', '_CON'],
    ['lpt1.json', '_lpt1.json'],
    ['a\u0000b\nc', 'a-b-c'],
    ['.hidden', 'hidden'],
    ['trailing. ', 'trailing'],
    ['Žlutý kůň', 'Žlutý kůň'],
  ])('“%s” becomes a name that is safe everywhere', (name, expected) => {
    expect(safeName(name)).toBe(expected);
  });

  test('whatever names are asked for, nothing is written outside the folder, and names fit', async () => {
    const { outlet, root } = begin();
    const part = fc.oneof(
      fc.constantFrom('..', '.', '/', '\\', 'CON', 'x'.repeat(300), '\u202e', ''),
      fc.string({ maxLength: 12 }),
    );
    await fc.assert(
      fc.asyncProperty(fc.uuid(), part, part, async (id, own, fileName) => {
        await outlet.send(setup, file(id, { folder: own, fileName })).catch((error: unknown) => {
          if (!(error instanceof NotSent)) throw error;
        });
      }),
      { numRuns: 60 },
    );
    expect(readdirSync(root)).toEqual(['Agreements']);
    for (const name of readdirSync(root, { recursive: true }) as string[])
      expect(Math.max(...name.split(path.sep).map((one) => Buffer.byteLength(one)))).toBeLessThanOrEqual(255);
  });

  test('a PDF has a tag tree, a title and its text (read by poppler)', async () => {
    const { outlet, home } = begin();
    const text: RichText = [
      { kind: 'heading', level: 1, runs: [{ text: 'Loan agreement Ł-2027' }] },
      { kind: 'paragraph', runs: [{ text: 'Between ' }, { text: 'Müller & Søn', isStrong: true }] },
      {
        kind: 'table',
        head: ['Title', 'Value'],
        rows: Array.from({ length: 80 }, (_, index) => [`Object ${index}`, `€${index}.00`]),
      },
      { kind: 'fields', entries: [{ name: 'Borrower', text: 'Hollen Street' }] },
      { kind: 'list', isOrdered: false, items: [[{ text: 'one' }]] },
    ];
    await outlet.send(setup, file('p', { folder: '', written: { format: 'pdf', title: 'Loan agreement', text } }));
    const place = path.join(home, 'Hollen-Street.pdf');
    const read = execFileSync('pdftotext', ['-layout', place, '-'], { encoding: 'utf8' });
    for (const part of ['Loan agreement Ł-2027', 'Müller & Søn', 'Object 79', '€79.00', 'Hollen Street'])
      expect(read).toContain(part);
    const facts = execFileSync('pdfinfo', [place], { encoding: 'utf8' });
    expect(facts).toMatch(/Title:\s+Loan agreement/);
    expect(facts).toMatch(/Tagged:\s+yes/);
    const again = await writePdf('Loan agreement', text, 'en', new Date(0));
    expect(again.equals(readFileSync(place))).toBe(true);
  });
});
