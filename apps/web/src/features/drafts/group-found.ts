import { type Diagnostic, describeDiagnostic, howToMend } from '@ypomet/core';

/** What is said once, with every place of the design that it is said of. */
export type Found = { readonly text: string; readonly mend: string; readonly paths: readonly string[] };

/** Returns one entry for each sentence, in the order in which they were found. */
export function groupFound(diagnostics: readonly Diagnostic[]): readonly Found[] {
  const found = new Map<string, { mend: string; paths: string[] }>();
  for (const one of diagnostics) {
    const text = describeDiagnostic(one);
    const known = found.get(text);
    if (known) known.paths.push(one.path);
    else found.set(text, { mend: howToMend(one), paths: [one.path] });
  }
  return [...found].map(([text, { mend, paths }]) => ({ text, mend, paths }));
}
