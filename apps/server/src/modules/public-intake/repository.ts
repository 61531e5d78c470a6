import type { PublicLinkSettings } from '@ypomet/contract';
import type { Queries } from '../records/repository.ts';

/** A public link with how far it is used. */
export type LinkRow = {
  readonly id: string;
  readonly workflow: string;
  readonly stage: string;
  readonly address: string;
  readonly settings: PublicLinkSettings;
  readonly begun: number;
};

const LINK = 'l.id, l.workflow, l.stage, l.address, l.settings, l.begun';

export async function findLinksOf(db: Queries, workflow: string): Promise<readonly LinkRow[]> {
  const { rows } = await db.query<LinkRow>(`select ${LINK} from public_links l where l.workflow = $1`, [workflow]);
  return rows;
}

export async function findLinkAt(db: Queries, address: string): Promise<LinkRow | null> {
  const { rows } = await db.query<LinkRow>(`select ${LINK} from public_links l where l.address = $1`, [address]);
  return rows[0] ?? null;
}

export async function findLinkById(db: Queries, id: string): Promise<LinkRow | null> {
  const { rows } = await db.query<LinkRow>(`select ${LINK} from public_links l where l.id = $1`, [id]);
  return rows[0] ?? null;
}

/** A link, held until the transaction ends, so that no more records are begun by it than it allows. */
export async function holdLink(db: Queries, id: string): Promise<LinkRow | null> {
  const { rows } = await db.query<LinkRow>(`select ${LINK} from public_links l where l.id = $1 for update`, [id]);
  return rows[0] ?? null;
}

/** Sets up the link of an intake; a new one gets the address. */
export async function putLink(db: Queries, { workflow, stage, address, settings }: Omit<LinkRow, 'id' | 'begun'>): Promise<void> {
  await db.query(
    `insert into public_links (workflow, stage, address, settings) values ($1, $2, $3, $4)
     on conflict (workflow, stage) do update set settings = excluded.settings, changed_at = now()`,
    [workflow, stage, address, JSON.stringify(settings)],
  );
}

export async function renewLink(db: Queries, workflow: string, stage: string, address: string): Promise<boolean> {
  const { rowCount } = await db.query(
    'update public_links set address = $3, changed_at = now() where workflow = $1 and stage = $2',
    [workflow, stage, address],
  );
  return rowCount === 1;
}

/** A guest as a member without roles. */
export type GuestRow = {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  /** The record they began. */
  readonly record: string | null;
};

export async function findGuest(db: Queries, member: string, link: string): Promise<GuestRow | null> {
  const { rows } = await db.query<GuestRow>({
    name: 'find-guest',
    text: `select m.id, m.name, m.email, g.record from guests g join members m on m.id = g.member
      where g.member = $1 and g.link = $2`,
    values: [member, link],
  });
  return rows[0] ?? null;
}

/** Keeps a guest, or what is known of one now. */
export async function keepGuest(
  db: Queries,
  guest: { readonly id: string; readonly link: string; readonly issuedAt: number },
  known: { readonly name: string; readonly email: string },
): Promise<void> {
  await db.query(
    `insert into members (id, name, email, password_hash, is_guest) values ($1, $2, $3, '', true)
     on conflict (id) do update set name = excluded.name, email = excluded.email where members.is_guest`,
    [guest.id, known.name, known.email],
  );
  await db.query(
    `insert into guests (member, link, issued_at) values ($1, $2, to_timestamp($3::float8 / 1000)) on conflict (member) do nothing`,
    [guest.id, guest.link, guest.issuedAt],
  );
}

/** Notes which record a guest begins now, and counts it; false where they began one before. */
export async function noteBegun(db: Queries, guest: { readonly id: string; readonly link: string }, record: string, at: string) {
  const { rowCount } = await db.query('update guests set record = $2, begun_at = $3 where member = $1 and record is null', [
    guest.id,
    record,
    at,
  ]);
  if (rowCount === 1) await db.query('update public_links set begun = begun + 1 where id = $1', [guest.link]);
  return rowCount === 1;
}

/** Records that were begun by a link since an instant. */
export async function countBegunSince(db: Queries, link: string, since: string): Promise<number> {
  const { rows } = await db.query<{ count: number }>(
    'select count(*)::int as count from guests where link = $1 and begun_at > $2',
    [link, since],
  );
  return rows[0]?.count ?? 0;
}

/** Bytes that guests of a link handed over within a day. */
export async function countGuestBytes(db: Queries, link: string): Promise<number> {
  const { rows } = await db.query<{ bytes: number }>(
    `select coalesce(sum(f.bytes), 0)::float8 as bytes from files f join guests g on g.member = f.member
     where g.link = $1 and f.at > now() - interval '1 day'`,
    [link],
  );
  return rows[0]?.bytes ?? 0;
}

/** Whom a mail goes to, where that is the guest who submitted its record, at their own address: their pass. */
export async function findGuestOf(
  db: Queries,
  record: string,
): Promise<{ readonly guest: string; readonly link: string; readonly email: string; readonly issuedAt: number } | null> {
  const { rows } = await db.query<{ guest: string; link: string; email: string; issuedAt: number }>(
    `select g.member as guest, g.link, m.email, (extract(epoch from g.issued_at) * 1000)::float8 as "issuedAt"
     from records r join guests g on g.member = r.submitted_by join members m on m.id = g.member where r.id = $1`,
    [record],
  );
  return rows[0] ?? null;
}

/** Notes that an address, in small letters, was confirmed; of one that was never asked, nothing. */
export const noteConfirmed = (db: Queries, address: string): Promise<unknown> =>
  db.query('update guest_addresses set confirmed_at = coalesce(confirmed_at, now()) where address = $1', [address]);

/** Forgets guests who began nothing since an instant, with their files; the contents that nobody else handed over. */
export async function forgetIdleGuests(db: Queries, before: string): Promise<readonly string[]> {
  const { rows } = await db.query<{ sha256: string }>(
    `with idle as (select member from guests where record is null and issued_at < $1),
       gone as (delete from files where member in (select member from idle) returning sha256),
       alone as (select distinct sha256 from gone g where not exists (
         select 1 from files f where f.sha256 = g.sha256 and f.member not in (select member from idle)))
     select sha256 from alone`,
    [before],
  );
  await db.query(
    `with idle as (delete from guests where record is null and issued_at < $1 returning member)
     delete from members m using idle where m.id = idle.member and m.is_guest`,
    [before],
  );
  return rows.map(({ sha256 }) => sha256);
}
