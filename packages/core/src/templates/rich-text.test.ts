import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { isBlank, type RichBlock, type RichText, readRich, writeHtml, writePlain } from './rich-text.ts';

const run = (text: string, more: object = {}) => ({ text, ...more });
const paragraph = (...runs: ReturnType<typeof run>[]): RichBlock => ({ kind: 'paragraph', runs });
const TABLE: RichBlock = {
  kind: 'table',
  head: ['Title', 'Size'],
  rows: [
    ['Lamp & co', '3'],
    ['', '4'],
    ['', ''],
  ],
};

describe('as plain text', () => {
  test.each<[string, RichText, string]>([
    ['nothing', [], ''],
    ['passages with a blank line between', [paragraph(run('a')), paragraph(run('b'))], 'a\n\nb'],
    ['runs one after the other, marks left out', [paragraph(run('a', { isStrong: true }), run('b', { isEmphasis: true }))], 'ab'],
    ['line breaks', [paragraph(run('a\nb'))], 'a\nb'],
    ['a heading', [{ kind: 'heading', level: 1, runs: [run('Head')] }], 'Head'],
    ['a list', [{ kind: 'list', isOrdered: false, items: [[run('a')], [run('b')]] }], '- a\n- b'],
    ['a numbered list', [{ kind: 'list', isOrdered: true, items: [[run('a')], [run('b')]] }], '1. a\n2. b'],
    ['rows without their empty cells', [TABLE], 'Lamp & co · 3\n4\n'],
    [
      'fields; one of several lines below its name',
      [
        {
          kind: 'fields',
          entries: [
            { name: 'Title', text: 'Lamp' },
            { name: 'Rows', text: 'one\ntwo' },
          ],
        },
      ],
      'Title: Lamp\nRows: \none\ntwo',
    ],
    ['a link with its address', [paragraph(run('form', { link: 'https://a.example/f' }))], 'form (https://a.example/f)'],
    [
      'a link that says its address says it once',
      [paragraph(run('https://a.example', { link: 'https://a.example' }))],
      'https://a.example',
    ],
    ['an address of mail said once', [paragraph(run('a@b.example', { link: 'mailto:a@b.example' }))], 'a@b.example'],
  ])('%s', (_, text, expected) => {
    expect(writePlain(text)).toBe(expected);
  });
});

describe('as HTML', () => {
  test.each<[string, RichText, string]>([
    ['nothing', [], ''],
    [
      'marks within each other',
      [paragraph(run('a', { isStrong: true, isEmphasis: true }))],
      '<p><strong><em>a</em></strong></p>',
    ],
    ['line breaks', [paragraph(run('a\nb'))], '<p>a<br>b</p>'],
    ['a heading', [{ kind: 'heading', level: 3, runs: [run('Head')] }], '<h3>Head</h3>'],
    ['a list', [{ kind: 'list', isOrdered: false, items: [[run('a')], [run('b')]] }], '<ul><li>a</li><li>b</li></ul>'],
    ['a numbered list', [{ kind: 'list', isOrdered: true, items: [[run('a')]] }], '<ol><li>a</li></ol>'],
    [
      'a link',
      [paragraph(run('x', { link: 'https://a.example/?a=1&b="2"' }))],
      '<p><a href="https://a.example/?a=1&amp;b=&quot;2&quot;">x</a></p>',
    ],
  ])('%s', (_, text, expected) => {
    expect(writeHtml(text)).toBe(expected);
  });

  test('a table says which cells are heads (WCAG 2.2, technique H63)', () => {
    const html = writeHtml([TABLE, { kind: 'fields', entries: [{ name: 'A<b>', text: 'x\ny' }] }]);
    expect(html.match(/<th scope="col"/g)).toHaveLength(2);
    expect(html.match(/<th scope="row"/g)).toHaveLength(1);
    expect(html.match(/<td/g)).toHaveLength(7);
    expect(html).toContain('Lamp &amp; co');
    expect(html).toContain('A&lt;b&gt;');
    expect(html).toContain('x<br>y');
  });

  test('whatever stands in it, it holds no tag and no quote of its own', () => {
    const text = fc.string({ unit: 'binary', maxLength: 30 });
    const block = fc.oneof(
      text.map((own): RichBlock => paragraph(run(own))),
      text.map((own): RichBlock => ({ kind: 'table', head: [own], rows: [[own]] })),
      text.map((own): RichBlock => ({ kind: 'fields', entries: [{ name: own, text: own }] })),
    );
    fc.assert(
      fc.property(block, (own) => {
        const between = writeHtml([own]).replace(
          /<\/?(p|br|table|thead|tbody|tr|th|td)( (scope|style)="[a-z0-9:;#% -]*")*>/g,
          '',
        );
        expect(between).not.toMatch(/[<>"']/);
      }),
    );
  });
});

describe('whether there is anything to read', () => {
  test.each<[string, RichText, boolean]>([
    ['nothing', [], true],
    ['spaces', [paragraph(run(' \n')), { kind: 'heading', level: 1, runs: [] }], true],
    ['a word', [paragraph(run('')), paragraph(run('a'))], false],
    ['a list without items', [{ kind: 'list', isOrdered: false, items: [] }], true],
    ['a table without rows', [{ kind: 'table', head: ['A'], rows: [] }], true],
    ['a table with one', [TABLE], false],
    ['no fields', [{ kind: 'fields', entries: [] }], true],
    ['a field', [{ kind: 'fields', entries: [{ name: 'A', text: '' }] }], false],
  ])('%s', (_, text, expected) => {
    expect(isBlank(text)).toBe(expected);
  });
});

describe('plain text read', () => {
  test('has a paragraph for each part between blank lines, as it was written', () => {
    expect(readRich('a\nb\n\n\n c \n\n')).toEqual([paragraph(run('a\nb')), paragraph(run(' c '))]);
    expect(readRich('')).toEqual([]);
  });

  test('is written again as it was', () => {
    const line = fc.stringMatching(/^[a-z*#{}-]{1,8}$/);
    fc.assert(
      fc.property(fc.array(line, { minLength: 1, maxLength: 5 }), (lines) => {
        const text = lines.join('\n\n');
        expect(writePlain(readRich(text))).toBe(text);
      }),
    );
  });
});
