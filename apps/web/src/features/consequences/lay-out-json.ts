/** JSON's texts, what opens and closes, and what parts (RFC 8259, section 2). */
const TOKENS = /"(?:[^"\\]|\\.)*"|\{\}|\[\]|[{}[\],:]/gs;

/** Compact JSON with a line for each property; its numbers stay as they are written. */
export function layOutJson(text: string): string {
  let depth = 0;
  const line = (): string => `\n${'  '.repeat(depth)}`;
  return text.replace(TOKENS, (token) => {
    switch (token) {
      case '{':
      case '[':
        depth += 1;
        return `${token}${line()}`;
      case '}':
      case ']':
        depth -= 1;
        return `${line()}${token}`;
      case ',':
        return `,${line()}`;
      case ':':
        return ': ';
      default:
        return token;
    }
  });
}
