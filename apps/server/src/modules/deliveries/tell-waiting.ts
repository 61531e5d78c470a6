import type { RichText } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { plainMail } from '../../outlets/outlet.ts';

/**
 * Queues a mail to the member who answers for a workflow, when deliveries of its records have come to wait for a person since
 * the last such mail; at most one an hour for each workflow. That it was queued is noted in the same statement.
 */
export const QUEUE_NOTICES = `with failing as (
    select r.workflow, max(coalesce((select max(a.at) from delivery_attempts a where a.delivery = d.id), d.created_at)) as since
    from deliveries d join records r on r.id = d.record where d.status = 'waiting' group by r.workflow
  ), due as (
    update workflows w set told_waiting_at = now() from failing f
    where w.key = f.workflow and w.owner is not null
      and (w.told_waiting_at is null or (w.told_waiting_at < f.since and w.told_waiting_at < now() - interval '1 hour'))
    returning w.key
  )
  select count(graphile_worker.add_job('tell', json_build_object('workflow', due.key, 'notice', gen_random_uuid()))) from due`;

export type Notice = { readonly workflow: string; readonly notice: string };

type Telling = Pick<ServerContext, 'database' | 'outlets'> & { readonly address: string | null };

/**
 * Sends the mail of a notice: how many deliveries of a workflow wait, and where to look. It holds no values of records. Does
 * nothing where nothing waits any more, nobody answers for the workflow, or there is no mail outlet. Throws what the outlet
 * throws, so that its job tries again.
 */
export async function tellWaiting({ database, outlets, address }: Telling, { workflow, notice }: Notice): Promise<void> {
  const { rows } = await database.pool.query<{ name: string; email: string; outlet: string; count: number }>(
    `select w.definition ->> 'name' as name, m.email,
       (select o.key from outlets o where o.settings ->> 'kind' = 'mail' order by o.key limit 1) as outlet,
       (select count(*)::int from deliveries d join records r on r.id = d.record where r.workflow = w.key and d.status = 'waiting') as count
     from workflows w join members m on m.id = w.owner where w.key = $1`,
    [workflow],
  );
  const [found] = rows;
  if (!found?.outlet || found.count === 0) return;
  const { name, email, outlet, count } = found;
  const are = count === 1 ? 'One delivery of its records could' : `${count} deliveries of its records could`;
  const body: RichText = [
    {
      kind: 'paragraph',
      runs: [{ text: `You answer for the workflow “${name}”. ${are} not be sent and wait for somebody who puts them right.` }],
    },
    {
      kind: 'paragraph',
      runs:
        address === null
          ? [{ text: 'Open Dispatch in Ypomet and look at what is waiting.' }]
          : [{ text: 'Look at them: ' }, linkTo(`${address}/dispatch?status=waiting&workflow=${encodeURIComponent(workflow)}`)],
    },
  ];
  const content = plainMail(outlet, 'Deliveries that wait', [email], `${name}: deliveries wait for you`, body);
  await outlets.send(outlet, { id: notice, sequence: 1, content });
}

const linkTo = (link: string) => ({ text: link, link });
