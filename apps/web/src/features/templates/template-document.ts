import { type Block, type Inline, parseLine, parseTemplate } from '@ypomet/core';

/** A node of the editor's document, as JSON. */
export type DocNode = {
  readonly type: string;
  readonly attrs?: Readonly<Record<string, unknown>>;
  readonly content?: readonly DocNode[];
  readonly text?: string;
  readonly marks?: readonly { readonly type: string; readonly attrs?: Readonly<Record<string, unknown>> }[];
};
type Marks = NonNullable<DocNode['marks']>;

/** What stands between the double braces of an insert: an expression, or a mark such as `#when x`. */
const insert = (raw: string, marks: Marks): DocNode => withMarks({ type: 'insert', attrs: { raw } }, marks);
const withMarks = (node: DocNode, marks: Marks): DocNode => (marks.length > 0 ? { ...node, marks } : node);

/** A template as the document that the editor shows. What it can't show as a passage stands in it as text. */
export function toDocument(text: string): DocNode {
  const content = toBlocks(parseTemplate(text).blocks);
  return { type: 'doc', content: content.length > 0 ? content : [{ type: 'paragraph' }] };
}

export function lineToDocument(text: string): DocNode {
  const content = toInlines(parseLine(text).children, []);
  return { type: 'doc', content: [paragraph(content)] };
}

const paragraph = (content: readonly DocNode[]): DocNode =>
  content.length > 0 ? { type: 'paragraph', content } : { type: 'paragraph' };

function toBlocks(blocks: readonly Block[]): readonly DocNode[] {
  return blocks.flatMap((block): readonly DocNode[] => {
    switch (block.kind) {
      case 'paragraph':
        return [paragraph(toInlines(block.children, []))];
      case 'heading':
        return [{ type: 'heading', attrs: { level: block.level }, content: toInlines(block.children, []) }];
      case 'list':
        return [
          {
            type: block.isOrdered ? 'orderedList' : 'bulletList',
            content: block.items.map((item) => ({ type: 'listItem', content: [paragraph(toInlines(item, []))] })),
          },
        ];
      case 'when':
        return [
          passage('when', block.condition.text, block.then),
          ...(block.otherwise.length > 0 ? [passage('else', '', block.otherwise)] : []),
        ];
      case 'each':
        return [passage('each', block.rows.text, block.body)];
      case 'fields':
        return [{ type: 'fieldsShown' }];
      default:
        return block satisfies never;
    }
  });
}

function passage(kind: 'when' | 'else' | 'each', expression: string, blocks: readonly Block[]): DocNode {
  const content = toBlocks(blocks);
  return { type: 'passage', attrs: { kind, expression }, content: content.length > 0 ? content : [{ type: 'paragraph' }] };
}

function toInlines(children: readonly Inline[], marks: Marks): readonly DocNode[] {
  return children.flatMap((child): readonly DocNode[] => {
    switch (child.kind) {
      case 'text':
        return child.text
          .split('\n')
          .flatMap((part, index): readonly DocNode[] => [
            ...(index > 0 ? [{ type: 'hardBreak' }] : []),
            ...(part === '' ? [] : [withMarks({ type: 'text', text: part }, marks)]),
          ]);
      case 'value':
        return [insert(child.expression.text, marks)];
      case 'plural':
        return [insert(`#plural ${child.expression.text}: ${child.forms.join(' | ')}`, marks)];
      case 'strong':
        return toInlines(child.children, [...marks, { type: 'bold' }]);
      case 'emphasis':
        return toInlines(child.children, [...marks, { type: 'italic' }]);
      case 'link':
        return toInlines(child.children, [...marks, { type: 'link', attrs: { href: writeInlines(child.address) } }]);
      case 'when':
        return [
          insert(`#when ${child.condition.text}`, marks),
          ...toInlines(child.then, marks),
          ...(child.otherwise.length > 0 ? [insert('#else', marks), ...toInlines(child.otherwise, marks)] : []),
          insert('/when', marks),
        ];
      default:
        return child satisfies never;
    }
  });
}

/** Inlines without marks, as they are written. */
const writeInlines = (children: readonly Inline[]): string =>
  children
    .map((child) => (child.kind === 'text' ? child.text : child.kind === 'value' ? `{{${child.expression.text}}}` : ''))
    .join('');

/** The template of a document, in the form in which it is stored. */
export const fromDocument = (document: DocNode): string => writeBlocks(document.content ?? []).join('\n\n');

