/** Where an expression stands in the template's text. */
type Spanned = { readonly text: string; readonly start: number };

/** Part of a line of a template. */
export type Inline =
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'value'; readonly expression: Spanned }
  /** Forms by the plural of a number: `{{#plural count(objects): object | objects}}`. */
  | { readonly kind: 'plural'; readonly expression: Spanned; readonly forms: readonly string[] }
  | { readonly kind: 'strong' | 'emphasis'; readonly children: readonly Inline[] }
  | { readonly kind: 'link'; readonly children: readonly Inline[]; readonly address: readonly Inline[] }
  | {
      readonly kind: 'when';
      readonly condition: Spanned;
      readonly then: readonly Inline[];
      readonly otherwise: readonly Inline[];
    };

/** A passage of a template. */
export type Block =
  | { readonly kind: 'paragraph'; readonly children: readonly Inline[] }
  | { readonly kind: 'heading'; readonly level: 1 | 2 | 3; readonly children: readonly Inline[] }
  | { readonly kind: 'list'; readonly isOrdered: boolean; readonly items: readonly (readonly Inline[])[] }
  /** Only when a condition holds; otherwise something else, or nothing. */
  | {
      readonly kind: 'when';
      readonly condition: Spanned;
      readonly then: readonly Block[];
      readonly otherwise: readonly Block[];
    }
  /** Once for each row of a table field. */
  | { readonly kind: 'each'; readonly rows: Spanned; readonly body: readonly Block[] }
  /** Every field shown to whoever gets the text. */
  | { readonly kind: 'fields' };

/** What is wrong with a template: where, and which word of it. */
export type TemplateFault = {
  readonly code: 'template/open' | 'template/unknown' | 'template/unclosed' | 'template/not-open';
  readonly start: number;
  readonly end: number;
  readonly found: string;
};

export type ParsedTemplate = { readonly blocks: readonly Block[]; readonly faults: readonly TemplateFault[] };
export type ParsedLine = { readonly children: readonly Inline[]; readonly faults: readonly TemplateFault[] };

type Token =
  | { readonly kind: 'text'; readonly text: string; readonly start: number }
  | { readonly kind: 'insert'; readonly text: string; readonly start: number; readonly end: number; readonly isAlone: boolean };
type Insert = Extract<Token, { kind: 'insert' }>;

/**
 * Reads a template: CommonMark's paragraphs, headings, lists, emphasis and links (each line break is kept), with inserts in
 * double braces. `{{expression}}` is a value; `{{#when condition}}` … `{{#else}}` … `{{/when}}` a passage that is there only
 * then; `{{#each table}}` … `{{/each}}` once for each row; `{{#plural number: one | other}}`; `{{#fields}}` every field shown.
 * A passage whose marks stand alone on their lines holds whole paragraphs. Never fails: what can't be read is in `faults`,
 * and stands as it is.
 */
export function parseTemplate(text: string): ParsedTemplate {
  const reader = new TemplateReader(text);
  const blocks = reader.blocks(null);
  return { blocks, faults: reader.faults };
}

/** Reads a template of one line: values, plurals and passages, no marks of text. */
export function parseLine(text: string): ParsedLine {
  const reader = new TemplateReader(text);
  const children = reader.line();
  return { children, faults: reader.faults };
}

/** Where the braces of an insert close: texts in quotes and braces of the expression are read over. Negative when nowhere. */
function endOfInsert(text: string, from: number): number {
  let depth = 0;
  let isQuoted = false;
  for (let at = from; at < text.length; at++) {
    const character = text[at];
    if (isQuoted) {
      if (character === '\\') at++;
      else if (character === '"') isQuoted = false;
    } else if (character === '"') isQuoted = true;
    else if (character === '{') depth++;
    else if (character === '}') {
      if (depth === 0 && text[at + 1] === '}') return at;
      if (depth > 0) depth--;
    }
  }
  // A quote that is never closed swallows the rest: the first end that there is ends it.
  return isQuoted ? text.indexOf('}}', from) : -1;
}

