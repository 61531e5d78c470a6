import { describe, expect, test } from '@jest/globals';
import { OUTSIDE, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { handedOn, recordOf, smallCompiled, smallWorkflow } from '@ypomet/testkit/small-workflow';
import { answerOf } from '@ypomet/testkit/told';
import fc from 'fast-check';
import { compileWorkflow } from '../flow/compile-workflow.ts';
import { makeOutside } from '../flow/record.ts';
import { expressionsIn, parseTemplate } from './parse-template.ts';
import { type RichText, writeHtml, writePlain } from './rich-text.ts';

const FIELDS = [
  { type: 'text', key: 'thing' },
  { type: 'money', key: 'price', currency: 'EUR' },
  { type: 'number', key: 'limit', confidentialTo: ['chief'] },
  { type: 'number', key: 'heads' },
  {
    type: 'table',
    key: 'rows',
    fields: [
      { type: 'text', key: 'name', name: 'Name' },
      { type: 'number', key: 'n', name: 'Number' },
    ],
  },
];
const ROWS = [
  { id: 'a', values: { name: 'Lamp', n: '1' } },
  { id: 'b', values: { name: 'Vase & co', n: '12' } },
];
const ENTERED = { thing: 'Lamp <b>&\nco', price: '1200.5', rows: ROWS };

function filled(text: string, entered: object = ENTERED, locale = 'en'): RichText {
  const workflow = smallCompiled({ fields: FIELDS, handOffs: { send: { acknowledgements: [{ key: 'a', text }] } } });
  const outside = makeOutside({ ...OUTSIDE, locale });
  return handedOn(workflow, recordOf(workflow), 'send', entered as never, undefined, outside).acknowledgement?.text ?? [];
}
const plain = (text: string, entered?: object, locale?: string): string => writePlain(filled(text, entered, locale));

describe('what a template says', () => {
  test.each<[string, string, string]>([
    ['a value', '{{thing}}', 'Lamp <b>&\nco'],
    ['a value by its field, and one that is made', '{{price}} or {{ price * 2 }}', '€1,200.50 or 2,401'],
    ['nothing for nothing', '{{}}none{{ }}', 'none'],
    ['an expression', '{{if price > 1000 then "dear" else "cheap"}}', 'dear'],
    ['braces that are none', 'no } braces { here', 'no } braces { here'],
    ['inserts beside each other', '{{"a"}}{{"b"}}', 'ab'],
    ['braces in a text within an expression', '{{"{x}"}}|', '{x}|'],
    ['braces in quotes', '{{"}}"}}', '}}'],
    ['braces after a backslash', '\\{{thing}}', '{{thing}}'],
    ['paragraphs, and a line break within one', 'One\ntwo\n\n\nthree', 'One\ntwo\n\nthree'],
    ['a passage that holds, with its paragraphs', 'A\n\n{{#when price > 1}}\nB\n\nC\n{{/when}}\n\nD', 'A\n\nB\n\nC\n\nD'],
    ['a passage that doesn’t hold', 'A\n\n{{#when price > 9999}}\nB\n{{#else}}\nC\n{{/when}}', 'A\n\nC'],
    ['unknown is not true', '{{#when heads > 1}}\nB\n{{#else}}\nC\n{{/when}}', 'C'],
    ['passages within each other', '{{#when true}}\n{{#when false}}\nA\n{{#else}}\nB\n{{/when}}\n{{#else}}\nC\n{{/when}}', 'B'],
    ['a passage in a line', 'Lent{{#when price > 1000}}, dearly{{#else}}, cheaply{{/when}}.', 'Lent, dearly.'],
    ['once for each row', '{{#each rows}}\n- {{row.name}}: {{row.n}}\n{{/each}}', '- Lamp: 1\n- Vase & co: 12'],
    ['some rows', '{{#each rows[n > 5]}}\n{{row.name}}\n{{/each}}', 'Vase & co'],
    ['a table alone', '{{rows}}', 'Lamp · 1\nVase & co · 12'],
    ['one of them', '{{#plural 1: object | objects}}', 'object'],
    ['several', '{{count(rows)}} {{#plural count(rows): object | objects}}', '2 objects'],
    ['of a number that isn’t known', '{{#plural heads: object | objects}}', 'objects'],
    ['headings and lists', '# Loan\n- one\n- two\n1. first\n2. then', 'Loan\n\n- one\n- two\n\n1. first\n2. then'],
    ['stars that are no marks', '2 * 3 * 4 and \\*so\\*', '2 * 3 * 4 and *so*'],
    ['a link with its address', '[the form](https://museum.example/{{rows[1].name}})', 'the form (https://museum.example/Lamp)'],
    ['a link to nowhere good', '[click](javascript:alert)', 'click'],
  ])('%s', (_, text, expected) => {
    expect(plain(text)).toBe(expected);
  });

  // Unicode CLDR plural rules: Polish has one, few and many.
  test('plurals by the language of the workspace', () => {
    const text = '{{#plural count(rows): obiekt | obiekty | obiektów}}';
    const rows = (count: number) => ({ rows: Array.from({ length: count }, (_, at) => ({ id: `r${at}`, values: {} })) });
    expect([1, 2, 5].map((count) => plain(text, rows(count), 'pl'))).toEqual(['obiekt', 'obiekty', 'obiektów']);
  });

  test('every field shown to whoever reads it', () => {
    const [block] = filled('{{#fields}}', { thing: 'Lamp', price: '3' });
    expect(block).toEqual({
      kind: 'fields',
      entries: [
        { name: 'thing', text: 'Lamp' },
        { name: 'price', text: '€3.00' },
      ],
    });
  });

  test('marks around values', () => {
    expect(filled('**Dear *{{thing}}*, [see {{price}}](mailto:a@b.example)**', { thing: 'Lamp', price: '3' })).toEqual([
      {
        kind: 'paragraph',
        runs: [
          { isStrong: true, text: 'Dear ' },
          { isStrong: true, isEmphasis: true, text: 'Lamp' },
          { isStrong: true, text: ', ' },
          { isStrong: true, link: 'mailto:a@b.example', text: 'see €3.00' },
        ],
      },
    ]);
  });
});

describe('as HTML', () => {
  test('values are text, never marks; a value with template marks in it is a value', () => {
    const html = writeHtml(filled('{{thing}} **{{thing}}**', { thing: '</p><script>{{price}} *x* &' }));
    expect(html).toBe(
      '<p>&lt;/p&gt;&lt;script&gt;{{price}} *x* &amp; <strong>&lt;/p&gt;&lt;script&gt;{{price}} *x* &amp;</strong></p>',
    );
  });

  test('a link can’t leave its attribute', () => {
    const html = writeHtml(filled('[x](https://a.example/{{thing}})', { thing: '"><img src=x onerror=alert(1)>' }));
    expect(html).not.toContain('<img');
  });

  test('whatever is entered, the tags are those of the template', () => {
    const tags = (html: string): readonly string[] => html.match(/<[^>]*>/g) ?? [];
    fc.assert(
      fc.property(fc.string({ maxLength: 40 }), (thing) => {
        const own = tags(writeHtml(filled('## A\n{{thing}}\n- {{thing}}', { thing }))).filter((tag) => tag !== '<br>');
        expect(own.filter((tag) => !/^<\/?(h2|p|ul|li)>$/.test(tag))).toEqual([]);
      }),
      { numRuns: 100 },
    );
  });
});

describe('what is wrong with a template is told where it stands', () => {
  const faults = (text: string) =>
    compileWorkflow(
      smallWorkflow({ fields: FIELDS, handOffs: { send: { acknowledgements: [{ key: 'a', text }] } } }),
    ).diagnostics.map(({ code, span }) => [code, span ? text.slice(span.start, span.end) : '']);

  test.each<[string, readonly (readonly string[])[]]>([
    ['Dear {{thnig}}!', [['expression/unknown-name-near', 'thnig']]],
    ['Dear {{thing', [['template/open', '{{']]],
    ['{{#when true}}\nA', [['template/unclosed', '#when true']]],
    ['A\n{{/when}}', [['template/not-open', '/when']]],
    ['A {{#else}} B', [['template/not-open', '#else']]],
    ['{{#whne true}}\nA\n', [['template/unknown', '#whne true']]],
    ['{{#when thing}}\nA\n{{/when}}', [['expression/wrong-result', 'thing']]],
    ['{{#each thing}}\nA\n{{/each}}', [['template/rows', 'thing']]],
    ['{{#each rows}}\n{{row.nmae}}\n{{/each}}', [['expression/unknown-part-near', 'nmae']]],
    ['{{row.name}}', [['expression/unknown-name-near', 'row']]],
    ['{{#plural count(rows)}}', [['template/forms', 'count(rows)']]],
  ])('%s', (text, expected) => {
    const found = faults(text);
    expect(found.map(([code]) => code)).toEqual(expected.map(([code]) => code));
    expect(found.map(([, at]) => at?.trim())).toEqual(expected.map(([, at]) => at));
  });

  test('any text can be read, and its expressions stand where they are said to', () => {
    const piece = fc.constantFrom(
      '{{',
      '}}',
      '#when ',
      '#else',
      '/when',
      '#each ',
      'rows',
      '\n',
      '\n\n',
      '- ',
      '**',
      '*',
      '"',
      '{',
      'a',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        const text = pieces.join('');
        for (const one of expressionsIn(parseTemplate(text)))
          expect(text.slice(one.start, one.start + one.text.length)).toBe(one.text);
      }),
    );
  });
});

test('the sample workflow’s texts are sound', () => {
  expect(compileWorkflow(sampleWorkflow()).diagnostics.filter(({ code }) => code.startsWith('template/'))).toEqual([]);
});

test('an acknowledgement without a hand-off to answer is none', () => {
  const workflow = smallCompiled({});
  expect(answerOf(handedOn(workflow, recordOf(workflow), 'send'))).toBeUndefined();
});