/** The template of a document of one line. */
export const lineFromDocument = (document: DocNode): string =>
  (document.content ?? [])
    .flatMap((block) => block.content ?? [])
    .map((node) => (node.type === 'insert' ? braced(node) : (node.text ?? ' ').replace(/\{(?=\{|$)/g, '\\{')))
    .join('');

const braced = (node: DocNode): string => `{{${String(node.attrs?.raw ?? '')}}}`;

function writeBlocks(blocks: readonly DocNode[]): readonly string[] {
  const written: string[] = [];
  for (let index = 0; index < blocks.length; index++) {
    const block = blocks[index] as DocNode;
    if (block.type !== 'passage') {
      const text = writeBlock(block);
      if (text !== '') written.push(text);
      continue;
    }
    const next = blocks[index + 1];
    const hasElse = block.attrs?.kind === 'when' && next?.type === 'passage' && next.attrs?.kind === 'else';
    written.push(writePassage(block, hasElse ? next : null));
    if (hasElse) index += 1;
  }
  return written;
}

function writePassage(block: DocNode, otherwise: DocNode | null): string {
  const { kind, expression } = block.attrs as { readonly kind: string; readonly expression: string };
  // An "else" that stands behind nothing is a passage that is always there.
  const [word, condition] = kind === 'else' ? ['when', 'true'] : [kind, expression.trim() === '' ? 'false' : expression];
  const body = writeBlocks(block.content ?? []).join('\n\n');
  const rest = otherwise ? `\n{{#else}}\n${writeBlocks(otherwise.content ?? []).join('\n\n')}` : '';
  return `{{#${word} ${condition}}}\n${body}${rest}\n{{/${word}}}`;
}

function writeBlock(block: DocNode): string {
  const text = writeLines(block);
  // An item may be empty.
  return block.type === 'bulletList' || block.type === 'orderedList' ? text : text.replace(/^[ \t]+|[ \t]+$/gm, '');
}

function writeLines(block: DocNode): string {
  const content = block.content ?? [];
  switch (block.type) {
    case 'heading':
      return `${'#'.repeat(Number(block.attrs?.level ?? 1))} ${writeMarked(content)}`;
    case 'bulletList':
    case 'orderedList':
      return content
        .map((item, index) => {
          const own = (item.content ?? [])
            .map((part) => writeMarked(part.content ?? []))
            .join(' ')
            .trim();
          return `${block.type === 'orderedList' ? `${index + 1}.` : '-'} ${own}`;
        })
        .join('\n');
    case 'fieldsShown':
      return '{{#fields}}';
    default: {
      const text = writeMarked(content);
      // What a line begins with could be taken for a heading or a list.
      return text.replace(/^(#{1,3} |[-*] |\d{1,3}\. )/gm, (lead) => (/^\d/.test(lead) ? lead.replace('.', '\\.') : `\\${lead}`));
    }
  }
}

const ESCAPED = /[\\*[\]]|\{(?=\{|$)/g;
const SIGNS: Readonly<Record<string, string>> = { bold: '**', italic: '*' };

/** Inlines with their marks: those that neighbours share are opened once. */
function writeMarked(own: readonly DocNode[]): string {
  const nodes = joined(own);
  let text = '';
  let open: Marks = [];
  const close = (until: number): void => {
    for (const mark of [...open.slice(until)].reverse())
      text += mark.type === 'link' ? `](${String(mark.attrs?.href ?? '')})` : (SIGNS[mark.type] ?? '');
    open = open.slice(0, until);
  };
  for (const node of nodes) {
    const marks = [...(node.marks ?? [])].sort((a, b) => rank(a.type) - rank(b.type));
    let shared = 0;
    while (shared < open.length && shared < marks.length && isSame(open[shared], marks[shared])) shared += 1;
    close(shared);
    for (const mark of marks.slice(shared)) text += mark.type === 'link' ? '[' : (SIGNS[mark.type] ?? '');
    open = marks;
    if (node.type === 'insert') text += braced(node);
    else if (node.type === 'hardBreak') text += '\n';
    else text += (node.text ?? '').replace(ESCAPED, (character) => `\\${character}`);
  }
  close(0);
  return text;
}

/** Texts beside each other with the same marks are one. */
function joined(nodes: readonly DocNode[]): readonly DocNode[] {
  const found: DocNode[] = [];
  for (const node of nodes) {
    const last = found.at(-1);
    const isOne =
      node.type === 'text' && last?.type === 'text' && JSON.stringify(node.marks ?? []) === JSON.stringify(last.marks ?? []);
    if (isOne) found[found.length - 1] = { ...last, text: `${last.text ?? ''}${node.text ?? ''}` };
    else found.push(node);
  }
  return found;
}

const rank = (type: string): number => ['bold', 'italic', 'link'].indexOf(type);
const isSame = (a: Marks[number] | undefined, b: Marks[number] | undefined): boolean =>
  a?.type === b?.type && JSON.stringify(a?.attrs ?? {}) === JSON.stringify(b?.attrs ?? {});
