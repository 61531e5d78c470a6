import readXlsxFile from 'read-excel-file/web-worker';

/** Reads the first sheet of a file it is given; null when that isn't possible. */
self.addEventListener('message', ({ data }: MessageEvent<File>) => {
  void readXlsxFile(data, { parseNumber: (text: string) => text } as never).then(
    (sheets) => self.postMessage({ rows: firstSheet(sheets) }),
    () => self.postMessage({ rows: null }),
  );
});

type Rows = readonly (readonly unknown[])[];

/** Sheets come with their names, or as the rows of the only one that was asked for. */
function firstSheet(found: unknown): Rows {
  const [first] = found as readonly (Rows[number] | { readonly data: Rows })[];
  return first && 'data' in first ? first.data : (found as Rows);
}
