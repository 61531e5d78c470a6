import { fileTypeFromFile } from 'file-type';
import mime from 'mime';
import { ProblemError } from '../../problem.ts';

const OFFICE =
  /^application\/(vnd\.openxmlformats-officedocument\..+|vnd\.oasis\.opendocument\..+|vnd\.ms-(excel|powerpoint|word)\..+|epub\+zip|java-archive|vnd\.apple\..+|vnd\.google-earth\.kmz)$/;

/** What holds other formats: what begins like the first can rightly be called the second. */
const HOLDS: readonly (readonly [found: RegExp, said: RegExp])[] = [
  [/^application\/zip$/, OFFICE],
  // Both are of that family: which one isn't always told by the beginning.
  [OFFICE, OFFICE],
  [/^application\/x-cfb$/, /^application\/(msword|vnd\.ms-.+|x-msi)$/],
  [/^application\/pdf$/, /^application\/(postscript|illustrator)$/],
  [/^(application|text)\/xml$/, /(\/|\+)xml$|^text\/(html|plain)$/],
  [/^(audio|video)\//, /^((audio|video)\/|application\/(mp4|ogg|vnd\.rn-realmedia))/],
  [/^application\/(ogg|mp4)$/, /^(audio|video)\//],
  [/^image\/(heic|heif|avif)/, /^image\/(heic|heif|avif)/],
  [/^image\/tiff$/, /^image\/x-/],
  [/^application\/gzip$/, /^application\/(gzip|x-.*)$/],
];

/** Formats that are always known by how they begin: what is called so and isn't known is something else. */
const KNOWN_BY_BEGINNING =
  /^(application\/(pdf|zip|vnd\.openxmlformats-.+|vnd\.oasis\..+)|image\/(png|jpeg|gif|webp|tiff|heic))$/;

const UNKNOWN = 'application/octet-stream';

/**
 * The media type of a file: what its name says, as far as its contents don't say otherwise. `written`: what whoever handed
 * it over says of it, for names without a known ending. Code `file/other-content` where contents and name differ.
 */
export async function mediaTypeOf(place: string, name: string, written: string): Promise<string> {
  const found = (await fileTypeFromFile(place))?.mime ?? null;
  const said = mime.getType(name) ?? (written === '' ? UNKNOWN : written);
  if (found === null) {
    if (KNOWN_BY_BEGINNING.test(said)) throw otherContent(name, said, 'something else');
    return said;
  }
  if (found === said || HOLDS.some(([inside, outside]) => inside.test(found) && outside.test(said))) return said;
  if (said === UNKNOWN) return found;
  throw otherContent(name, said, found);
}

const otherContent = (name: string, said: string, found: string): ProblemError =>
  new ProblemError('file/other-content', {
    detail: `“${name}” is named like ${said}, and holds ${found}. Give it a name that says what it holds.`,
  });
