import { execFileSync } from 'node:child_process';
import { describe, expect, test } from '@jest/globals';
import type { RichBlock, RichText } from '@ypomet/core';
import { MissingLetters } from './pdf-fonts.ts';
import { PdfPool } from './pdf-pool.ts';
import { writePdf } from './write-pdf.ts';

// Documents are read by poppler, which takes the text out as readers of the document would.
const paragraph = (text: string): RichBlock => ({ kind: 'paragraph', runs: [{ text }] });
const write = (...text: RichText) => writePdf('Loan', text, 'en', new Date(0));
const read = (bytes: Buffer, ...options: readonly string[]): string =>
  execFileSync('pdftotext', [...options, '-', '-'], { input: bytes, encoding: 'utf8' });
/** Marks of direction that poppler adds. */
const plain = (text: string): string =>
  text
    .replace(/\p{Cf}/gu, '')
    .replace(/\s+/g, ' ')
    .trim();

describe('the letters of a document', () => {
  test.each([
    ['Greek', 'Ευρώπη: δανεισμός έργων'],
    ['Cyrillic', 'Музей отдаёт вещи на выставку, Київ'],
    ['Vietnamese', 'Bảo tàng cho mượn hiện vật'],
    ['Turkish and Polish', 'Çağrı, İstanbul, Łódź, ẞ'],
    ['Devanagari', 'संग्रहालय वस्तुएँ उधार देता है।'],
    ['Thai', 'สวัสดีชาวโลก'],
    ['Japanese', '博物館は資料を貸し出します。山田太郎様'],
    ['Chinese', '博物馆向外借出藏品'],
    ['Korean', '박물관은 소장품을 대여합니다.'],
    ['signs', 'ok ✓ → ½ ★ 😀'],
  ])('%s is taken out as it was written', async (_, text) => {
    expect(plain(read(await write(paragraph(text))))).toContain(text);
  });

  test.each([
    ['Hebrew', 'שלום עולם המוזיאון'],
    ['Arabic', 'مرحبا بالعالم المتحف يعير منها ساعات إلى اللوفر'],
    ['Persian', 'موزه گنجینه پارچه و ژاله را امانت می دهد'],
  ])('%s, which is written from the right, is taken out in its order', async (_, text) => {
    expect(plain(read(await write(paragraph(text))))).toBe(`${text} Loan · 1/1`);
  });

  test('numbers in a script from the right keep the order of their digits, brackets open where they should', async () => {
    const bytes = await write(paragraph('ב 12 (א)'), paragraph('قطعة ١٢'));
    // Where letters stand on the page, from the left: poppler's boxes of words.
    const words = [...read(bytes, '-bbox').matchAll(/xMin="([\d.]+)" yMin="([\d.]+)"[^>]*>([^<]*)</g)].map(([, x, y, word]) => ({
      x: Number(x),
      y: Math.round(Number(y)),
      word: plain(word ?? ''),
    }));
    const hebrew = words.filter(({ word }) => /[בא]|^12$/.test(word)).sort((a, b) => a.x - b.x);
    expect(hebrew.map(({ word }) => word.replace(/[()]/g, ''))).toEqual(['א', '12', 'ב']);
    expect(words.some(({ word }) => word === '١٢')).toBe(true);
    // The first word of a paragraph from the right ends at the right margin.
    expect(Math.max(...hebrew.map(({ x }) => x))).toBeGreaterThan(500);
  });

  test('a letter that no font has is told, and nothing is made', async () => {
    const text = paragraph('A \u{12000}\u{1F9FF} and \u{13000}');
    await expect(write(text)).rejects.toBeInstanceOf(MissingLetters);
    const pool = new PdfPool();
    const job = { title: 'Loan', text: [text], locale: 'en', made: new Date(0).toISOString() };
    await expect(pool.write(job)).rejects.toMatchObject({ fault: { code: 'no-letters' }, more: { isFinal: true } });
    await pool.close();
  }, 60_000);

  test('marks that are never drawn ask for no font', async () => {
    expect(plain(read(await write(paragraph('a\u200db\u{fe0f}\u0007c'))))).toContain('abc');
  });
});

describe('tables', () => {
  const rows = Array.from({ length: 120 }, (_, index) => [`Object ${index}`, `€${index}.00`]);

  test('repeat the heads of their columns on every page', async () => {
    const pages = read(await write({ kind: 'table', head: ['Title', 'Value'], rows }))
      .split('\f')
      .slice(0, -1);
    expect(pages.length).toBeGreaterThan(1);
    for (const page of pages) expect(plain(page)).toMatch(/^Title .*Value/);
    expect(pages.join(' ').match(/Object \d+/g)).toHaveLength(120);
  });

  test('lose nothing of a cell that is longer than a page', async () => {
    const words = Array.from({ length: 2500 }, (_, index) => `w${index}`);
    const text = read(await write({ kind: 'table', head: ['Title', 'Text'], rows: [['One', words.join(' ')]] }));
    const found = new Set(text.split(/\s+/));
    expect(words.filter((word) => !found.has(word))).toEqual([]);
  });
});

describe('lines', () => {
  test('break between words, and within a word that is wider than a line', async () => {
    const bytes = await write(paragraph(`${'word '.repeat(40)}${'x'.repeat(300)}`));
    const boxes = [...read(bytes, '-bbox').matchAll(/xMax="([\d.]+)"/g)].map(([, x]) => Number(x));
    // The right margin of A4 with 60 points beside the text.
    expect(Math.max(...boxes)).toBeLessThan(595.28 - 59);
    expect(plain(read(bytes)).replace(/[^x]/g, '')).toHaveLength(300);
  });

  test('of a link lead where it does', async () => {
    const bytes = await write({ kind: 'paragraph', runs: [{ text: 'See ' }, { text: 'this', link: 'https://museum.example/' }] });
    expect(bytes.toString('latin1')).toContain('https://museum.example/');
  });
});