function tokenise(text: string, faults: TemplateFault[]): readonly Token[] {
  const tokens: Token[] = [];
  let at = 0;
  const take = (to: number): void => {
    if (to > at) tokens.push({ kind: 'text', text: text.slice(at, to), start: at });
    at = to;
  };
  for (let open = nextOpen(text, 0); open >= 0; open = nextOpen(text, at)) {
    const end = endOfInsert(text, open + 2);
    if (end < 0) {
      faults.push({ code: 'template/open', start: open, end: open + 2, found: '' });
      break;
    }
    take(open);
    const lineStart = text.lastIndexOf('\n', open - 1) + 1;
    const nextBreak = text.indexOf('\n', end);
    const after = text.slice(end + 2, nextBreak < 0 ? text.length : nextBreak);
    const isAlone = text.slice(lineStart, open).trim() === '' && after.trim() === '';
    tokens.push({ kind: 'insert', text: text.slice(open + 2, end), start: open + 2, end, isAlone });
    at = end + 2;
  }
  take(text.length);
  return tokens;
}

/** The next two braces that no backslash stands before. */
function nextOpen(text: string, from: number): number {
  for (let at = text.indexOf('{{', from); at >= 0; at = text.indexOf('{{', at + 1)) if (text[at - 1] !== '\\') return at;
  return -1;
}

const spanned = (insert: Insert, from: number): Spanned => {
  const rest = insert.text.slice(from);
  const lead = rest.length - rest.trimStart().length;
  return { text: rest.trim(), start: insert.start + from + lead };
};

