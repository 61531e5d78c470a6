import { BODY_LIMITS } from '@ypomet/contract';
import type { ServerContext } from '../../context.ts';
import type { Handle } from '../../plugins/contract.ts';
import { ProblemError } from '../../problem.ts';
import type { Services } from '../records/routes.ts';

/** Bytes that one member may hand over in a day. */
const DAILY_BYTES = 500_000_000;
const MEDIA_TYPE = /^[a-z0-9][a-z0-9!#$&^_.+-]{0,60}\/[a-z0-9][a-z0-9!#$&^_.+-]{0,60}$/;

/** Files are handed over first, and a field then names them: what it says of a file is taken from here. */
export function fileRoutes(handle: Handle, context: ServerContext, { service: records, intakes }: Services): void {
  const { pool } = context.database;
  const store = context.files;

  const requireQuota = async (member: string): Promise<void> => {
    const { rows } = await pool.query<{ bytes: number }>(
      `select coalesce(sum(bytes), 0)::float8 as bytes from files where member = $1 and at > now() - interval '1 day'`,
      [member],
    );
    if ((rows[0]?.bytes ?? 0) >= DAILY_BYTES) throw new ProblemError('request/too-many', { retryAfterSeconds: 3600 });
  };

  handle(
    'uploadFile',
    async ({ query: { name }, stream, actor, request }) => {
      const written =
        String(request.headers['content-type'] ?? '')
          .split(';')[0]
          ?.trim()
          .toLowerCase() ?? '';
      const mediaType = MEDIA_TYPE.test(written) ? written : 'application/octet-stream';
      const { sha256, bytes } = await store.take(stream, BODY_LIMITS.file);
      if (bytes === 0) throw new ProblemError('request/invalid', { detail: 'The file is empty.' });
      await pool.query(
        `insert into files (sha256, member, name, media_type, bytes) values ($1, $2, $3, $4, $5)
         on conflict (member, sha256, name) do update set media_type = excluded.media_type, at = now()`,
        [sha256, actor.id, name.normalize('NFC'), mediaType, bytes],
      );
      return { name: name.normalize('NFC'), mediaType, bytes, sha256 };
    },
    async ({ actor, guest }) => {
      await requireQuota(actor.id);
      if (guest) await intakes.admitFile(guest);
    },
  );

  handle('downloadFile', async ({ params: { id, sha256 }, actor, reply }) => {
    const { name } = await records.shownFile(id, sha256, actor);
    const contents = await store.open(sha256);
    if (!contents) throw new ProblemError('thing/not-found');
    // Never shown by the browser itself: what somebody handed over is only ever saved.
    reply
      .type('application/octet-stream')
      .header('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(name).replace(/['()]/g, escape)}`);
    return reply.send(contents) as never;
  });
}
