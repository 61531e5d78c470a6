import { Button, VisuallyHidden } from '@mantine/core';
import type { PDFDocumentProxy } from 'pdfjs-dist';
import { useEffect, useRef, useState } from 'react';
import classes from './FilesInput.module.css';
import { drawPage, isLocked, openPdf, readPage } from './open-pdf.ts';

type Opened = { readonly document: PDFDocumentProxy } | { readonly why: string } | null;

/** The pages of a PDF, one at a time. */
export function PdfPages({ blob, name }: { readonly blob: Blob; readonly name: string }) {
  const [opened, setOpened] = useState<Opened>(null);
  const [number, setNumber] = useState(1);
  useEffect(() => {
    let isGone = false;
    const pdf = openPdf(blob);
    pdf.opened.then(
      (document) => isGone || setOpened({ document }),
      (error: unknown) =>
        isGone ||
        setOpened({
          why: isLocked(error)
            ? 'This PDF is locked with a password: save it to open it.'
            : 'This PDF can’t be read: save it to look at it.',
        }),
    );
    return () => {
      isGone = true;
      pdf.close();
    };
  }, [blob]);
  if (opened === null) return <p className={classes.soft}>Being opened …</p>;
  if ('why' in opened) return <p>{opened.why}</p>;
  const { document } = opened;
  const count = document.numPages;
  return (
    <div className={classes.pages}>
      {count > 1 && (
        <div className={classes.turning}>
          <Button size="xs" variant="default" disabled={number === 1} onClick={() => setNumber(number - 1)}>
            Previous page
          </Button>
          <span role="status">
            Page {number} of {count}
          </span>
          <Button size="xs" variant="default" disabled={number === count} onClick={() => setNumber(number + 1)}>
            Next page
          </Button>
        </div>
      )}
      <Page key={number} document={document} number={number} label={count > 1 ? `${name}, page ${number}` : name} />
    </div>
  );
}

type PageProps = { readonly document: PDFDocumentProxy; readonly number: number; readonly label: string };

function Page({ document, number, label }: PageProps) {
  const ref = useRef<HTMLCanvasElement>(null);
  const [text, setText] = useState('');
  const [isBroken, setBroken] = useState(false);
  useEffect(() => {
    let isGone = false;
    let cancel = (): void => {};
    const draw = async (): Promise<void> => {
      const page = await document.getPage(number);
      const canvas = ref.current;
      if (isGone || !canvas) return;
      const drawing = drawPage(page, canvas, canvas.clientWidth);
      cancel = drawing.cancel;
      await drawing.done;
      const read = await readPage(page);
      if (!isGone) setText(read);
    };
    draw().catch(() => isGone || setBroken(true));
    return () => {
      isGone = true;
      cancel();
    };
  }, [document, number]);
  if (isBroken) return <p>This page can’t be drawn: save the file to look at it.</p>;
  return (
    <>
      <canvas className={classes.page} ref={ref} role="img" aria-label={label} />
      <VisuallyHidden>{text}</VisuallyHidden>
    </>
  );
}
