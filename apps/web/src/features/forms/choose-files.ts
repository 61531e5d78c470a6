import { describeTerm, type Field, isOfKind, type SubField, termOfFileKind } from '@ypomet/core';
import { formatSize } from './file-size.ts';

type FileField = Extract<Field | SubField, { type: 'file' }>;

/** The kinds of files that a field takes, in words. */
export const describeKinds = (kinds: readonly string[]): string =>
  kinds.map((kind) => describeTerm(termOfFileKind(kind))).join(', ');

/** What a field takes of the files somebody chose, and why it doesn't take the others. */
export function chooseFiles(
  field: FileField,
  chosen: readonly File[],
  taken: number,
): { readonly files: readonly File[]; readonly refused: readonly string[] } {
  const refused: string[] = [];
  const fit = chosen.filter((file) => {
    const why = refusalOf(field, file);
    if (why !== null) refused.push(why);
    return why === null;
  });
  const room = Math.max(0, field.maxCount - taken);
  const over = fit.length - room;
  if (over > 0)
    refused.push(
      room === 0
        ? `No more files fit here: ${over === 1 ? 'it was' : `the ${over} were`} not taken.`
        : `Only ${room} more ${room === 1 ? 'fits' : 'fit'} here: the other ${over} were not taken.`,
    );
  return { files: fit.slice(0, room), refused };
}

function refusalOf({ maxBytes, kinds, messages }: FileField, { name, size, type }: File): string | null {
  if (size === 0) return `“${name}” is empty.`;
  if (size > maxBytes) return messages.size ?? `“${name}” is larger than ${formatSize(maxBytes)}.`;
  if (!isOfKind(kinds, { name, mediaType: type })) return messages.kinds ?? `“${name}” is none of ${describeKinds(kinds)}.`;
  return null;
}
