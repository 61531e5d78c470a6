import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';

/** A key that secrets are encrypted with: 32 bytes, and the name it goes by in what was encrypted. */
export type SecretKey = { readonly id: string; readonly key: Buffer };

const FORM = /^v1\.([A-Za-z0-9_-]{1,40})\.([A-Za-z0-9_-]+)\.([A-Za-z0-9_-]+)$/;
const TAG_BYTES = 16;

/**
 * Reads keys as `id:base64`, parted by commas; the first encrypts, the others still decrypt, so that a key can be changed:
 * put the new one first, start, and take the old one out at the next start.
 */
export function readSecretKeys(text: string): readonly SecretKey[] {
  return text.split(',').map((part) => {
    const [id = '', coded = ''] = part.trim().split(':');
    const key = Buffer.from(coded, 'base64');
    if (!/^[A-Za-z0-9_-]{1,40}$/.test(id) || key.length !== 32)
      throw new Error('YPOMET_SECRET_KEYS holds keys as id:base64, each of 32 bytes, parted by commas.');
    return { id, key };
  });
}

/** A key made from another secret of the server's, where none is given. */
export const deriveSecretKey = (secret: string): SecretKey => ({
  id: 'own',
  key: createHash('sha256').update(`ypomet outlets ${secret}`).digest(),
});

/** Encrypts secrets at rest by AES-256-GCM (NIST SP 800-38D), each bound to the place where it is kept. */
export class SecretBox {
  constructor(private readonly keys: readonly SecretKey[]) {
    if (keys.length === 0) throw new Error('no key to encrypt secrets with');
  }

  /** `place`: where the secret is kept; read elsewhere, it doesn't open. */
  seal(secret: string, place: string): string {
    const { id, key } = this.keys[0] as SecretKey;
    const iv = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', key, iv, { authTagLength: TAG_BYTES }).setAAD(Buffer.from(place));
    const text = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final(), cipher.getAuthTag()]);
    return `v1.${id}.${iv.toString('base64url')}.${text.toString('base64url')}`;
  }

  /** The secret; null where it was sealed with a key that isn't here, elsewhere, or was changed. */
  open(sealed: string, place: string): string | null {
    const match = FORM.exec(sealed);
    const key = this.keys.find(({ id }) => id === match?.[1])?.key;
    if (!match || !key) return null;
    const [iv, text] = [Buffer.from(match[2] as string, 'base64url'), Buffer.from(match[3] as string, 'base64url')];
    if (text.length < TAG_BYTES) return null;
    const decipher = createDecipheriv('aes-256-gcm', key, iv, { authTagLength: TAG_BYTES })
      .setAAD(Buffer.from(place))
      .setAuthTag(text.subarray(-TAG_BYTES));
    try {
      return Buffer.concat([decipher.update(text.subarray(0, -TAG_BYTES)), decipher.final()]).toString('utf8');
    } catch (error) {
      if ((error as { code?: string }).code === 'ERR_OSSL_EVP_BAD_DECRYPT' || /authenticate/.test((error as Error).message))
        return null;
      throw error;
    }
  }

  /** Whether a secret was sealed with a key that is on its way out. */
  isOld(sealed: string): boolean {
    return FORM.exec(sealed)?.[1] !== this.keys[0]?.id;
  }
}
