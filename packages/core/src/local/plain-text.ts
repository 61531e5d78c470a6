/** Marks that only say in which direction text runs (Unicode 16, "Bidi_Control"). */
const DIRECTION_MARKS = /[\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]/g;
const DIGIT = /\p{Nd}/gu;
const IS_DIGIT = /^\p{Nd}$/u;

/**
 * The value of a decimal digit of any script. Unicode keeps the digits 0 to 9 of a script together and in this order
 * (The Unicode Standard, section 4.6), so the number of digits before it in its block is its value.
 */
function digitValue(digit: string): string {
  const code = digit.codePointAt(0) ?? 0;
  let before = 0;
  while (before < 9 && IS_DIGIT.test(String.fromCodePoint(code - before - 1))) before += 1;
  return String(before);
}

/**
 * A text with its digits as 0 to 9, whatever their script, full-width letters and marks as the usual ones (NFKC), every
 * kind of space as a plain one, without direction marks, and trimmed.
 */
export const plainText = (text: string): string =>
  text
    .normalize('NFKC')
    .replace(DIRECTION_MARKS, '')
    .replace(DIGIT, (digit) => (digit >= '0' && digit <= '9' ? digit : digitValue(digit)))
    .replace(/\s+/gu, ' ')
    .trim();
