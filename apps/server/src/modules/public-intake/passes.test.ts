import { expect, test } from '@jest/globals';
import { deriveSecretKey } from '../../outlets/secrets.ts';
import { Passes } from './passes.ts';

// RFC 2104 with SHA-256: one bit changed anywhere makes another code.
test('a pass can’t be made up, nor changed', () => {
  const passes = new Passes([deriveSecretKey('one')]);
  const said = {
    link: '7f8c2f0e-4a0b-4a55-9f1e-0c2f6f1d2a11',
    guest: '2b1f6c52-0f3e-4d0c-8f3a-5f3a1f0b7c21',
    issuedAt: 1_790_000_000_123,
  };
  const pass = passes.write(said);
  expect(passes.read(pass)).toEqual(said);
  const bytes = Buffer.from(pass, 'base64url');
  for (let at = 0; at < bytes.length; at += 1) {
    const changed = Buffer.from(bytes);
    changed[at] = (changed[at] ?? 0) ^ 1;
    expect(passes.read(changed.toString('base64url'))).toBeNull();
  }
  for (const text of ['', 'x', `${pass}A`, pass.slice(1), '='.repeat(pass.length)]) expect(passes.read(text)).toBeNull();
  expect(new Passes([deriveSecretKey('two')]).read(pass)).toBeNull();
  expect(new Passes([deriveSecretKey('two'), deriveSecretKey('one')]).read(pass)).toEqual(said);
});
