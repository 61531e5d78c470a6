import { type Diagnostic, type DiagnosticCode, type DiagnosticParams, diagnostic, type Span } from '../shared/diagnostic.ts';
import type { Term } from '../shared/terms.ts';
import { isWellFormed } from '../shared/well-formed.ts';
import { LIMITS } from './tree.ts';

/** Thrown inside the parser only; {@link parseExpression} turns it into a diagnostic. */
export class ParseFailure extends Error {
  constructor(readonly diagnostic: Diagnostic) {
    super(diagnostic.code);
  }
}

export type Token = {
  readonly kind: 'name' | 'number' | 'text' | 'symbol' | 'end';
  readonly text: string;
  /** The decoded content of a text literal, else the text itself. */
  readonly content: string;
  readonly start: number;
  readonly end: number;
};

const SYMBOLS = [
  '**',
  '!=',
  '<=',
  '>=',
  '..',
  '->',
  '<',
  '>',
  '=',
  '+',
  '-',
  '*',
  '/',
  '(',
  ')',
  '[',
  ']',
  '{',
  '}',
  ',',
  ':',
  '@',
  '.',
  '?',
];
/** Signs of other languages, the longest first. */
const OTHER_LANGUAGES: readonly { readonly found: string; readonly instead: string }[] = [
  { found: '===', instead: '=' },
  { found: '!==', instead: '!=' },
  { found: '==', instead: '=' },
  { found: '<>', instead: '!=' },
  { found: '=>', instead: '>=' },
  { found: '=<', instead: '<=' },
  { found: '≠', instead: '!=' },
  { found: '≤', instead: '<=' },
  { found: '≥', instead: '>=' },
  { found: '&&', instead: 'and' },
  { found: '||', instead: 'or' },
  { found: '“', instead: '"' },
  { found: '”', instead: '"' },
  { found: '„', instead: '"' },
  { found: '‘', instead: '"' },
  { found: '’', instead: '"' },
  { found: '«', instead: '"' },
  { found: '»', instead: '"' },
  { found: "'", instead: '"' },
];

const FOREIGN_CODES = new Set(OTHER_LANGUAGES.map(({ found }) => found.charCodeAt(0)).filter((code) => code > 127));

const isDigit = (code: number): boolean => code >= 48 && code <= 57;
const isNameStart = (code: number): boolean =>
  (code >= 97 && code <= 122) || (code >= 65 && code <= 90) || code === 95 || (code > 127 && !FOREIGN_CODES.has(code));
const isNamePart = (code: number): boolean => isNameStart(code) || isDigit(code);
const isSpace = (code: number): boolean =>
  code === 32 || (code >= 9 && code <= 13) || code === 0xa0 || code === 0xfeff || code === 0x2028 || code === 0x2029;

/** The tokens of an expression, read as they are asked for, with one token of look-ahead. */
export class Cursor {
  token: Token;
  previousEnd = 0;
  /** Ranges whose upper end is being read: there `[` may be their end. */
  openRanges = 0;
  /** How often the value tested, `?`, was read; and the tests that are being read, within which it means something. */
  testedReads = 0;
  openTests = 0;
  private depth = 0;
  private nodes = 0;

  constructor(readonly text: string) {
    this.token = { kind: 'end', text: '', content: '', start: 0, end: 0 };
    if (text.length > LIMITS.textLength) {
      throw this.failure('expression/too-long', { limit: LIMITS.textLength }, { start: 0, end: 0 });
    }
    this.token = this.read(0);
  }

  failure(code: DiagnosticCode, params: DiagnosticParams, span: Span = this.token): ParseFailure {
    return new ParseFailure(diagnostic(code, '', params, { start: span.start, end: span.end }));
  }

  unexpected(expected: string | Term): ParseFailure {
    if (this.token.kind === 'end') return this.failure('expression/ends-early', { expected });
    return this.failure('expression/unexpected', { found: this.token.text, expected });
  }

  advance(): Token {
    const token = this.token;
    this.previousEnd = token.end;
    this.token = this.read(token.end);
    return token;
  }

  /** The token after the current one, without moving. */
  peek(): Token {
    return this.read(this.token.end);
  }

  at(text: string): boolean {
    return this.token.text === text && (this.token.kind === 'symbol' || this.token.kind === 'name');
  }

  accept(text: string): boolean {
    if (!this.at(text)) return false;
    this.advance();
    return true;
  }

  expect(text: string): Token {
    if (!this.at(text)) throw this.unexpected(`'${text}'`);
    return this.advance();
  }

  /** Counts nesting and nodes; refuses beyond the limits. */
  enter(): void {
    this.depth += 1;
    this.nodes += 1;
    if (this.depth > LIMITS.depth) throw this.failure('expression/too-deep', { limit: LIMITS.depth });
    if (this.nodes > LIMITS.nodes) throw this.failure('expression/too-large', { limit: LIMITS.nodes });
  }

