/** The end of a ZIP file's list of entries: its signature, its bytes, and the longest comment that may follow it. */
const END = 0x06054b50;
const END_BYTES = 22;
const MAX_COMMENT = 65_535;
/** An entry in that list. */
const ENTRY = 0x02014b50;
const ENTRY_BYTES = 46;

/**
 * Returns how many bytes the entries of a ZIP file say they unpack to, read from the list at its end (PKWARE APPNOTE 6.3.10,
 * 4.3.12 and 4.3.16) without unpacking anything; null for a file that has no such list. Entries of four gigabytes and more,
 * which keep their sizes elsewhere, count as four gigabytes.
 */
export async function unpackedSize(file: Blob): Promise<number | null> {
  const tail = await viewOf(file, file.size - END_BYTES - MAX_COMMENT, file.size);
  let end = tail.byteLength - END_BYTES;
  while (end >= 0 && tail.getUint32(end, true) !== END) end -= 1;
  if (end < 0) return null;
  const [bytes, offset] = [tail.getUint32(end + 12, true), tail.getUint32(end + 16, true)];
  if (offset + bytes > file.size) return null;
  const list = await viewOf(file, offset, offset + bytes);
  let size = 0;
  for (let at = 0; at + ENTRY_BYTES <= list.byteLength; ) {
    if (list.getUint32(at, true) !== ENTRY) return null;
    size += list.getUint32(at + 24, true);
    at += ENTRY_BYTES + list.getUint16(at + 28, true) + list.getUint16(at + 30, true) + list.getUint16(at + 32, true);
  }
  return size;
}

const viewOf = async (file: Blob, from: number, to: number): Promise<DataView> =>
  new DataView(await file.slice(Math.max(0, from), to).arrayBuffer());
