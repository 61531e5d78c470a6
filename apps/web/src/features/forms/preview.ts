/** What can be shown of a file: a picture, the pages of a PDF, the beginning of a text, or why nothing is. */
export type Preview =
  | { readonly kind: 'picture'; readonly blob: Blob }
  | { readonly kind: 'pages'; readonly blob: Blob }
  | { readonly kind: 'text'; readonly text: string; readonly isCut: boolean }
  | { readonly kind: 'none'; readonly why: string };

/** Formats that every browser draws, without anything in them being run. */
const PICTURES = /^image\/(png|jpeg|gif|webp)$/;
const PAGES = 'application/pdf';
const TEXTS = /^text\/(plain|csv|tab-separated-values|markdown)$/;
/** A picture is unpacked whole to be drawn: 4 bytes for each of its points. */
const MAX_POINTS = 40_000_000;
const HEAD_BYTES = 300_000;
const TEXT_BYTES = 20_000;

export const canBeShown = ({ mediaType }: { readonly mediaType: string }): boolean =>
  PICTURES.test(mediaType) || TEXTS.test(mediaType) || mediaType === PAGES;

/** Looks into a file. How large a picture is stands at its beginning: one that is too large is never unpacked. */
export async function lookInto(contents: Blob, mediaType: string): Promise<Preview> {
  if (TEXTS.test(mediaType)) {
    const text = await contents.slice(0, TEXT_BYTES).text();
    return { kind: 'text', text, isCut: contents.size > TEXT_BYTES };
  }
  if (mediaType === PAGES) return { kind: 'pages', blob: contents };
  if (!PICTURES.test(mediaType)) return { kind: 'none', why: 'Files of this kind aren’t shown here: save it to look at it.' };
  const { imageSize } = await import('image-size');
  const head = new Uint8Array(await contents.slice(0, HEAD_BYTES).arrayBuffer());
  let points: number;
  try {
    const { width, height } = imageSize(head);
    points = width * height;
  } catch {
    // A picture whose size can't be read could be of any.
    return { kind: 'none', why: 'How large this picture is can’t be read: save it to look at it.' };
  }
  if (points > MAX_POINTS)
    return {
      kind: 'none',
      why: `A picture of ${Math.round(points / 1_000_000)} million points isn’t shown here: save it to look at it.`,
    };
  return { kind: 'picture', blob: new Blob([contents], { type: mediaType }) };
}
