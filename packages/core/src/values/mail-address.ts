import { utf8ToBytes } from '@noble/hashes/utils.js';
import { z } from 'zod';

const Address = z.email().max(254);
/** Octets before the @ (RFC 5321, section 4.5.3.1.1). */
const MAX_LOCAL = 64;
const LETTERS = /[\p{L}\p{M}\p{N}]/gu;

/**
 * Whether a text is one e-mail address (an addr-spec of RFC 5322, as mail servers take it): no list, no group, no name.
 * Letters of all scripts may stand in it (RFC 6531).
 */
export function isMailAddress(text: string): boolean {
  const at = text.lastIndexOf('@');
  if (utf8ToBytes(text.slice(0, at)).length > MAX_LOCAL) return false;
  // What holds of an address with letters of other scripts holds of the one with Latin letters in their places.
  return Address.safeParse(text.replace(LETTERS, 'a')).success;
}
