/** A place in a form: a field, or a cell of a row. */
export type FormPlace = { readonly field: string; readonly row: string | null; readonly subField: string | null };

/** The id of the input of a field, or of a cell. */
export const inputIdOf = ({ field, row, subField }: FormPlace): string =>
  row === null || subField === null ? `field-${field}` : `field-${field}-${row}-${subField}`;

/** The place that a path of an issue leads to: `field`, or `table[row].cell`. */
export function placeOfPath(path: string): FormPlace {
  const cell = /^(.+)\[([^\]]+)\]\.(.+)$/.exec(path);
  return cell
    ? { field: cell[1] as string, row: cell[2] as string, subField: cell[3] as string }
    : { field: path, row: null, subField: null };
}

const INPUTS = 'input, textarea, button, [tabindex]';
/** Fields of a large form and rows of a long table are drawn part by part. */
const MOST_FRAMES = 120;

/** Moves the focus to the input at a place, as soon as it is drawn. */
export function focusPlace(place: FormPlace, frames = 0): void {
  const element = window.document.getElementById(inputIdOf(place));
  const input = element?.matches(INPUTS) ? element : element?.querySelector<HTMLElement>(INPUTS);
  if (input) {
    input.focus({ preventScroll: true });
    input.scrollIntoView({ block: 'center' });
  } else if (frames < MOST_FRAMES) requestAnimationFrame(() => focusPlace(place, frames + 1));
}
