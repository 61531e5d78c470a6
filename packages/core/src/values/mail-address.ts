import { z } from 'zod';

const Address = z.email().max(254);
/** Octets before the @ (RFC 5321, section 4.5.3.1.1). */
const MAX_LOCAL = 64;
const LETTERS = /[\p{L}\p{M}\p{N}]/gu;

/** The length of a text in UTF-8. */
const octetsOf = (text: string): number =>
  [...text].reduce((sum, letter) => {
    const point = letter.codePointAt(0) ?? 0;
    return sum + (point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4);
  }, 0);

/**
 * Whether a text is one e-mail address (an addr-spec of RFC 5322, as mail servers take it): no list, no group, no name.
 * Letters of all scripts may stand in it (RFC 6531).
 */
export function isMailAddress(text: string): boolean {
  const at = text.lastIndexOf('@');
  if (octetsOf(text.slice(0, at)) > MAX_LOCAL) return false;
  // Letters beyond ASCII are replaced by "a", so that the rules for ASCII addresses can check the rest.
  return Address.safeParse(text.replace(LETTERS, 'a')).success;
}
