import type { ServerContext } from '../../context.ts';
import type { Handle } from '../../plugins/contract.ts';
import { openStream } from '../../plugins/streams.ts';
import { type Draft, WorkflowService } from './service.ts';

export function workflowRoutes(handle: Handle, context: ServerContext): void {
  const service = new WorkflowService(context);
  const answer = (reply: { header: (name: string, value: string) => unknown }, draft: Draft) => {
    reply.header('etag', `"${draft.revision}"`);
    return draft.document;
  };
  handle('workflows', ({ query }) => service.list(query.find ?? ''));
  handle('createWorkflow', async ({ text, actor, reply }) => answer(reply, await service.create(text, actor.id)));
  handle('changeWorkflow', ({ params, body }) => service.change(params.key, body));
  handle('draft', async ({ params, reply }) => answer(reply, await service.draft(params.key)));
  handle('editDraft', async ({ params, revision, text, actor, reply }) => {
    const draft = await service.edit(params.key, revision, text, actor.id);
    reply.header('etag', `"${draft.revision}"`);
    return { revision: draft.revision, differs: draft.differs };
  });
  handle('draftEdits', ({ params, query }) => service.edits(params.key, query.since ?? null, query.after, query.limit));
  handle('draftAt', ({ params }) => service.at(params.key, params.revision));
  handle('standAt', async ({ params, body, actor }) => {
    await context.watch.standAt(params.key, body.tab, actor.name, body.part);
    return null;
  });
  handle('watchDraft', async ({ params, query, actor, request, reply }) => {
    await service.draft(params.key);
    const end = await context.watch.open(params.key, actor.id, query.tab, () => openStream(reply));
    request.raw.on('close', end);
    return reply as never;
  });
  handle('replaceDraft', async ({ params, revision, text, actor, reply }) =>
    answer(reply, await service.replace(params.key, revision, text, actor.id)),
  );
  handle('exportDraft', async ({ params, reply }) => {
    const text = await service.export(params.key);
    reply
      .header('content-disposition', `attachment; filename="${params.key}.ypomet.json"`)
      .type('application/json')
      .serializer((payload: unknown) => payload as string);
    return text;
  });
  handle('neighbours', ({ params }) => service.neighbours(params.key));
  handle('versions', ({ params }) => service.versions(params.key));
  handle('version', ({ params }) => service.version(params.key, params.number));
  handle('publish', ({ params, revision, body, actor }) =>
    service.publish(
      [{ key: params.key, revision, accepted: body?.accepted ?? [] }, ...(body?.together ?? [])],
      body?.notes ?? '',
      actor.id,
    ),
  );
  handle('publication', ({ params, query }) =>
    service.checkPublication(
      params.key,
      query.along.split(',').filter((key) => key !== ''),
    ),
  );
}
