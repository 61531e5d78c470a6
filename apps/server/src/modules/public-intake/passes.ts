import { createHmac, timingSafeEqual } from 'node:crypto';
import type { SecretKey } from '../../outlets/secrets.ts';

/** What a pass says: which link it was issued by, to which guest, and when (milliseconds since 1970). */
export type Pass = { readonly link: string; readonly guest: string; readonly issuedAt: number };

const ID_BYTES = 16;
const INSTANT_BYTES = 6;
const MAC_BYTES = 32;
const SAID_BYTES = 2 * ID_BYTES + INSTANT_BYTES;
const LENGTH = Math.ceil(((SAID_BYTES + MAC_BYTES) * 4) / 3);

/**
 * Passes of guests: what they say, with an HMAC-SHA-256 (RFC 2104) over it, so that nobody can make one and none is stored.
 * The keys are those of the secrets at rest; a pass made with a former one still opens while that is known.
 */
export class Passes {
  private readonly keys: readonly Buffer[];

  constructor(keys: readonly SecretKey[]) {
    this.keys = keys.map(({ key }) => createHmac('sha256', key).update('ypomet guest pass').digest());
  }

  write(pass: Pass): string {
    const said = Buffer.alloc(SAID_BYTES);
    bytesOf(pass.link).copy(said, 0);
    bytesOf(pass.guest).copy(said, ID_BYTES);
    said.writeUIntBE(pass.issuedAt, 2 * ID_BYTES, INSTANT_BYTES);
    return Buffer.concat([said, sign(this.keys[0] as Buffer, said)]).toString('base64url');
  }

  /** What a pass says; null where it is none of ours. */
  read(text: string): Pass | null {
    if (text.length !== LENGTH || !/^[A-Za-z0-9_-]+$/.test(text)) return null;
    const bytes = Buffer.from(text, 'base64url');
    if (bytes.length !== SAID_BYTES + MAC_BYTES) return null;
    const [said, mac] = [bytes.subarray(0, SAID_BYTES), bytes.subarray(SAID_BYTES)];
    if (!this.keys.some((key) => timingSafeEqual(sign(key, said), mac))) return null;
    return {
      link: idOf(said.subarray(0, ID_BYTES)),
      guest: idOf(said.subarray(ID_BYTES, 2 * ID_BYTES)),
      issuedAt: said.readUIntBE(2 * ID_BYTES, INSTANT_BYTES),
    };
  }
}

const sign = (key: Buffer, said: Buffer): Buffer => createHmac('sha256', key).update(said).digest();
const bytesOf = (id: string): Buffer => Buffer.from(id.replaceAll('-', ''), 'hex');
const idOf = (bytes: Buffer): string => bytes.toString('hex').replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
