import { Modal } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense, useEffect, useState } from 'react';
import { Loaded } from '../../shared/Loaded.tsx';
import { useFocusBack } from '../../shared/use-focus-back.ts';
import classes from './FilesInput.module.css';
import type { FileJson } from './file-json.ts';
import { useFormWorld } from './form-world.tsx';
import type { Preview } from './preview.ts';
import { previewQuery } from './queries.ts';

const PdfPages = lazy(() => import('./PdfPages.tsx').then((module) => ({ default: module.PdfPages })));

/** A file of a record, looked into: a picture, a PDF or a text, without anything of it being run. */
export function FilePreview({ file, onClose }: { readonly file: FileJson; readonly onClose: () => void }) {
  const { filesOf } = useFormWorld();
  const query = useQuery(previewQuery(filesOf ?? '', file));
  useFocusBack();
  return (
    <Modal opened onClose={onClose} title={file.name} size="xl" closeOnClickOutside>
      <Loaded query={query} rows={6}>
        {(preview) => <Shown preview={preview} name={file.name} />}
      </Loaded>
    </Modal>
  );
}

function Shown({ preview, name }: { readonly preview: Preview; readonly name: string }) {
  switch (preview.kind) {
    case 'picture':
      return <Picture blob={preview.blob} name={name} />;
    case 'pages':
      return (
        <Suspense fallback={<p className={classes.soft}>Being opened …</p>}>
          <PdfPages blob={preview.blob} name={name} />
        </Suspense>
      );
    case 'text':
      return (
        <>
          <pre className={classes.text}>{preview.text}</pre>
          {preview.isCut && <p className={classes.soft}>This is its beginning: save it to read all of it.</p>}
        </>
      );
    case 'none':
      return <p>{preview.why}</p>;
    default:
      return preview satisfies never;
  }
}

function Picture({ blob, name }: { readonly blob: Blob; readonly name: string }) {
  const [address, setAddress] = useState<string | null>(null);
  const [isBroken, setBroken] = useState(false);
  useEffect(() => {
    const made = URL.createObjectURL(blob);
    setAddress(made);
    return () => URL.revokeObjectURL(made);
  }, [blob]);
  if (isBroken) return <p>This picture can’t be drawn: save it to look at it.</p>;
  return address === null ? null : <img className={classes.picture} src={address} alt={name} onError={() => setBroken(true)} />;
}
