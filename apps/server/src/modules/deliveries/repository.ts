import type { DeliveryEntry, DeliveryFault } from '@ypomet/contract';
import type pg from 'pg';
import type { Cursor } from '../../paging.ts';

type Queries = Pick<pg.Pool, 'query'>;
export type DeliveryRow = DeliveryEntry & { readonly body: string };

const instant = (column: string): string => `to_char(${column} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`;
const COLUMNS = `d.id, d.record as "recordId", r.number as "recordNumber", r.workflow, d.kind, d.name, d.recipients, d.subject, d.body, d.status,
  d.attempts, d.fault, ${instant('d.created_at')} as "createdAt", ${instant('d.sent_at')} as "sentAt"`;

export async function listDeliveries(db: Queries, limit: number, after: Cursor | null): Promise<readonly DeliveryRow[]> {
  const { rows } = await db.query<DeliveryRow>(
    `select ${COLUMNS} from deliveries d join records r on r.id = d.record
     where $1::timestamptz is null or (d.created_at, d.id) < ($1::timestamptz, $2::uuid) order by d.created_at desc, d.id desc limit $3`,
    [after?.at ?? null, after?.id ?? null, limit],
  );
  return rows;
}

export async function findDelivery(db: Queries, id: string): Promise<DeliveryRow | null> {
  const { rows } = await db.query<DeliveryRow>(
    `select ${COLUMNS} from deliveries d join records r on r.id = d.record where d.id = $1`,
    [id],
  );
  return rows[0] ?? null;
}

export const markSent = (db: Queries, id: string): Promise<unknown> =>
  db.query(`update deliveries set status = 'sent', sent_at = now(), attempts = attempts + 1, fault = null where id = $1`, [id]);

/** Notes a failed attempt; `isLast` leaves it waiting for a person. */
export const markFailed = (db: Queries, id: string, fault: DeliveryFault, isLast: boolean): Promise<unknown> =>
  db.query(`update deliveries set status = $3, attempts = attempts + 1, fault = $2 where id = $1`, [
    id,
    JSON.stringify(fault),
    isLast ? 'waiting' : 'queued',
  ]);

/** Queues a waiting delivery again; false when it isn't waiting. */
export async function requeueDelivery(db: Queries, id: string): Promise<boolean> {
  const { rows } = await db.query(
    `with again as (update deliveries set status = 'queued' where id = $1 and status = 'waiting' returning id)
     select graphile_worker.add_job('deliver', json_build_object('delivery', id), job_key := id::text, max_attempts := 12) from again`,
    [id],
  );
  return rows.length === 1;
}
