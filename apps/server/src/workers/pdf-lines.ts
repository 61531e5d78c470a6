import bidiFactory from 'bidi-js';
import LineBreaker from 'linebreak';
import type PDFDocument from 'pdfkit';
import type { Face, FontChoice, FontFile } from './pdf-fonts.ts';

export type Doc = InstanceType<typeof PDFDocument>;

/** A text of one face. */
export type FacedText = { readonly text: string; readonly face: Face; readonly link?: string | undefined };

/** A part of a line in one font and direction, with its place from the line's left. */
type Piece = {
  readonly text: string;
  readonly font: FontFile;
  readonly link: string | undefined;
  readonly x: number;
  readonly width: number;
};

/** A line as it is drawn. `isFromRight`: it belongs to a paragraph of a script that is written from the right. */
export type Line = {
  readonly pieces: readonly Piece[];
  readonly width: number;
  readonly height: number;
  readonly isFromRight: boolean;
};

const bidi = bidiFactory();
const graphemes = new Intl.Segmenter('und', { granularity: 'grapheme' });
/** Letters that are never drawn: joiners, marks of direction, selectors of a form. */
const IGNORED = /\p{Default_Ignorable_Code_Point}|(?!\n)\p{Cc}/gu;
const IS_FROM_RIGHT = /[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}]/u;
const IS_OF_NO_SCRIPT = /[\p{Script=Common}\p{Script=Inherited}]/u;
/** With features given, a text is shaped whole; otherwise word by word, which loses the order of scripts from the right. */
const WHOLE: PDFKit.Mixins.OpenTypeFeatures[] = [];

/** The height of a line in sizes of its letters, at least. */
const LEAST_LEADING = 1.3;
/** Characters of a text whose width is kept. */
const LONGEST_WORD = 40;

/** A stretch of the text in one font, face and direction. */
type Stretch = {
  readonly from: number;
  readonly to: number;
  readonly font: FontFile;
  readonly link: string | undefined;
  readonly level: number;
};

/**
 * Lays a text out in lines of a width: fonts are chosen letter by letter, lines break where the script allows it (UAX #14),
 * and what is written from the right stands in its order (UAX #9).
 */
export class LineLayout {
  constructor(
    private readonly doc: Doc,
    private readonly fonts: FontChoice,
  ) {}

  lines(texts: readonly FacedText[], size: number, width: number): readonly Line[] {
    const shown = texts.map((one) => ({ ...one, text: one.text.normalize('NFC').replace(/\t/g, ' ').replace(IGNORED, '') }));
    const text = shown.map((one) => one.text).join('');
    if (text === '') return [];
    const fontAt: FontFile[] = [];
    const linkAt: (string | undefined)[] = [];
    for (const { text: part, face, link } of shown)
      for (const { segment } of graphemes.segment(part)) {
        const isBlank = segment.trim() === '';
        const font = this.fonts.fontFor(isBlank ? ' ' : segment, face);
        for (let index = 0; index < segment.length; index++) {
          fontAt.push(font);
          linkAt.push(link);
        }
      }
    const { levels, paragraphs } = bidi.getEmbeddingLevels(text, 'auto');
    const stretches = (from: number, to: number): readonly Stretch[] => {
      const found: Stretch[] = [];
      for (let index = from; index < to; index++) {
        const last = found.at(-1);
        const own = { font: fontAt[index] as FontFile, link: linkAt[index], level: levels[index] as number };
        if (last && last.font === own.font && last.link === own.link && last.level === own.level)
          found[found.length - 1] = { ...last, to: index + 1 };
        else found.push({ from: index, to: index + 1, ...own });
      }
      return found;
    };
    const measure = (from: number, to: number): number =>
      stretches(from, to).reduce((sum, one) => sum + this.widthOf(text.slice(one.from, one.to), one.font, size), 0);
    return breakLines(text, width, measure).map(([from, to]) => {
      const base = paragraphs.find(({ end }) => from <= end)?.level ?? 0;
      return this.draw(text, inVisualOrder(stretches(from, to)), size, base % 2 === 1);
    });
  }

  private draw(text: string, stretches: readonly Stretch[], size: number, isFromRight: boolean): Line {
    let x = 0;
    const pieces = stretches.map(({ from, to, font, link, level }): Piece => {
      const written = asShaped(text.slice(from, to), level);
      const width = this.widthOf(written, font, size);
      const piece = { text: written, font, link, x, width };
      x += width;
      return piece;
    });
    const heights = [...new Set(pieces.map(({ font }) => font))].map((font) =>
      this.use(font).fontSize(size).currentLineHeight(true),
    );
    return { pieces, width: x, height: Math.max(...heights, size * LEAST_LEADING), isFromRight };
  }

