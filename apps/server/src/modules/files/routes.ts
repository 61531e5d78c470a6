import type { ServerContext } from '../../context.ts';
import type { Handle } from '../../plugins/contract.ts';
import { ProblemError } from '../../problem.ts';
import type { RecordService } from '../records/service.ts';
import type { FileIntake } from './intake.ts';

/** Files are handed over first, and a field then names them: what it says of a file is taken from here. */
export function fileRoutes(handle: Handle, { files }: ServerContext, intake: FileIntake, records: RecordService): void {
  handle(
    'uploadFile',
    ({ query: { name }, stream, actor, request }) =>
      intake.take(stream, actor.id, { name, mediaType: String(request.headers['content-type'] ?? '') }),
    ({ actor, guest }) => intake.admit(actor, guest),
  );

  handle('downloadFile', async ({ params: { id, sha256 }, actor, reply }) => {
    const { name } = await records.shownFile(id, sha256, actor);
    const contents = await files.open(sha256);
    if (!contents) throw new ProblemError('thing/not-found');
    // Never shown by the browser itself: what somebody handed over is only ever saved.
    reply
      .type('application/octet-stream')
      .header('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(name).replace(/['()]/g, escape)}`);
    return reply.send(contents) as never;
  });
}
