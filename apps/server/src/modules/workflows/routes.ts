import { workflowJsonSchema } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import type { Handle } from '../../plugins/contract.ts';
import { WorkflowService } from './service.ts';

export function workflowRoutes(handle: Handle, context: ServerContext): void {
  const service = new WorkflowService(context);
  handle('workflowSchema', async () => workflowJsonSchema());
  handle('workflows', () => service.list());
  handle('createWorkflow', ({ body }) => service.create(body));
  handle('draft', async ({ params, reply }) => {
    const draft = await service.draft(params.key);
    reply.header('etag', `"${draft.revision}"`);
    return draft;
  });
  handle('editDraft', async ({ params, revision, body, actor, reply }) => {
    const draft = await service.edit(params.key, revision, body.edits, actor.id);
    reply.header('etag', `"${draft.revision}"`);
    return { revision: draft.revision, differs: draft.differs };
  });
  handle('replaceDraft', ({ params, revision, body, actor }) => service.replace(params.key, revision, body, actor.id));
  handle('exportDraft', async ({ params, reply }) => {
    const text = await service.export(params.key);
    reply
      .header('content-disposition', `attachment; filename="${params.key}.ypomet.json"`)
      .type('application/json')
      .serializer((payload: unknown) => payload as string);
    return text;
  });
  handle('versions', ({ params }) => service.versions(params.key));
  handle('version', ({ params }) => service.version(params.key, params.number));
  handle('publish', ({ params, revision, actor }) => service.publish(params.key, revision, actor.id));
}
