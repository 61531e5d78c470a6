import { describe, expect, test } from '@jest/globals';
import type { Field } from '@ypomet/core';
import { chooseFiles } from './choose-files.ts';
import { formatSize } from './file-size.ts';
import { canBeShown, lookInto } from './preview.ts';

type FileField = Extract<Field, { type: 'file' }>;
const field = {
  type: 'file',
  kinds: ['application/pdf', 'image/*'],
  maxCount: 5,
  maxBytes: 50_000_000,
  messages: {},
} as unknown as FileField;
const file = (name: string, size: number, type = 'application/pdf') => ({ name, size, type }) as File;

describe('choosing files', () => {
  test('of 200 at once as many are taken as fit, and the others are told', () => {
    const chosen = Array.from({ length: 200 }, (_, index) => file(`rooms ${index}.pdf`, 1000));
    const { files, refused } = chooseFiles(field, chosen, 2);
    expect(files.map(({ name }) => name)).toEqual(['rooms 0.pdf', 'rooms 1.pdf', 'rooms 2.pdf']);
    expect(refused).toEqual(['Only 3 more fit here: the other 197 were not taken.']);
    expect(chooseFiles(field, chosen, 5).refused).toEqual(['No more files fit here: the 200 were not taken.']);
  });

  test('what is too large, empty, or of another kind is refused by name, before anything is sent', () => {
    const { files, refused } = chooseFiles(
      field,
      [file('film.pdf', 2_000_000_000), file('nothing.pdf', 0), file('list.csv', 10, 'text/csv'), file('rooms.pdf', 10)],
      0,
    );
    expect(files).toHaveLength(1);
    expect(refused).toEqual([
      '“film.pdf” is larger than 50.0 MB.',
      '“nothing.pdf” is empty.',
      '“list.csv” is none of PDF, pictures.',
    ]);
  });

  test('the analyst’s own messages come first', () => {
    const own = { ...field, messages: { size: 'Send it in halves.', kinds: 'Send a PDF.' } } as FileField;
    expect(chooseFiles(own, [file('a.pdf', 60_000_000), file('a.csv', 1, 'text/csv')], 0).refused).toEqual([
      'Send it in halves.',
      'Send a PDF.',
    ]);
  });

  test.each([
    [0, '0 bytes'],
    [999, '999 bytes'],
    [1000, '1.0 kB'],
    [49_950_000, '50.0 MB'],
    [2_000_000_000, '2.0 GB'],
  ])('%d bytes are %s', (bytes, said) => expect(formatSize(bytes)).toBe(said));
});

// A PNG begins with its signature and IHDR, which holds its sides as four bytes each (RFC 2083, 3.1 and 4.1.1).
const png = (width: number, height: number): Blob => {
  const head = Buffer.alloc(33);
  Buffer.from('89504e470d0a1a0a0000000d49484452', 'hex').copy(head);
  head.writeUInt32BE(width, 16);
  head.writeUInt32BE(height, 20);
  return new Blob([head]);
};

describe('looking into files', () => {
  test('a picture is shown', async () => {
    expect(await lookInto(png(1200, 800), 'image/png')).toMatchObject({ kind: 'picture' });
  });

  test('one of 30,000 points a side is not even unpacked', async () => {
    expect(await lookInto(png(30_000, 30_000), 'image/png')).toEqual({
      kind: 'none',
      why: 'A picture of 900 million points isn’t shown here: save it to look at it.',
    });
  });

  test('one that says nothing of its size isn’t either', async () => {
    expect(await lookInto(new Blob(['no picture']), 'image/png')).toMatchObject({ kind: 'none' });
  });

  test('a PDF is shown by its pages', async () => {
    expect(await lookInto(new Blob(['%PDF-1.7']), 'application/pdf')).toMatchObject({ kind: 'pages' });
  });

  test('of a text its beginning is shown, as text', async () => {
    expect(await lookInto(new Blob(['<b>bold</b>']), 'text/plain')).toEqual({ kind: 'text', text: '<b>bold</b>', isCut: false });
    expect(await lookInto(new Blob(['x'.repeat(50_000)]), 'text/csv')).toMatchObject({ isCut: true });
  });

  test.each(['image/svg+xml', 'text/html', 'application/octet-stream', ''])(
    '%s is never shown: it could do something',
    async (mediaType) => {
      expect(canBeShown({ mediaType })).toBe(false);
      expect(await lookInto(new Blob(['<script>']), mediaType)).toMatchObject({ kind: 'none' });
    },
  );
});
