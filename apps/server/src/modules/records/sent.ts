import type { DeliveryStatus, RecordDocument } from '@ypomet/contract';
import { type Actor, type CompiledWorkflow, readsEverything } from '@ypomet/core';
import type { Queries } from './repository.ts';

type Row = {
  readonly id: string;
  readonly kind: 'mail' | 'web' | 'file';
  readonly name: string;
  readonly subject: string;
  readonly recipients: readonly string[];
  readonly status: DeliveryStatus;
  readonly at: string;
};

const MOST = 100;

/**
 * What a record's hand-offs sent, as an actor may know of it, the latest first. Whoever holds a role at one of its stages learns
 * that something was sent, and to whom where they may read all that could have made the address; anybody else of what was sent
 * to themselves.
 */
export async function sentOf(
  db: Queries,
  workflow: CompiledWorkflow,
  record: string,
  actor: Actor,
): Promise<RecordDocument['sent']> {
  const { rows } = await db.query<Row>({
    name: 'sent-of',
    text: `select id, kind, name, subject, recipients, status,
        to_char(coalesce(sent_at, created_at) at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as at
      from deliveries where record = $1 order by created_at desc, id desc limit ${MOST}`,
    values: [record],
  });
  const own = actor.email?.toLowerCase() ?? '';
  const isOwn = (address: string): boolean => own !== '' && address.toLowerCase() === own;
  const isColleague = workflow.definition.stages.some(({ roles }) => roles.some((role) => actor.roles.includes(role)));
  const mayRead = isColleague && readsEverything(workflow, actor.roles);
  return rows.flatMap(({ id, kind, name, subject, recipients, status, at }) => {
    if (!isColleague && !recipients.some(isOwn)) return [];
    const to = mayRead ? [...recipients] : recipients.filter(isOwn);
    // What a delivery is called is for the house; who got it knows it by its subject.
    return [
      {
        id,
        kind,
        what: isColleague ? name : subject,
        to,
        status,
        maySettle: mayRead && (status === 'waiting' || status === 'unconfirmed'),
        at,
      },
    ];
  });
}