/** The word of an insert that is no value: `#when`, `/each`. */
const wordOf = ({ text }: Insert): string | null => /^\s*([#/][a-z]*)/.exec(text)?.[1] ?? null;
const afterWord = ({ text }: Insert, word: string): number => text.indexOf(word) + word.length;

class TemplateReader {
  readonly faults: TemplateFault[] = [];
  private readonly tokens: readonly Token[];
  private at = 0;

  constructor(text: string) {
    this.tokens = tokenise(text, this.faults);
  }

  line(): readonly Inline[] {
    return this.inlines(this.tokens, (text) => [{ kind: 'text', text: text.replaceAll('\\{', '{') }]);
  }

  /** Blocks up to the mark that ends the passage they are in. */
  blocks(within: Insert | null, isElse = false): readonly Block[] {
    const blocks: Block[] = [];
    let pending: Token[] = [];
    const settle = (): void => {
      blocks.push(...this.proseBlocks(pending));
      pending = [];
    };
    for (let token = this.tokens[this.at]; token; token = this.tokens[this.at]) {
      const word = token.kind === 'insert' && token.isAlone ? wordOf(token) : null;
      if (token.kind === 'text' || word === null || word === '#plural') {
        pending.push(token);
        this.at += 1;
        continue;
      }
      if (within && endsPassage(within, word, isElse)) {
        settle();
        return blocks;
      }
      settle();
      this.at += 1;
      blocks.push(...this.passage(token, word));
    }
    settle();
    if (within) this.fault('template/unclosed', within);
    return blocks;
  }

  private passage(token: Insert, word: string): readonly Block[] {
    if (word === '#fields') return [{ kind: 'fields' }];
    if (word === '#each') {
      const body = this.blocks(token);
      this.at += 1;
      return [{ kind: 'each', rows: spanned(token, afterWord(token, word)), body }];
    }
    if (word === '#when') {
      const then = this.blocks(token);
      const hasElse = this.wordHere() === '#else';
      this.at += 1;
      const otherwise = hasElse ? this.blocks(token, true) : [];
      if (hasElse) this.at += 1;
      return [{ kind: 'when', condition: spanned(token, afterWord(token, word)), then, otherwise }];
    }
    this.fault(word.startsWith('/') || word === '#else' ? 'template/not-open' : 'template/unknown', token);
    return [];
  }

  private wordHere(): string | null {
    const token = this.tokens[this.at];
    return token?.kind === 'insert' ? wordOf(token) : null;
  }

  private fault(code: TemplateFault['code'], { start, end, text }: Insert): void {
    this.faults.push({ code, start, end, found: `{{${text.trim().split(/\s/)[0]}}}` });
  }

  /** Paragraphs, headings and lists of text without passages. */
  private proseBlocks(tokens: readonly Token[]): readonly Block[] {
    const blocks: Block[] = [];
    let lines: Token[][] = [];
    const settle = (): void => {
      if (lines.some((line) => line.length > 0)) blocks.push(...this.paragraph(lines));
      lines = [];
    };
    for (const line of linesOf(tokens)) {
      if (line.every((token) => token.kind === 'text' && token.text.trim() === '')) settle();
      else lines.push([...line]);
    }
    settle();
    return blocks;
  }

  private paragraph(lines: readonly (readonly Token[])[]): readonly Block[] {
    const blocks: Block[] = [];
    let plain: (readonly Token[])[] = [];
    const settle = (): void => {
      if (plain.length > 0) blocks.push({ kind: 'paragraph', children: this.joined(plain) });
      plain = [];
    };
    for (const line of lines) {
      const [first] = line;
      const lead = first?.kind === 'text' ? first.text.trimStart() : '';
      const heading = /^(#{1,3}) /.exec(lead);
      const item = /^(?:([-*])|(\d{1,3})\.) /.exec(lead);
      if (heading) {
        settle();
        const level = (heading[1] as string).length as 1 | 2 | 3;
        blocks.push({ kind: 'heading', level, children: this.marked(without(line, heading[0])) });
      } else if (item) {
        settle();
        const isOrdered = item[2] !== undefined;
        const last = blocks.at(-1);
        const own = this.marked(without(line, item[0]));
        if (last?.kind === 'list' && last.isOrdered === isOrdered)
          blocks[blocks.length - 1] = { ...last, items: [...last.items, own] };
        else blocks.push({ kind: 'list', isOrdered, items: [own] });
      } else plain.push(line);
    }
    settle();
    return blocks;
  }

  private joined(lines: readonly (readonly Token[])[]): readonly Inline[] {
    const tokens = lines.flatMap((line, index): readonly Token[] => {
      const trimmed = trimLine(line);
      return index === 0 ? trimmed : [{ kind: 'text', text: '\n', start: 0 }, ...trimmed];
    });
    return this.marked(tokens);
  }

  private marked(tokens: readonly Token[]): readonly Inline[] {
    return this.inlines(mergeTexts(tokens), (text) => [{ kind: 'text', text }], true);
  }

  /** Inserts among text; with marks, emphasis and links around both. */
  private inlines(tokens: readonly Token[], ofText: (text: string) => readonly Inline[], hasMarks = false): readonly Inline[] {
    const pieces: (Inline | string)[] = [];
    for (let index = 0; index < tokens.length; index++) {
      const token = tokens[index] as Token;
      if (token.kind === 'text') {
        pieces.push(token.text);
        continue;
      }
      const word = wordOf(token);
      if (word === null) pieces.push({ kind: 'value', expression: spanned(token, 0) });
      else if (word === '#plural') pieces.push(pluralOf(token));
      else if (word === '#when') {
        const end = this.endOf(tokens, index);
        if (end === null) {
          this.fault('template/unclosed', token);
          continue;
        }
        const [then, otherwise] = [
          tokens.slice(index + 1, end.middle ?? end.end),
          tokens.slice((end.middle ?? end.end) + 1, end.end),
        ];
        pieces.push({
          kind: 'when',
          condition: spanned(token, afterWord(token, word)),
          then: this.inlines(then, ofText, hasMarks),
          otherwise: end.middle === null ? [] : this.inlines(otherwise, ofText, hasMarks),
        });
        index = end.end;
      } else this.fault(word.startsWith('/') || word === '#else' ? 'template/not-open' : 'template/unknown', token);
    }
    if (hasMarks) return readMarks(pieces);
    return pieces.flatMap((piece) => (typeof piece === 'string' ? ofText(piece) : [piece]));
  }

  private endOf(tokens: readonly Token[], from: number): { readonly middle: number | null; readonly end: number } | null {
    let depth = 0;
    let middle: number | null = null;
    for (let index = from + 1; index < tokens.length; index++) {
      const token = tokens[index] as Token;
      const word = token.kind === 'insert' ? wordOf(token) : null;
      if (word === '#when') depth += 1;
      else if (word === '#else' && depth === 0 && middle === null) middle = index;
      else if (word === '/when' && depth === 0) return { middle, end: index };
      else if (word === '/when') depth -= 1;
    }
    return null;
  }
}

function endsPassage(within: Insert, word: string, isElse: boolean): boolean {
  if (wordOf(within) === '#each') return word === '/each';
  return word === '/when' || (word === '#else' && !isElse);
}

function pluralOf(token: Insert): Inline {
  const body = afterWord(token, '#plural');
  const colon = colonIn(token.text, body);
  const forms = colon < 0 ? [] : token.text.slice(colon + 1).split('|');
  const number = { ...token, text: token.text.slice(0, colon < 0 ? undefined : colon) };
  return { kind: 'plural', expression: spanned(number, body), forms: forms.map((form) => form.trim()) };
}

/** The first colon outside quotes and brackets. */
function colonIn(text: string, from: number): number {
  let depth = 0;
  let isQuoted = false;
  for (let at = from; at < text.length; at++) {
    const character = text[at] as string;
    if (character === '"' && text[at - 1] !== '\\') isQuoted = !isQuoted;
    else if (isQuoted) continue;
    else if ('([{'.includes(character)) depth++;
    else if (')]}'.includes(character)) depth--;
    else if (character === ':' && depth === 0) return at;
  }
  return -1;
}

function* linesOf(tokens: readonly Token[]): Generator<readonly Token[]> {
  let line: Token[] = [];
  for (const token of tokens) {
    if (token.kind === 'insert') {
      line.push(token);
      continue;
    }
    const parts = token.text.split('\n');
    for (const [index, part] of parts.entries()) {
      if (index > 0) {
        yield line;
        line = [];
      }
      if (part !== '') line.push({ kind: 'text', text: part, start: 0 });
    }
  }
  yield line;
}

const without = (line: readonly Token[], lead: string): readonly Token[] =>
  trimLine(line).map((token, index) =>
    index === 0 && token.kind === 'text' ? { ...token, text: token.text.slice(lead.length) } : token,
  );

function trimLine(line: readonly Token[]): readonly Token[] {
  return line.map((token, index) => {
    if (token.kind !== 'text') return token;
    const text = index === 0 ? token.text.trimStart() : token.text;
    return { ...token, text: index === line.length - 1 ? text.trimEnd() : text };
  });
}

function mergeTexts(tokens: readonly Token[]): readonly Token[] {
  const merged: Token[] = [];
  for (const token of tokens) {
    const last = merged.at(-1);
    if (token.kind === 'text' && last?.kind === 'text') merged[merged.length - 1] = { ...last, text: last.text + token.text };
    else merged.push(token);
  }
  return merged;
}

/** Stands for an insert while marks are looked for around it. */
const PLACE = '\uE000';
/** What a backslash stands before is taken as it is, within marks too. */
const ANY = String.raw`(?:\\[^\n]|[^\\])*?(?:\\[^\n]|[^\\\s])`;
const NO_STAR = String.raw`(?:\\[^\n]|[^*\\])*?(?:\\[^\n]|[^*\\\s])`;
const NO_BRACKET = String.raw`(?:\\[^\n]|[^[\]\\])*`;
const MARKS = new RegExp(
  String.raw`\\([\\*_[\]#{}>.!-])|\*\*(?=\S)(${ANY})\*\*|\*(?=\S)(${NO_STAR})\*|\[(${NO_BRACKET})\]\(([^()\s]*)\)`,
  'u',
);

/** Emphasis and links in text in which inserts stand. */
function readMarks(pieces: readonly (Inline | string)[]): readonly Inline[] {
  const inserts = pieces.filter((piece) => typeof piece !== 'string');
  const text = pieces.map((piece) => (typeof piece === 'string' ? piece.replaceAll(PLACE, '') : PLACE)).join('');
  return marksIn(text, inserts[Symbol.iterator]());
}

function marksIn(text: string, inserts: Iterator<Inline>): readonly Inline[] {
  const found: Inline[] = [];
  const put = (own: Inline): void => {
    const last = found.at(-1);
    if (own.kind === 'text' && last?.kind === 'text') found[found.length - 1] = { kind: 'text', text: last.text + own.text };
    else if (own.kind !== 'text' || own.text !== '') found.push(own);
  };
  const plain = (part: string): void => {
    for (const [index, one] of part.split(PLACE).entries()) {
      if (index > 0) put(inserts.next().value as Inline);
      put({ kind: 'text', text: one });
    }
  };
  let rest = text;
  for (let match = MARKS.exec(rest); match; match = MARKS.exec(rest)) {
    plain(rest.slice(0, match.index));
    const [whole, escaped, strong, emphasis, label, address] = match;
    if (escaped !== undefined) put({ kind: 'text', text: escaped });
    else if (strong !== undefined) put({ kind: 'strong', children: marksIn(strong, inserts) });
    else if (emphasis !== undefined) put({ kind: 'emphasis', children: marksIn(emphasis, inserts) });
    else {
      const children = marksIn(label ?? '', inserts);
      put({ kind: 'link', children, address: marksIn(address ?? '', inserts) });
    }
    rest = rest.slice(match.index + whole.length);
  }
  plain(rest);
  return found;
}

/** An expression within a template: what it is for, its text, where it begins, and the table whose rows it reads as `row`. */
export type TemplateExpression = Spanned & {
  readonly reads: 'value' | 'condition' | 'number' | 'rows';
  readonly table: string | null;
};

/** The table field that the rows of a passage come from: the first name in what says which. */
export const tableOfRows = (rows: string): string | null => /^[a-z][A-Za-z0-9_]*/.exec(rows.trim())?.[0] ?? null;

/** Every expression of a template, in order. */
export function expressionsIn({ blocks }: Pick<ParsedTemplate, 'blocks'>): readonly TemplateExpression[] {
  return blocks.flatMap((block) => ofBlock(block, null));
}

export const expressionsInLine = ({ children }: Pick<ParsedLine, 'children'>): readonly TemplateExpression[] =>
  children.flatMap((child) => ofInline(child, null));

function ofBlock(block: Block, table: string | null): readonly TemplateExpression[] {
  switch (block.kind) {
    case 'paragraph':
    case 'heading':
      return block.children.flatMap((child) => ofInline(child, table));
    case 'list':
      return block.items.flat().flatMap((child) => ofInline(child, table));
    case 'when':
      return [
        { ...block.condition, reads: 'condition', table },
        ...[...block.then, ...block.otherwise].flatMap((inner) => ofBlock(inner, table)),
      ];
    case 'each':
      return [
        { ...block.rows, reads: 'rows', table },
        ...block.body.flatMap((inner) => ofBlock(inner, tableOfRows(block.rows.text))),
      ];
    case 'fields':
      return [];
    default:
      return block satisfies never;
  }
}

function ofInline(inline: Inline, table: string | null): readonly TemplateExpression[] {
  switch (inline.kind) {
    case 'text':
      return [];
    case 'value':
      return [{ ...inline.expression, reads: 'value', table }];
    case 'plural':
      return [{ ...inline.expression, reads: 'number', table }];
    case 'strong':
    case 'emphasis':
      return inline.children.flatMap((child) => ofInline(child, table));
    case 'link':
      return [...inline.children, ...inline.address].flatMap((child) => ofInline(child, table));
    case 'when':
      return [
        { ...inline.condition, reads: 'condition', table },
        ...[...inline.then, ...inline.otherwise].flatMap((child) => ofInline(child, table)),
      ];
    default:
      return inline satisfies never;
  }
}
