import type { Term, TermCode } from '../shared/terms.ts';

/** A media type, all of a family (`image/*`), or the ending of a name (`.csv`); RFC 6838 gives the form of media types. */
export const FILE_KIND_PATTERN =
  /^(?:[a-z0-9][a-z0-9!#$&^_.+-]{0,126}\/(?:\*|[a-z0-9][a-z0-9!#$&^_.+-]{0,126})|\.[a-z0-9]{1,20})$/;

/** Whether a file is of one of some kinds, by its media type or the ending of its name; no kinds take everything. */
export function isOfKind(kinds: readonly string[], file: { readonly name: string; readonly mediaType: string }): boolean {
  if (kinds.length === 0) return true;
  const [name, type] = [file.name.toLowerCase(), file.mediaType.toLowerCase().split(';')[0]?.trim() ?? ''];
  return kinds.some((kind) => {
    if (kind.startsWith('.')) return name.endsWith(kind);
    return kind.endsWith('/*') ? type.startsWith(kind.slice(0, -1)) : type === kind;
  });
}

/** Families of media types, and a type whose name says little, in words. */
const IN_WORDS: Readonly<Record<string, TermCode>> = {
  'image/*': 'file-kind/pictures',
  'audio/*': 'file-kind/recordings',
  'video/*': 'file-kind/films',
  'text/*': 'file-kind/texts',
  'text/plain': 'file-kind/plain-text',
};

/** Media types that people know by the ending of their files' names (IANA's registrations name the endings). */
const ENDINGS: Readonly<Record<string, string>> = {
  'image/jpeg': 'JPEG',
  'image/svg+xml': 'SVG',
  'application/vnd.openxmlformats-officedocument.wordprocessingml.document': 'DOCX',
  'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet': 'XLSX',
  'application/vnd.openxmlformats-officedocument.presentationml.presentation': 'PPTX',
  'application/vnd.oasis.opendocument.text': 'ODT',
  'application/vnd.oasis.opendocument.spreadsheet': 'ODS',
  'application/vnd.oasis.opendocument.presentation': 'ODP',
};

/** A kind of file as people call it: `image/*` is pictures, `application/pdf` PDF, `.csv` CSV; a rarer type stays as written. */
export function termOfFileKind(kind: string): Term {
  const word = IN_WORDS[kind];
  if (word !== undefined) return { term: word };
  const short = /^(?:\.|(?:application|audio|image|text|video)\/)([a-z0-9]{1,8})$/.exec(kind)?.[1];
  return { term: 'file-kind/named', params: { name: ENDINGS[kind] ?? short?.toUpperCase() ?? kind } };
}
