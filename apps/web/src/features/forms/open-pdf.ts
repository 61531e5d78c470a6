import { GlobalWorkerOptions, getDocument, type PDFDocumentProxy, type PDFPageProxy } from 'pdfjs-dist';
import workerUrl from 'pdfjs-dist/build/pdf.worker.min.mjs?url';

GlobalWorkerOptions.workerSrc = workerUrl;

/** Pictures within a page of more points than this are left out: they are unpacked whole. */
const MAX_PICTURE_POINTS = 40_000_000;
/** A page is drawn with so many points at most, whatever its size. */
const MAX_DRAWN_POINTS = 8_000_000;
/** Characters of a page that are read to those who don't see it. */
const MAX_READ = 20_000;

/**
 * Opens a PDF in a worker of its own; nothing in it is run, and it loads nothing from elsewhere. Rejects where it is none, is
 * damaged, or asks for a password. `close` lets go of the worker, also while the PDF is being opened.
 */
export function openPdf(contents: Blob): { readonly opened: Promise<PDFDocumentProxy>; readonly close: () => void } {
  let isClosed = false;
  let end: (() => void) | null = null;
  const opened = contents.arrayBuffer().then((data) => {
    if (isClosed) throw new Error('closed before it was opened');
    const task = getDocument({
      data,
      enableXfa: false,
      useWasm: false,
      stopAtErrors: false,
      maxImageSize: MAX_PICTURE_POINTS,
    });
    end = () => void task.destroy();
    return task.promise;
  });
  return {
    opened,
    close: () => {
      isClosed = true;
      end?.();
    },
  };
}

/** Whether a PDF wasn't opened because it is locked. */
export const isLocked = (error: unknown): boolean => error instanceof Error && error.name === 'PasswordException';

/** Draws a page as wide as the canvas is shown; what ends the drawing is returned. */
export function drawPage(
  page: PDFPageProxy,
  canvas: HTMLCanvasElement,
  width: number,
): { done: Promise<void>; cancel: () => void } {
  const { width: own, height } = page.getViewport({ scale: 1 });
  const fitting = (width * window.devicePixelRatio) / own;
  const scale = Math.min(fitting, Math.sqrt(MAX_DRAWN_POINTS / (own * height)));
  const viewport = page.getViewport({ scale });
  canvas.width = Math.max(1, Math.floor(viewport.width));
  canvas.height = Math.max(1, Math.floor(viewport.height));
  const task = page.render({ canvas, viewport });
  return { done: task.promise, cancel: () => task.cancel() };
}

/** The text of a page, for those who don't see it. */
export async function readPage(page: PDFPageProxy): Promise<string> {
  const { items } = await page.getTextContent();
  const text = items.map((item) => ('str' in item ? `${item.str}${item.hasEOL ? '\n' : ''}` : '')).join('');
  return text.slice(0, MAX_READ);
}
