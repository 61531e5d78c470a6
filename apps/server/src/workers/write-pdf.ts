import type { RichBlock, RichText, Run } from '@ypomet/core';
import PDFDocument from 'pdfkit';
import { type Face, FontChoice, MissingLetters } from './pdf-fonts.ts';
import { type Doc, type FacedText, type Line, LineLayout } from './pdf-lines.ts';

const INK = '#1c2b33';
const SOFT = '#5b666d';
const LINE = '#d9d5cb';
const SIZES = { 1: 20, 2: 15, 3: 12.5 } as const;
const BODY = 10.5;
const GAP = 8;

const faceOf = ({ isStrong, isEmphasis }: Run): Face =>
  isStrong && isEmphasis ? 'both' : isStrong ? 'strong' : isEmphasis ? 'emphasis' : 'plain';

/**
 * A text as a tagged PDF (ISO 32000-1, 14.8) on A4, with fonts of its own for the letters of many scripts, of which only those
 * that are used go into the file. The same text gives the same bytes: `made` is the day that stands in it. Rejects with
 * {@link MissingLetters} where it holds letters that no font has.
 */
export async function writePdf(title: string, text: RichText, locale: string, made: Date): Promise<Buffer> {
  const document = new PDFDocument({
    size: 'A4',
    margins: { top: 56, bottom: 64, left: 60, right: 60 },
    tagged: true,
    lang: locale,
    displayTitle: true,
    bufferPages: true,
    info: { Title: title, Producer: 'Ypomet', Creator: 'Ypomet', CreationDate: made, ModDate: made },
  });
  const chunks: Buffer[] = [];
  const done = new Promise<Buffer>((resolve, reject) => {
    document.on('data', (chunk: Buffer) => chunks.push(chunk));
    document.on('end', () => resolve(Buffer.concat(chunks)));
    document.on('error', reject);
  });
  const fonts = new FontChoice(locale);
  const page = { doc: document, layout: new LineLayout(document, fonts) };
  const root = document.struct('Document');
  document.addStructure(root);
  document.fillColor(INK);
  for (const block of text) writeBlock(page, root, block);
  root.end();
  numberPages(page, title);
  document.end();
  const bytes = await done;
  if (fonts.missing.size > 0) throw new MissingLetters([...fonts.missing]);
  return bytes;
}

/** The document that is written, and how its lines are laid out. */
type Page = { readonly doc: Doc; readonly layout: LineLayout };
type Struct = ReturnType<Doc['struct']>;

function writeBlock(page: Page, root: Struct, block: RichBlock): void {
  const { doc } = page;
  switch (block.kind) {
    case 'heading':
      if (doc.y > doc.page.margins.top) doc.moveDown(0.4);
      element(doc, root, `H${block.level}`, () =>
        writeRuns(
          page,
          block.runs.map((run) => ({ ...run, isStrong: true })),
          SIZES[block.level],
        ),
      );
      doc.y += GAP / 2;
      return;
    case 'paragraph':
      element(doc, root, 'P', () => writeRuns(page, block.runs, BODY));
      doc.y += GAP;
      return;
    case 'list': {
      const list = doc.struct('L');
      root.add(list);
      block.items.forEach((item, index) => {
        element(doc, list, 'LI', () => {
          const mark = block.isOrdered ? `${index + 1}. ` : '•  ';
          writeRuns(page, [{ text: mark }, ...item], BODY, 14);
        });
        doc.y += 2;
      });
      list.end();
      doc.y += GAP - 2;
      return;
    }
    case 'fields':
      writeRows(
        page,
        root,
        null,
        block.entries.map(({ name, text }) => [name, text]),
        [0.34, 0.66],
        true,
      );
      return;
    case 'table':
      writeRows(
        page,
        root,
        block.head,
        block.rows,
        block.head.map(() => 1 / Math.max(1, block.head.length)),
        false,
      );
      return;
    default:
      block satisfies never;
  }
}

/** What is drawn in an element of the tag tree. */
function element(doc: Doc, parent: Struct, tag: string, draw: () => void): void {
  const own = doc.struct(tag, {}, draw);
  parent.add(own);
}

const bottomOf = ({ page }: Doc): number => page.height - page.margins.bottom;
const widthOf = ({ page }: Doc): number => page.width - page.margins.left - page.margins.right;

function writeRuns({ doc, layout }: Page, runs: readonly Run[], size: number, indent = 0): void {
  const left = doc.page.margins.left + indent;
  const width = widthOf(doc) - indent;
  const texts = runs.map((run): FacedText => ({ text: run.text, face: faceOf(run), link: run.link }));
  doc.fillColor(INK);
  for (const line of layout.lines(texts, size, width)) {
    if (doc.y + line.height > bottomOf(doc)) doc.addPage();
    const top = doc.y;
    layout.show(line, left, top, width, size);
    doc.y = top + line.height;
  }
  doc.x = doc.page.margins.left;
}

/** A cell of a row: its lines, which may go on on the next page, and its element in the tag tree. */
type Cell = { readonly lines: readonly Line[]; readonly left: number; readonly width: number; readonly struct: Struct };
const CELL_SIZE = BODY - 0.5;
const PADDING = 3;

