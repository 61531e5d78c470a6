const KEY = 'ypomet.unfinished';
const MAX = 100;

type Unfinished = { readonly workflow: string; readonly path: string; readonly text: string };

function readAll(): readonly Unfinished[] {
  try {
    const kept: unknown = JSON.parse(window.localStorage.getItem(KEY) ?? '[]');
    return Array.isArray(kept) ? (kept as Unfinished[]) : [];
  } catch (error) {
    // Storage that is switched off, or was written by something else: nothing is kept.
    if (error instanceof SyntaxError || error instanceof DOMException) return [];
    throw error;
  }
}

function writeAll(list: readonly Unfinished[]): void {
  try {
    window.localStorage.setItem(KEY, JSON.stringify(list.slice(-MAX)));
  } catch (error) {
    if (!(error instanceof DOMException)) throw error;
  }
}

/** Texts with errors, kept in this browser until they are mended or taken back: the draft has what was sound before. */
export const unfinished = {
  find: (workflow: string, path: string): string | null =>
    readAll().find((one) => one.workflow === workflow && one.path === path)?.text ?? null,
  keep: (workflow: string, path: string, text: string): void =>
    writeAll([...readAll().filter((one) => one.workflow !== workflow || one.path !== path), { workflow, path, text }]),
  drop: (workflow: string, path: string): void =>
    writeAll(readAll().filter((one) => one.workflow !== workflow || one.path !== path)),
  /** The paths of a workflow's parts with a text that isn't finished. */
  paths: (workflow: string): readonly string[] => readAll().flatMap((one) => (one.workflow === workflow ? [one.path] : [])),
};
