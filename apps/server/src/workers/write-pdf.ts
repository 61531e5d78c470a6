import { createRequire } from 'node:module';
import type { RichBlock, RichText, Run } from '@ypomet/core';
import PDFDocument from 'pdfkit';

const require = createRequire(import.meta.url);
const FONTS = '@expo-google-fonts/atkinson-hyperlegible-next';
const fontOf = (name: string): string => require.resolve(`${FONTS}/${name}/AtkinsonHyperlegibleNext_${name}.ttf`);
const FACES = { plain: '400Regular', strong: '700Bold', emphasis: '400Regular_Italic', both: '700Bold_Italic' } as const;
type Face = keyof typeof FACES;

const INK = '#1c2b33';
const SOFT = '#5b666d';
const LINE = '#d9d5cb';
const SIZES = { 1: 20, 2: 15, 3: 12.5 } as const;
const BODY = 10.5;
const GAP = 8;

type Doc = InstanceType<typeof PDFDocument>;

const faceOf = ({ isStrong, isEmphasis }: Run): Face =>
  isStrong && isEmphasis ? 'both' : isStrong ? 'strong' : isEmphasis ? 'emphasis' : 'plain';

/**
 * A text as a tagged PDF (ISO 32000-1, 14.8) on A4, with fonts of its own. The same text gives the same bytes: `made` is the
 * day that stands in it.
 */
export function writePdf(title: string, text: RichText, locale: string, made: Date): Promise<Buffer> {
  const document = new PDFDocument({
    size: 'A4',
    margins: { top: 56, bottom: 64, left: 60, right: 60 },
    tagged: true,
    lang: locale,
    displayTitle: true,
    bufferPages: true,
    info: { Title: title, Producer: 'Ypomet', Creator: 'Ypomet', CreationDate: made, ModDate: made },
  });
  for (const [face, name] of Object.entries(FACES)) document.registerFont(face, fontOf(name));
  const chunks: Buffer[] = [];
  const done = new Promise<Buffer>((resolve, reject) => {
    document.on('data', (chunk: Buffer) => chunks.push(chunk));
    document.on('end', () => resolve(Buffer.concat(chunks)));
    document.on('error', reject);
  });
  const root = document.struct('Document');
  document.addStructure(root);
  document.fillColor(INK);
  for (const block of text) writeBlock(document, root, block);
  root.end();
  numberPages(document, title);
  document.end();
  return done;
}

type Struct = ReturnType<Doc['struct']>;

function writeBlock(doc: Doc, root: Struct, block: RichBlock): void {
  switch (block.kind) {
    case 'heading':
      if (doc.y > doc.page.margins.top) doc.moveDown(0.4);
      element(doc, root, `H${block.level}`, () =>
        writeRuns(
          doc,
          block.runs.map((run) => ({ ...run, isStrong: true })),
          SIZES[block.level],
        ),
      );
      doc.y += GAP / 2;
      return;
    case 'paragraph':
      element(doc, root, 'P', () => writeRuns(doc, block.runs, BODY));
      doc.y += GAP;
      return;
    case 'list': {
      const list = doc.struct('L');
      root.add(list);
      block.items.forEach((item, index) => {
        element(doc, list, 'LI', () => {
          const mark = block.isOrdered ? `${index + 1}. ` : '•  ';
          writeRuns(doc, [{ text: mark }, ...item], BODY, 14);
        });
        doc.y += 2;
      });
      list.end();
      doc.y += GAP - 2;
      return;
    }
    case 'fields':
      writeRows(
        doc,
        root,
        null,
        block.entries.map(({ name, text }) => [name, text]),
        [0.34, 0.66],
        true,
      );
      return;
    case 'table':
      writeRows(
        doc,
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

function writeRuns(doc: Doc, runs: readonly Run[], size: number, indent = 0): void {
  const left = doc.page.margins.left + indent;
  const width = doc.page.width - left - doc.page.margins.right;
  const shown = runs.filter(({ text }) => text !== '');
  if (shown.length === 0) return;
  shown.forEach((run, index) => {
    doc.font(faceOf(run)).fontSize(size).fillColor(INK);
    const options = { width, continued: index < shown.length - 1, link: run.link ?? null, underline: run.link !== undefined };
    if (index === 0) doc.text(run.text, left, doc.y, options as never);
    else doc.text(run.text, options as never);
  });
  doc.x = doc.page.margins.left;
}

function writeRows(
  doc: Doc,
  root: Struct,
  head: readonly string[] | null,
  rows: readonly (readonly string[])[],
  shares: readonly number[],
  isLabelled: boolean,
): void {
  const table = doc.struct('Table');
  root.add(table);
  const full = doc.page.width - doc.page.margins.left - doc.page.margins.right;
  const widths = shares.map((share) => share * full);
  const drawRow = (cells: readonly string[], isHead: boolean): void => {
    const faces = cells.map((_, index): Face => (isHead || (isLabelled && index === 0) ? 'strong' : 'plain'));
    doc.fontSize(BODY - 0.5);
    const heights = cells.map((cell, index) =>
      doc.font(faces[index] as Face).heightOfString(cell === '' ? ' ' : cell, { width: (widths[index] as number) - 10 }),
    );
    const height = Math.min(Math.max(...heights) + 7, 600);
    if (doc.y + height > doc.page.height - doc.page.margins.bottom) doc.addPage();
    const top = doc.y;
    const row = doc.struct('TR');
    table.add(row);
    let left = doc.page.margins.left;
    cells.forEach((cell, index) => {
      const width = widths[index] as number;
      const at = left;
      element(doc, row, isHead || (isLabelled && index === 0) ? 'TH' : 'TD', () => {
        doc
          .font(faces[index] as Face)
          .fillColor(isHead ? SOFT : INK)
          .text(cell === '' ? ' ' : cell, at, top + 3, { width: width - 10, height: height - 4, ellipsis: true });
      });
      left += width;
    });
    row.end();
    doc.markContent('Artifact');
    doc
      .moveTo(doc.page.margins.left, top + height)
      .lineTo(doc.page.margins.left + full, top + height)
      .lineWidth(0.5)
      .stroke(LINE);
    doc.endMarkedContent();
    doc.x = doc.page.margins.left;
    doc.y = top + height;
  };
  if (head) drawRow(head, true);
  for (const row of rows) drawRow(row, false);
  table.end();
  doc.y += GAP;
}

function numberPages(doc: Doc, title: string): void {
  const { start, count } = doc.bufferedPageRange();
  for (let index = 0; index < count; index++) {
    doc.switchToPage(start + index);
    const { bottom } = doc.page.margins;
    // What stands in the margin would begin a page of its own.
    doc.page.margins.bottom = 0;
    doc.markContent('Artifact');
    doc
      .font('plain')
      .fontSize(8.5)
      .fillColor(SOFT)
      .text(`${title.slice(0, 80)} · ${index + 1}/${count}`, doc.page.margins.left, doc.page.height - 40, { lineBreak: false });
    doc.endMarkedContent();
    doc.page.margins.bottom = bottom;
  }
}
