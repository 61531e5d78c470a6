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
