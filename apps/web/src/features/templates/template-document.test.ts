import { describe, expect, test } from '@jest/globals';
import { parseLine, parseTemplate } from '@ypomet/core';
import fc from 'fast-check';
import { fromDocument, lineFromDocument, lineToDocument, toDocument } from './template-document.ts';

/** A template without where its expressions stand. */
const shapeOf = (text: string): unknown =>
  JSON.parse(JSON.stringify(parseTemplate(text).blocks, (key, value) => (key === 'start' ? undefined : value)));

describe('the editor’s document and the stored template are two views of one text', () => {
  test.each([
    'One paragraph with {{value}} and **bold *and both* {{x}}**.',
    'Two\nlines\n\nand a paragraph',
    '# Head\n\n## Second {{x}}\n\n- one\n- two {{y}}\n\n1. first\n2. second',
    '{{#when a > 1}}\nThen {{a}}\n{{#else}}\nElse\n{{/when}}',
    '{{#each rows}}\n- {{row.title}}\n{{/each}}\n\n{{#fields}}',
    '{{#when a}}\n{{#when b}}\nInner\n{{/when}}\n{{/when}}',
    'Lent{{#when a}}, dearly{{#else}}, cheaply{{/when}}: {{#plural n: object | objects}}',
    '[a link](https://museum.example/{{record.number}}) and \\*stars\\* and \\{{braces}}',
    '\\- no list\n\\# no head\n1\\. no number',
  ])('%s', (text) => {
    expect(fromDocument(toDocument(text))).toBe(text);
  });

  test('nothing changes by being opened and kept, whatever is written', () => {
    const piece = fc.constantFrom(
      'word ',
      '*',
      '**',
      '[',
      ']',
      '(',
      ')',
      '\\',
      '- ',
      '# ',
      '1. ',
      '\n',
      '\n\n',
      '{{x}}',
      '{{y + 1}}',
      '{',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 14 }), (pieces) => {
        const text = pieces.join('');
        const write = (one: string): string => fromDocument(toDocument(one));
        // Marks that hardly anybody writes may take three rounds to their settled form; from there on it is the same letter by letter.
        const settled = write(write(write(text)));
        expect(write(settled)).toBe(settled);
        expect(shapeOf(write(settled))).toEqual(shapeOf(settled));
      }),
      { numRuns: 500 },
    );
  });

  test('a line', () => {
    for (const text of ['Loan {{record.number}}: {{borrower}}', '*stars* stay {{x}}', '\\{{no insert}}', ''])
      expect(lineFromDocument(lineToDocument(text))).toBe(text);
    expect(parseLine('a {{x}}').children).toHaveLength(2);
  });
});
