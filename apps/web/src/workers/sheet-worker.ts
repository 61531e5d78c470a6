import readXlsxFile from 'read-excel-file/web-worker';

/** The sheets of a file, in their order. */
export type Sheets = readonly { readonly sheet: string; readonly data: readonly (readonly unknown[])[] }[];

/** Reads the sheets of a file it is given; null when that isn't possible. */
self.addEventListener('message', ({ data }: MessageEvent<File>) => {
  void readXlsxFile(data, { parseNumber: (text: string) => text } as never).then(
    (sheets) => self.postMessage({ sheets }),
    () => self.postMessage({ sheets: null }),
  );
});
