import { queryOptions } from '@tanstack/react-query';
import { readFile } from '../../shared/api.ts';
import type { FileJson } from './file-json.ts';
import { lookInto } from './preview.ts';

export { addressOfFile, isGuest } from '../../shared/api.ts';

/** What can be shown of a file of a record. */
export const previewQuery = (record: string, { sha256, mediaType }: FileJson) =>
  queryOptions({
    queryKey: ['file', record, sha256],
    queryFn: async () => lookInto(await readFile(record, sha256), mediaType),
    // Contents are named by what they are.
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
  });

/** Saves a file of a record: by its address, which a guest's pass doesn't reach, or by its contents. */
export async function saveFile(record: string, { sha256, name }: FileJson): Promise<void> {
  const address = URL.createObjectURL(await readFile(record, sha256));
  const link = window.document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), 60_000);
}
