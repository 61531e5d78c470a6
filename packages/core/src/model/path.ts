/**
 * The path language of definitions: keys from the outside in, joined by points, as in
 * `handOffs.decide.branches.accept.when`. Parts are named by their keys, never by positions, which shift when somebody else
 * adds a part. A step that is no plain word stands in quotes: `plan."objects.material".review`, `fields.kind.options."a b"`.
 */
export type Path = string;

const PLAIN = /^[A-Za-z0-9_-]+$/;
const STEPS = /\.?(?:([A-Za-z0-9_-]+)|"((?:[^"\\]|\\.)*)")/y;

const written = (step: string): string => (PLAIN.test(step) ? step : JSON.stringify(step));

/** A path of its steps. */
export const joinPath = (...steps: readonly string[]): Path => steps.map(written).join('.');

/** A path with further steps; the empty path is the definition itself. */
export function within(path: Path, ...steps: readonly string[]): Path {
  let result = path;
  for (const step of steps) result = result === '' ? written(step) : `${result}.${written(step)}`;
  return result;
}

/** The steps of a path; null for a text that is none. The inverse of {@link joinPath}. */
export function splitPath(path: Path): readonly string[] | null {
  const steps: string[] = [];
  STEPS.lastIndex = 0;
  while (STEPS.lastIndex < path.length) {
    const isFirst = STEPS.lastIndex === 0;
    const match = STEPS.exec(path);
    if (!match || match[0].startsWith('.') === isFirst) return null;
    steps.push(match[1] ?? (JSON.parse(`"${match[2]}"`) as string));
  }
  return steps;
}
