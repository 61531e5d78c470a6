import readXlsxFile from 'read-excel-file/web-worker';

/** The sheets of a file, in their order. */
export type Sheets = readonly { readonly sheet: string; readonly data: readonly (readonly unknown[])[] }[];

/** A cell that holds a number, digit for digit as the file has it. */
export type NumberCell = { readonly number: string };

/** Reads the sheets of a file it is given; null when that isn't possible. */
self.addEventListener('message', ({ data }: MessageEvent<File>) => {
  void readXlsxFile(data, { parseNumber: (number: string): NumberCell => ({ number }) } as never).then(
    (sheets) => self.postMessage({ sheets }),
    () => self.postMessage({ sheets: null }),
  );
});
