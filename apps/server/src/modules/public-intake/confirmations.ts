import { createHmac, timingSafeEqual } from 'node:crypto';
import type { RichText } from '@ypomet/core';
import type { SecretKey } from '../../outlets/secrets.ts';

/** How long a request to confirm an address can be answered. */
export const CONFIRM_WITHIN_MS = 7 * 24 * 3_600_000;
const SUBJECT = 'Please confirm your mail address';

/**
 * Signs and reads what is behind the link of a mail that asks to confirm an address: the address and when it was asked, with
 * an HMAC-SHA-256 (RFC 2104), so that only whoever gets the mail has it and nothing of it is stored.
 */
export class Confirmations {
  private readonly keys: readonly Buffer[];

  constructor(keys: readonly SecretKey[]) {
    this.keys = keys.map(({ key }) => createHmac('sha256', key).update('ypomet address confirmation').digest());
  }

  write(address: string, askedAt: number): string {
    const said = Buffer.from(JSON.stringify([address.toLowerCase(), askedAt]));
    return `${said.toString('base64url')}.${sign(this.keys[0] as Buffer, said).toString('base64url')}`;
  }

  /** The address, in small letters, that a token confirms at an instant; null where it is none of ours or ran out. */
  read(token: string, now: number): string | null {
    const [, text = '', mac = ''] = /^([A-Za-z0-9_-]{1,1000})\.([A-Za-z0-9_-]{43})$/.exec(token) ?? [];
    const [said, given] = [Buffer.from(text, 'base64url'), Buffer.from(mac, 'base64url')];
    if (!this.keys.some((key) => given.length === 32 && timingSafeEqual(sign(key, said), given))) return null;
    const [address, askedAt] = JSON.parse(said.toString('utf8')) as readonly [string, number];
    return now - askedAt > CONFIRM_WITHIN_MS ? null : address;
  }
}

const sign = (key: Buffer, said: Buffer): Buffer => createHmac('sha256', key).update(said).digest();

/** The mail that asks to confirm an address. Its wording is fixed: nothing in it comes from whoever gave the address. */
export function writeConfirmation(workspace: string, link: string): { readonly subject: string; readonly body: RichText } {
  const whose = `Somebody gave this address in a form of ${workspace}.`;
  const confirm = 'If it was you, confirm it here; mails about what you handed in are sent only then: ';
  const nothing = 'If it was not you, do nothing: nothing else is sent to you.';
  return {
    subject: SUBJECT,
    body: [
      { kind: 'paragraph', runs: [{ text: whose }] },
      { kind: 'paragraph', runs: [{ text: confirm }, { text: link, link }] },
      { kind: 'paragraph', runs: [{ text: nothing }] },
    ],
  };
}
