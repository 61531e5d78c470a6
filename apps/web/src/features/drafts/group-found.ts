import { type Diagnostic, describeDiagnostic, howToMend } from '@ypomet/core';

/** One sentence about the design, with the paths of all parts that it is true of. */
export type Found = { readonly text: string; readonly mend: string; readonly paths: readonly string[] };

/** Groups diagnostics by their sentence, in the order in which each sentence occurs first. */
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
