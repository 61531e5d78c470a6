import { makeCode } from '@ypomet/core';

type Option = { readonly code: string; readonly label: string };

const MAX_LABEL = 200;

/**
 * Options from pasted lines: `code; label` or the label alone, of which the code is made. Empty lines, and what is there already,
 * are left out.
 */
export function readOptions(text: string, there: readonly Option[]): readonly Option[] {
  const codes = new Set(there.map(({ code }) => code));
  const labels = new Set(there.map(({ label }) => label.toLowerCase()));
  const found: Option[] = [];
  for (const line of text.split(/\r\n|\r|\n/)) {
    const [first = '', ...rest] = line.split(/;|\t/).map((part) => part.trim());
    const label = (rest.join('; ') || first).slice(0, MAX_LABEL);
    if (label === '' || labels.has(label.toLowerCase())) continue;
    const given = rest.length > 0 && /^[^\s"\\][^"\\]{0,59}$/.test(first) ? first : null;
    if (given !== null && codes.has(given)) continue;
    const code = given ?? makeCode(label, codes);
    codes.add(code);
    labels.add(label.toLowerCase());
    found.push({ code, label });
  }
  return found;
}
