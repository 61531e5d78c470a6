import { expect, test } from '@jest/globals';
import { isMailAddress } from './mail-address.ts';

// RFC 5321, sections 4.1.2 and 4.5.3.1 (lengths); RFC 6531 (letters of other scripts).
test.each([
  'a@b.example',
  "o'neil+loans@museum.example",
  'jürgen@töpfer.invalid',
  '山田@例え.invalid',
  `${'a'.repeat(64)}@b.example`,
])('%s is an address', (text) => {
  expect(isMailAddress(text)).toBe(true);
});

test.each([
  '',
  'nobody',
  'a@b.example, c@d.example',
  'A Name <a@b.example>',
  'a@b.example\nBcc: c@d.example',
  'a b@c.example',
  `${'a'.repeat(65)}@b.example`,
  // 33 letters of two octets each.
  `${'ü'.repeat(33)}@b.example`,
  'a@b..example',
])('%s is none', (text) => {
  expect(isMailAddress(text)).toBe(false);
});
