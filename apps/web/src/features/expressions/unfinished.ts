const KEY = 'ypomet.unfinished';
const MAX = 100;

/** Where something unfinished belongs: the workflow's key, and the path of the property in its definition. */
export type UnfinishedPlace = { readonly workflow: string; readonly path: string };
/** A text with errors, or the outline of a condition that lacks something, as JSON. */
type Unfinished = UnfinishedPlace & ({ readonly text: string } | { readonly outline: unknown });

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

const listeners = new Set<() => void>();

function writeAll(list: readonly Unfinished[]): void {
  try {
    window.localStorage.setItem(KEY, JSON.stringify(list.slice(-MAX)));
  } catch (error) {
    if (!(error instanceof DOMException)) throw error;
  }
  for (const tell of listeners) tell();
}

/** What is kept for a place in one of the two ways: as a text, or as an outline. */
function keptAs<K extends 'text' | 'outline'>(kind: K) {
  const isIt = (one: Unfinished, { workflow, path }: UnfinishedPlace): boolean =>
    one.workflow === workflow && one.path === path && kind in one;
  return {
    find: (place: UnfinishedPlace): unknown => {
      const found = readAll().find((one) => isIt(one, place));
      return found ? (found as Record<string, unknown>)[kind] : null;
    },
    keep: ({ workflow, path }: UnfinishedPlace, content: unknown): void =>
      writeAll([
        ...readAll().filter((one) => !isIt(one, { workflow, path })),
        { workflow, path, [kind]: content } as unknown as Unfinished,
      ]),
    drop: (place: UnfinishedPlace): void => {
      const all = readAll();
      const left = all.filter((one) => !isIt(one, place));
      if (left.length < all.length) writeAll(left);
    },
  };
}

const texts = keptAs('text');
const outlines = keptAs('outline');

/**
 * What isn't finished, kept in this browser until it is finished or taken back: texts with errors, and outlines of conditions that
 * lack something. The draft has what was sound before.
 */
export const unfinished = {
  find: (workflow: string, path: string): string | null => {
    const text = texts.find({ workflow, path });
    return typeof text === 'string' ? text : null;
  },
  keep: (workflow: string, path: string, text: string): void => texts.keep({ workflow, path }, text),
  drop: (workflow: string, path: string): void => texts.drop({ workflow, path }),
  outlines,
  /** The paths of a workflow's properties with something unfinished, each once. */
  paths: (workflow: string): readonly string[] => [
    ...new Set(readAll().flatMap((one) => (one.workflow === workflow ? [one.path] : []))),
  ],
  /** Calls back after each change; returns what ends that. */
  watch: (tell: () => void): (() => void) => {
    listeners.add(tell);
    return () => listeners.delete(tell);
  },
};