  /** Widths of words, which come again and again. */
  private readonly widths = new Map<string, number>();

  private widthOf(text: string, font: FontFile, size: number): number {
    const key = `${font.name} ${size} ${text}`;
    const known = this.widths.get(key);
    if (known !== undefined) return known;
    const width = this.use(font).fontSize(size).widthOfString(text, { features: WHOLE });
    if (text.length <= LONGEST_WORD) this.widths.set(key, width);
    return width;
  }

  /** Makes a font the document's current one. */
  use({ name, path }: FontFile): Doc {
    this.doc.registerFont(name, path);
    return this.doc.font(name);
  }

  /** Draws a line with its top at a place. */
  show(line: Line, left: number, top: number, width: number, size: number): void {
    const start = left + (line.isFromRight ? width - line.width : 0);
    const baseline = top + line.height * 0.76;
    for (const { text, font, link, x, width: length } of line.pieces) {
      const at = start + x;
      const options = { lineBreak: false, baseline: 'alphabetic', features: WHOLE };
      this.use(font)
        .fontSize(size)
        .text(text, at, baseline, options as never);
      if (link === undefined) continue;
      this.doc.link(at, top, length, line.height, link);
      this.doc
        .moveTo(at, baseline + size * 0.15)
        .lineTo(at + length, baseline + size * 0.15)
        .lineWidth(0.5)
        .stroke();
    }
  }
}

/**
 * The text of a stretch as it is given to the font: brackets from the right the other way round, and in an order that comes out
 * right. Shaping turns a text round whose first letter is of a script from the right, digits of that script too.
 */
function asShaped(text: string, level: number): string {
  const isFromRight = level % 2 === 1;
  const letters = isFromRight ? [...text].map((letter) => bidi.getMirroredCharacter(letter) ?? letter) : [...text];
  const first = letters.find((letter) => !IS_OF_NO_SCRIPT.test(letter));
  const isTurned = first !== undefined && IS_FROM_RIGHT.test(first);
  return (isTurned === isFromRight ? letters : letters.reverse()).join('');
}

/** Reverses stretches from the highest level down to the lowest odd one (UAX #9, rule L2). */
function inVisualOrder(stretches: readonly Stretch[]): readonly Stretch[] {
  const list = [...stretches];
  const highest = Math.max(0, ...list.map(({ level }) => level));
  for (let level = highest; level > 0; level--)
    for (let from = 0; from < list.length; from++) {
      let to = from;
      while (to < list.length && (list[to] as Stretch).level >= level) to += 1;
      if (to > from + 1) list.splice(from, to - from, ...list.slice(from, to).reverse());
      from = Math.max(from, to);
    }
  return list;
}

/** The parts of a text that fill lines of a width, without the blanks at their ends. A word that is wider is broken anywhere. */
function breakLines(
  text: string,
  width: number,
  measure: (from: number, to: number) => number,
): readonly (readonly [number, number])[] {
  const lines: (readonly [number, number])[] = [];
  const trimmed = (from: number, to: number): number => from + text.slice(from, to).trimEnd().length;
  let from = 0;
  /** Where the last word that fits ends, and the width up to there. */
  let fitting = 0;
  let filled = 0;
  const close = (to: number): void => {
    lines.push([from, trimmed(from, to)]);
    from = to;
    fitting = to;
    filled = 0;
  };
  const breaker = new LineBreaker(text);
  for (let next = breaker.nextBreak(); next !== null; next = breaker.nextBreak()) {
    const { position, required } = next;
    if (filled + measure(fitting, trimmed(fitting, position)) > width && fitting > from) close(fitting);
    // One word that is wider than a line.
    while (fitting === from && measure(from, trimmed(from, position)) > width) {
      const last = lastFitting(text, from, position, width, measure);
      if (last >= position) break;
      close(last);
    }
    filled += measure(fitting, position);
    fitting = position;
    if (required) close(position);
  }
  if (from < text.length) close(text.length);
  return lines;
}

/** The end of as many letters as fit a width, one at least. */
function lastFitting(
  text: string,
  from: number,
  to: number,
  width: number,
  measure: (from: number, to: number) => number,
): number {
  const ends = [...graphemes.segment(text.slice(from, to))].map(({ index, segment }) => from + index + segment.length);
  let [low, high] = [0, ends.length - 1];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if (measure(from, ends[middle] as number) <= width) low = middle;
    else high = middle - 1;
  }
  return ends[low] ?? to;
}
