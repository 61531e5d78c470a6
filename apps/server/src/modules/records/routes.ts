import type { ServerContext } from '../../context.ts';
import { type Handle, Made } from '../../plugins/contract.ts';
import { openStream } from '../../plugins/streams.ts';
import { publicIntakeRoutes } from '../public-intake/routes.ts';
import { PublicIntakes } from '../public-intake/service.ts';
import { RegisterService } from '../registers/service.ts';
import { listChoices } from './choices.ts';
import { handOnMany, offeredHandOffs } from './hand-on-many.ts';
import { importRows } from './import-rows.ts';
import { answerForGuest } from './present.ts';
import { RecordService } from './service.ts';
import { takeBackMany } from './take-back.ts';

/** What other modules' routes ask of records. */
export type Services = { readonly service: RecordService; readonly intakes: PublicIntakes };

export function recordRoutes(handle: Handle, context: ServerContext): Services {
  const service = new RecordService(context);
  const intakes = new PublicIntakes(context, service);
  const registers = new RegisterService(context);
  handle(
    'intake',
    ({ params, body, actor }) => service.intake(params.key, params.stage, body.values, actor),
    ({ params, actor }) => service.admitIntake(params.key, params.stage, actor),
  );
  handle('intakeChoices', async ({ params, query, actor }) =>
    listChoices(context, await service.choosableAt(params.key, params.stage, query.field, actor), query.search, actor),
  );
  handle(
    'importRows',
    async ({ params, body, actor }) => ({ rows: await importRows(context, service, params, body, actor) }),
    ({ params, actor }) => service.admitIntake(params.key, params.stage, actor),
  );
  handle(
    'begin',
    ({ params, body, actor, idempotencyKey }) =>
      service.begin(params.key, body.stage, body.handOff, body.values, { actor, idempotencyKey }),
    ({ params, actor }) => service.admitIntake(params.key, null, actor),
  );
  handle('record', async ({ params, actor, request, reply }) => {
    const document = await service.show(params.id, actor, request.guest !== null);
    reply.header('etag', `"${document.record.revision}"`);
    return new Made(JSON.stringify(document));
  });
  handle('watchRecords', async ({ query, actor, request, reply }) => {
    if (query.record !== undefined) await service.admit(query.record, actor, 0);
    if (query.workflow !== undefined) await registers.open(query.workflow, actor);
    const end = await context.changes.open(query, actor, () => openStream(reply));
    request.raw.on('close', end);
    return reply as never;
  });
  handle('offeredHandOffs', ({ body, actor }) => offeredHandOffs(service, body.records, actor));
  handle('handOnMany', async ({ body, actor }) => ({ rows: await handOnMany(service, body, actor) }));
  handle('takeBackMany', async ({ body, actor }) => ({ rows: await takeBackMany(context, body, actor) }));
  handle('possess', async ({ params, revision, body, actor, reply }) => {
    const header = await service.possess(params.id, revision, body, actor);
    reply.header('etag', `"${header.revision}"`);
    return header;
  });
  handle('colleagues', ({ params, query, actor }) => service.colleagues(params.id, query.search, actor));
  handle('recordChoices', async ({ params, query, actor }) =>
    listChoices(context, await service.choosableIn(params.id, query.field, actor), query.search, actor),
  );
  handle('shownRecord', async ({ params, actor }) => new Made(JSON.stringify(await service.shown(params.id, actor))));
  handle(
    'recordForm',
    ({ params, body, actor }) => service.form(params.id, body.values, actor),
    ({ params, actor, sizeBytes }) => service.admit(params.id, actor, sizeBytes),
  );
  handle(
    'handOn',
    async ({ params, revision, body, actor, idempotencyKey, request: { guest }, reply }) => {
      const response = await service.handOn(params.id, revision, body.handOff, body.values, { actor, idempotencyKey });
      reply.header('etag', `"${response.record.revision}"`);
      if (!guest) return response;
      await intakes.follow(guest, body.values);
      return answerForGuest(response);
    },
    ({ params, actor, sizeBytes }) => service.admit(params.id, actor, sizeBytes),
  );
  publicIntakeRoutes(handle, context, intakes);
  return { service, intakes };
}
