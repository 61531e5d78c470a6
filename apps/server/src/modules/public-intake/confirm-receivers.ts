import { randomUUID } from 'node:crypto';
import type { ServerContext } from '../../context.ts';
import { inTransaction } from '../../db/database.ts';
import type { StoredContent } from '../../db/schema.ts';
import { notSent, plainMail } from '../../outlets/outlet.ts';
import type { Queries } from '../records/repository.ts';
import { writeConfirmation } from './confirmations.ts';
import { findGuestOf } from './repository.ts';

type Means = Pick<ServerContext, 'database' | 'outlets' | 'workspace' | 'clock' | 'guests'> & { readonly address: string | null };
type Mail = Extract<StoredContent, { type: 'mail' }>;

/** How often one address is asked at most, with a day between. */
const ASKED_AT_MOST = 3;
/** How many addresses the guests of one public link can cause to be asked within an hour. */
export const LINK_ASKS_AN_HOUR = 120;

/** Receivers of a mail who haven't confirmed their addresses, as the mail writes them, and the public link they came by. */
export type Unconfirmed = { readonly link: string; readonly addresses: readonly string[] };

/**
 * Finds the receivers of a mail whose address a guest gave and nobody has confirmed: the guest's own, and those that come from
 * values of the record. Members' addresses, and those that a design names, need no confirmation. Null where there is none.
 */
export async function findUnconfirmed(
  db: Queries,
  record: string,
  { addresses, fromValues = [] }: Mail,
): Promise<Unconfirmed | null> {
  const guest = addresses ? await findGuestOf(db, record) : null;
  if (!addresses || !guest) return null;
  const given = new Set([guest.email, ...fromValues].map((one) => one.toLowerCase()));
  const all = [...new Set([...addresses.to, ...addresses.cc, ...addresses.bcc])].filter((one) => given.has(one.toLowerCase()));
  if (all.length === 0) return null;
  const { rows } = await db.query<{ address: string }>({
    name: 'find-unconfirmed',
    text: `select a.address from unnest($1::text[]) a (address)
      where not exists (select from members m where lower(m.email) = lower(a.address) and not m.is_guest)
        and not exists (select from guest_addresses g where g.address = lower(a.address) and g.confirmed_at is not null)`,
    values: [all],
  });
  return rows.length === 0 ? null : { link: guest.link, addresses: rows.map(({ address }) => address) };
}

/**
 * Asks addresses to confirm themselves, each by a mail of fixed wording through the outlet of the mail that waits for it. An
 * address that was asked within a day isn't asked again. Throws `many-unconfirmed` where the link had too many asked within
 * the hour, and what the outlet throws.
 */
export async function askToConfirm(means: Means, outlet: string, { link, addresses }: Unconfirmed): Promise<void> {
  const { database, address: own } = means;
  if (own === null) throw notSent('no-own-address', {}, { isFinal: true });
  for (const given of addresses)
    await inTransaction(database.pool, async (client) => {
      const address = given.toLowerCase();
      await client.query('insert into guest_addresses (address, link) values ($1, $2) on conflict do nothing', [address, link]);
      // Whoever comes at the same time waits here until this one is asked, and then sees that it was.
      const { rows } = await client.query<{ mayAsk: boolean; lately: number }>(
        `select asked < ${ASKED_AT_MOST} and coalesce(asked_at < now() - interval '1 day', true) as "mayAsk",
           (select count(*)::int from guest_addresses o where o.link = $2 and o.asked_at > now() - interval '1 hour') as lately
         from guest_addresses where address = $1 for update`,
        [address, link],
      );
      const [found] = rows;
      if (!found?.mayAsk) return;
      if (found.lately >= LINK_ASKS_AN_HOUR) throw notSent('many-unconfirmed');
      const token = means.guests.confirmations.write(address, means.clock());
      const { subject, body } = writeConfirmation(means.workspace.name, `${own}/confirm#${token}`);
      const content = plainMail(outlet, 'Confirmation', [given], subject, body);
      await means.outlets.send(outlet, { id: randomUUID(), sequence: 1, content });
      await client.query('update guest_addresses set link = $2, asked = asked + 1, asked_at = now() where address = $1', [
        address,
        link,
      ]);
    });
}