const heightOf = (lines: readonly Line[]): number => lines.reduce((sum, { height }) => sum + height, 0);

/** As many of a cell's lines, from one on, as fit a height. */
function fitting(lines: readonly Line[], from: number, height: number): readonly Line[] {
  let left = height;
  const end = lines.findIndex((line, index) => {
    if (index < from) return false;
    left -= line.height;
    return left < 0;
  });
  return lines.slice(from, end === -1 ? undefined : end);
}

/**
 * Rows with their cells beside each other. A row that doesn't fit goes to the next page, one that is longer than a page goes on
 * there; the heads of the columns are repeated on every page.
 */
function writeRows(
  page: Page,
  root: Struct,
  head: readonly string[] | null,
  rows: readonly (readonly string[])[],
  shares: readonly number[],
  isLabelled: boolean,
): void {
  const { doc, layout } = page;
  const table = doc.struct('Table');
  root.add(table);
  const widths = shares.map((share) => share * widthOf(doc));
  const linesOf = (cells: readonly string[], isHead: boolean): readonly (readonly Line[])[] =>
    cells.map((text, index) => {
      const face = isHead || (isLabelled && index === 0) ? 'strong' : 'plain';
      return layout.lines([{ text, face }], CELL_SIZE, (widths[index] as number) - 10);
    });
  const rule = (): void => {
    doc.markContent('Artifact');
    const { left } = doc.page.margins;
    doc
      .moveTo(left, doc.y)
      .lineTo(left + widthOf(doc), doc.y)
      .lineWidth(0.5)
      .stroke(LINE);
    doc.endMarkedContent();
  };
  const show = (cell: Pick<Cell, 'left' | 'width'>, lines: readonly Line[], top: number, isHead: boolean): void => {
    doc.fillColor(isHead ? SOFT : INK);
    let at = top + PADDING;
    for (const line of lines) {
      layout.show(line, cell.left, at, cell.width, CELL_SIZE);
      at += line.height;
    }
  };
  const placesOf = (cells: readonly string[]) => {
    let left = doc.page.margins.left;
    return cells.map((_, index) => {
      const place = { left, width: (widths[index] as number) - 10 };
      left += widths[index] as number;
      return place;
    });
  };
  const turn = (): void => {
    doc.addPage();
    if (!head) return;
    // What is repeated is no part of the text (PDF/UA, ISO 14289-1, 7.8: page artifacts).
    const lines = linesOf(head, true);
    const top = doc.y;
    doc.markContent('Artifact');
    placesOf(head).forEach((place, index) => {
      show(place, lines[index] ?? [], top, true);
    });
    doc.endMarkedContent();
    doc.y = top + Math.max(...lines.map(heightOf)) + 2 * PADDING;
    rule();
  };
  const drawRow = (texts: readonly string[], isHead: boolean): void => {
    const row = doc.struct('TR');
    table.add(row);
    const lines = linesOf(texts, isHead);
    const cells = placesOf(texts).map((place, index): Cell => {
      const struct = doc.struct(isHead || (isLabelled && index === 0) ? 'TH' : 'TD');
      row.add(struct);
      return { ...place, lines: lines[index] ?? [], struct };
    });
    const whole = Math.max(CELL_SIZE, ...lines.map(heightOf)) + 2 * PADDING;
    const full = bottomOf(doc) - doc.page.margins.top - 60;
    if (doc.y + whole > bottomOf(doc) && (whole <= full || doc.y + 60 > bottomOf(doc))) turn();
    const from = cells.map(() => 0);
    for (let isLeft = true; isLeft; ) {
      const top = doc.y;
      const room = bottomOf(doc) - top - 2 * PADDING;
      const parts = cells.map(({ lines: own }, index) => fitting(own, from[index] as number, room));
      cells.forEach((cell, index) => {
        const part = parts[index] ?? [];
        cell.struct.add(() => show(cell, part, top, isHead));
        from[index] = (from[index] as number) + part.length;
      });
      doc.y = top + Math.max(CELL_SIZE, ...parts.map(heightOf)) + 2 * PADDING;
      isLeft = cells.some(({ lines: own }, index) => (from[index] as number) < own.length);
      if (isLeft) turn();
    }
    for (const { struct } of cells) struct.end();
    row.end();
    rule();
    doc.x = doc.page.margins.left;
  };
  if (head) drawRow(head, true);
  for (const row of rows) drawRow(row, false);
  table.end();
  doc.y += GAP;
}

function numberPages({ doc, layout }: Page, title: string): void {
  const { start, count } = doc.bufferedPageRange();
  const name = title.length > 80 ? `${[...title].slice(0, 80).join('')}…` : title;
  for (let index = 0; index < count; index++) {
    doc.switchToPage(start + index);
    const { bottom } = doc.page.margins;
    // What stands in the margin would begin a page of its own.
    doc.page.margins.bottom = 0;
    doc.markContent('Artifact');
    doc.fillColor(SOFT);
    const [line] = layout.lines([{ text: `${name} · ${index + 1}/${count}`, face: 'plain' }], 8.5, widthOf(doc));
    if (line) layout.show(line, doc.page.margins.left, doc.page.height - 42, widthOf(doc), 8.5);
    doc.endMarkedContent();
    doc.page.margins.bottom = bottom;
  }
}
