import { describe, expect, test } from '@jest/globals';
import { unpackedSize } from './unpacked-size.ts';

type Entry = { readonly name: string; readonly packed: Uint8Array; readonly size: number };

/** A ZIP file, as far as its list of entries goes; the entries themselves aren't unpacked. */
function zipOf(entries: readonly Entry[], comment = ''): Blob {
  const list = entries.map(({ name, packed, size }) => {
    const header = new DataView(new ArrayBuffer(46));
    header.setUint32(0, 0x02014b50, true);
    header.setUint32(20, packed.length, true);
    header.setUint32(24, size, true);
    header.setUint16(28, name.length, true);
    return Buffer.concat([Buffer.from(header.buffer), Buffer.from(name)]);
  });
  const body = Buffer.concat(entries.map(({ packed }) => packed));
  const bytes = Buffer.concat(list);
  const end = new DataView(new ArrayBuffer(22));
  end.setUint32(0, 0x06054b50, true);
  end.setUint16(10, entries.length, true);
  end.setUint32(12, bytes.length, true);
  end.setUint32(16, body.length, true);
  end.setUint16(20, comment.length, true);
  return new Blob([body, bytes, Buffer.from(end.buffer), comment]);
}

describe('what a workbook unpacks to', () => {
  const packed = new Uint8Array(1000);

  test('is the sum of what its entries say, read from the end of the file', async () => {
    const entries = [
      { name: 'xl/workbook.xml', packed, size: 3000 },
      { name: 'xl/worksheets/sheet1.xml', packed, size: 500_000_000 },
    ];
    expect(await unpackedSize(zipOf(entries))).toBe(500_003_000);
    expect(await unpackedSize(zipOf(entries, 'A comment after the list.'))).toBe(500_003_000);
    expect(await unpackedSize(zipOf([]))).toBe(0);
  });

  test.each([
    ['an empty file', new Blob([])],
    ['a text', new Blob(['Title,Value\n'])],
    ['a file that was cut off', zipOf([{ name: 'a', packed, size: 1 }]).slice(0, 900)],
    ['a list that points beyond the file', zipOf([{ name: 'a', packed, size: 1 }]).slice(500)],
  ])('%s has none', async (_, file) => {
    expect(await unpackedSize(file)).toBeNull();
  });
});
