import type { RichText } from '@ypomet/core';
import { writePdf } from './write-pdf.ts';

export type PdfJob = { readonly title: string; readonly text: RichText; readonly locale: string; readonly made: string };

/** Makes a document; called by the pool, in a thread of its own. */
export default async function run({ title, text, locale, made }: PdfJob): Promise<Uint8Array> {
  const bytes = await writePdf(title, text, locale, new Date(made));
  return new Uint8Array(bytes);
}
