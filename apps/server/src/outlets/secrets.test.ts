import { describe, expect, test } from '@jest/globals';
import { deriveSecretKey, readSecretKeys, SecretBox } from './secrets.ts';

describe('secrets at rest', () => {
  const box = new SecretBox([deriveSecretKey('one')]);

  test('open where they were sealed, and nowhere else', () => {
    const sealed = box.seal('insurer’s secret', 'outlets:insurer');
    expect(sealed).not.toContain('secret');
    expect(box.open(sealed, 'outlets:insurer')).toBe('insurer’s secret');
    expect(box.open(sealed, 'outlets:other')).toBeNull();
    expect(new SecretBox([deriveSecretKey('two')]).open(sealed, 'outlets:insurer')).toBeNull();
    for (const at of [10, 30, sealed.length - 2]) {
      const changed = sealed.slice(0, at) + (sealed[at] === 'A' ? 'B' : 'A') + sealed.slice(at + 1);
      expect(box.open(changed, 'outlets:insurer')).toBeNull();
    }
    // A tag of four bytes is no tag.
    expect(box.open(`${sealed.split('.').slice(0, 3).join('.')}.AAAA`, 'outlets:insurer')).toBeNull();
  });

  test('a key is changed by putting the new one first', () => {
    const [old, fresh] = [Buffer.alloc(32, 1), Buffer.alloc(32, 2)].map((key) => key.toString('base64'));
    const before = new SecretBox(readSecretKeys(`old:${old}`));
    const sealed = before.seal('x', 'p');
    const after = new SecretBox(readSecretKeys(`fresh:${fresh}, old:${old}`));
    expect([after.open(sealed, 'p'), after.isOld(sealed), after.isOld(after.seal('x', 'p'))]).toEqual(['x', true, false]);
    expect(() => readSecretKeys('short:AAAA')).toThrow(/32 bytes/);
  });
});
