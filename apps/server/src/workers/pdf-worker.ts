import type { RichText } from '@ypomet/core';
import { MissingLetters } from './pdf-fonts.ts';
import { writePdf } from './write-pdf.ts';

export type PdfJob = { readonly title: string; readonly text: RichText; readonly locale: string; readonly made: string };
/** A document, or the letters for which there is no font. */
export type PdfResult = { readonly bytes: Uint8Array } | { readonly missing: readonly string[] };

/** Makes a document; called by the pool, in a thread of its own. */
export default async function run({ title, text, locale, made }: PdfJob): Promise<PdfResult> {
  try {
    return { bytes: new Uint8Array(await writePdf(title, text, locale, new Date(made))) };
  } catch (error) {
    // Errors lose what they hold on their way between threads.
    if (error instanceof MissingLetters) return { missing: error.letters };
    throw error;
  }
}
