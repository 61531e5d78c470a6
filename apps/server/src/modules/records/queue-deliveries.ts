import { randomUUID } from 'node:crypto';
import { SERVER_EN } from '@ypomet/contract';
import type { Address, DeliveryConsequence } from '@ypomet/core';
import type { MailHandling } from '../../db/schema.ts';
import { findAddresses, type Queries, type QueuedDelivery } from './repository.ts';

/** The addresses of a mail, by list. */
const listsOf = (one: DeliveryConsequence): readonly (readonly Address[])[] =>
  one.type === 'mail' ? [one.to, one.cc, one.bcc, one.replyTo] : [];

/**
 * Deliveries of several hand-offs as they are queued: roles and members as addresses, each once. A mail without any address,
 * or with one that isn't, is queued all the same: it then waits for a person.
 */
export async function toQueued(
  db: Queries,
  all: readonly (readonly DeliveryConsequence[])[],
): Promise<readonly (readonly QueuedDelivery[])[]> {
  const addresses = all.flat().flatMap(listsOf).flat();
  const ids = addresses.flatMap((one) => (one.kind === 'member' ? [one.member] : []));
  const roles = addresses.flatMap((one) => (one.kind === 'role' ? [one.role] : []));
  const members = ids.length + roles.length > 0 ? await findAddresses(db, [...new Set(ids)], [...new Set(roles)]) : [];
  const resolve = (list: readonly Address[]): readonly string[] => {
    const found = list.flatMap((one): readonly string[] => {
      if (one.kind === 'address') return [one.address];
      return (
        members
          .filter((member) => (one.kind === 'member' ? member.id === one.member : member.roles.includes(one.role)))
          // A guest who gave no address has none.
          .flatMap(({ email }) => email || [])
      );
    });
    return [...new Set(found)];
  };
  return all.map((list) => list.map((one) => toOne(one, resolve)));
}

function toOne(one: DeliveryConsequence, resolve: (list: readonly Address[]) => readonly string[]): QueuedDelivery {
  const common = { id: randomUUID(), kind: one.type, delivery: one.delivery, outlet: one.outlet, name: one.name };
  switch (one.type) {
    case 'mail': {
      const [to, cc, bcc, replyTo] = [one.to, one.cc, one.bcc, one.replyTo].map(resolve) as [
        readonly string[],
        readonly string[],
        readonly string[],
        readonly string[],
      ];
      return {
        ...common,
        recipients: [...new Set([...to, ...cc, ...bcc])],
        subject: one.subject,
        content: { ...one, addresses: { to, cc, bcc, replyTo } },
        // Nothing is sent in part: a person looks first. What the field holds isn't told here.
        fault: one.unfit.length > 0 ? { code: 'recipient-unfit', params: { recipients: one.unfit.map(String) } } : null,
      };
    }
    case 'web':
      return { ...common, recipients: [], subject: `${one.method} ${one.address}`.trim(), content: one, fault: null };
    case 'file': {
      const folder = one.folder === '' ? '' : `${one.folder}/`;
      return { ...common, recipients: [], subject: `${folder}${one.fileName}`, content: one, fault: null };
    }
    default:
      return one satisfies never;
  }
}

/** Returns the deliveries so that they are sent after some seconds; 0 sends them at once. */
export const holdBack = (queued: readonly QueuedDelivery[], heldSeconds: number): readonly QueuedDelivery[] =>
  heldSeconds === 0 ? queued : queued.map((one) => ({ ...one, heldSeconds }));

/** How long the mails of an import wait for further ones before they are sent together. */
const DIGEST_WAITS_SECONDS = 60;

/**
 * Returns the deliveries with their mails arranged: put away instead of sent, or noted for one mail that holds all of an
 * import's mails to the same receivers. Null leaves them as they are.
 */
export function arrangeMails(queued: readonly QueuedDelivery[], mails: MailHandling | null): readonly QueuedDelivery[] {
  if (mails === null) return queued;
  const arrange = (one: QueuedDelivery): QueuedDelivery => {
    if (mails.kind === 'digest') return { ...one, digest: mails.run, heldSeconds: DIGEST_WAITS_SECONDS };
    const params = { by: mails.by, reason: SERVER_EN.details['begun-without-mails'] };
    return { ...one, isPutAway: true, fault: { code: 'put-away', params } };
  };
  return queued.map((one) => (one.kind === 'mail' ? arrange(one) : one));
}
