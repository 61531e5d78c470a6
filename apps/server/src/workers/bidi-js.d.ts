/** The parts that are used of the Unicode bidirectional algorithm (UAX #9), which has no types of its own. */
declare module 'bidi-js' {
  export type EmbeddingLevels = {
    readonly levels: Uint8Array;
    readonly paragraphs: readonly { readonly start: number; readonly end: number; readonly level: number }[];
  };
  export type Bidi = {
    readonly getEmbeddingLevels: (text: string, baseDirection?: 'ltr' | 'rtl' | 'auto') => EmbeddingLevels;
    readonly getMirroredCharacter: (character: string) => string | null;
  };
  export default function bidiFactory(): Bidi;
}
declare module 'linebreak' {
  /** Places where a line may break, or has to (UAX #14). */
  export default class LineBreaker {
    constructor(text: string);
    nextBreak(): { readonly position: number; readonly required?: boolean } | null;
  }
}