  leave(): void {
    this.depth -= 1;
  }

  private skipSpace(from: number): number {
    let at = from;
    for (;;) {
      if (isSpace(this.text.charCodeAt(at))) at += 1;
      else if (this.text.startsWith('//', at)) {
        const end = this.text.indexOf('\n', at);
        at = end < 0 ? this.text.length : end + 1;
      } else if (this.text.startsWith('/*', at)) {
        const end = this.text.indexOf('*/', at + 2);
        if (end < 0) throw this.failure('expression/open-comment', {}, { start: at, end: this.text.length });
        at = end + 2;
      } else return at;
    }
  }

  private read(from: number): Token {
    const start = this.skipSpace(from);
    if (start >= this.text.length) return { kind: 'end', text: '', content: '', start: this.text.length, end: this.text.length };
    const code = this.text.charCodeAt(start);
    if (isNameStart(code)) return this.readWhile('name', start, isNamePart);
    if (isDigit(code) || (code === 46 && isDigit(this.text.charCodeAt(start + 1)))) return this.readNumber(start);
    if (code === 34) return this.readText(start);
    this.refuseOtherLanguages(start);
    const symbol = SYMBOLS.find((candidate) => this.text.startsWith(candidate, start));
    if (symbol) return { kind: 'symbol', text: symbol, content: symbol, start, end: start + symbol.length };
    const found = String.fromCodePoint(this.text.codePointAt(start) as number);
    throw this.failure('expression/unknown-character', { found }, { start, end: start + found.length });
  }

  /** What other languages write is named with what stands for it here. */
  private refuseOtherLanguages(start: number): void {
    const foreign = OTHER_LANGUAGES.find(({ found }) => this.text.startsWith(found, start));
    if (!foreign) return;
    const { found, instead } = foreign;
    throw this.failure('expression/other-language', { found, instead }, { start, end: start + found.length });
  }

  private readWhile(kind: 'name', start: number, part: (code: number) => boolean): Token {
    let end = start + 1;
    while (end < this.text.length && part(this.text.charCodeAt(end))) end += 1;
    const text = this.text.slice(start, end);
    return { kind, text, content: text, start, end };
  }

  private readNumber(start: number): Token {
    let end = start;
    while (isDigit(this.text.charCodeAt(end))) end += 1;
    if (this.text[end] === '.' && isDigit(this.text.charCodeAt(end + 1))) {
      end += 1;
      while (isDigit(this.text.charCodeAt(end))) end += 1;
    }
    const exponent = /^[eE][+-]?\d+/.exec(this.text.slice(end, end + 12));
    if (exponent) end += exponent[0].length;
    const text = this.text.slice(start, end);
    if (isNameStart(this.text.charCodeAt(end))) {
      throw this.failure('expression/bad-number', { found: this.text.slice(start, end + 1) }, { start, end: end + 1 });
    }
    return { kind: 'number', text, content: text, start, end };
  }

  private readText(start: number): Token {
    let content = '';
    let at = start + 1;
    while (at < this.text.length) {
      const character = this.text[at] as string;
      if (character === '"') {
        // Halves of a character in two escapes make one; a half alone, or U+0000, can be stored nowhere.
        if (!isWellFormed(content)) {
          throw this.failure('expression/bad-escape', { found: this.text.slice(start, at + 1) }, { start, end: at + 1 });
        }
        return { kind: 'text', text: this.text.slice(start, at + 1), content, start, end: at + 1 };
      }
      if (character === '\\') {
        const [decoded, next] = this.readEscape(at);
        content += decoded;
        at = next;
      } else {
        content += character;
        at += 1;
      }
    }
    throw this.failure('expression/open-text', {}, { start, end: this.text.length });
  }

  private readEscape(at: number): [string, number] {
    const simple: Record<string, string> = { n: '\n', t: '\t', r: '\r', '"': '"', '\\': '\\', "'": "'" };
    const letter = this.text[at + 1] ?? '';
    const decoded = Object.hasOwn(simple, letter) ? simple[letter] : undefined;
    if (decoded !== undefined) return [decoded, at + 2];
    const unicode = /^\\(?:u([0-9A-Fa-f]{4})|U([0-9A-Fa-f]{6}))/.exec(this.text.slice(at, at + 8));
    const codePoint = unicode ? Number.parseInt((unicode[1] ?? unicode[2]) as string, 16) : -1;
    if (!unicode || codePoint > 0x10ffff) {
      throw this.failure('expression/bad-escape', { found: this.text.slice(at, at + 2) }, { start: at, end: at + 2 });
    }
    return [String.fromCodePoint(codePoint), at + unicode[0].length];
  }
}
