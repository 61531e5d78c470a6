/** Selects the whole text of an input that was clicked, unless part of it is selected already: typing replaces a chosen name. */
export function selectWhole(input: HTMLInputElement): void {
  if (input.selectionStart === input.selectionEnd) input.select();
}
