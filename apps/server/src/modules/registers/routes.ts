import type { ServerContext } from '../../context.ts';
import { type Handle, Made } from '../../plugins/contract.ts';
import { exportRegister } from './export.ts';
import { RegisterService } from './service.ts';
import { watch } from './watching.ts';

/** Registers of workflows, for those who have a right to them. */
export function workflowRegisterRoutes(handle: Handle, context: ServerContext): void {
  const service = new RegisterService(context);
  handle('ownRegisters', ({ actor }) => service.list(actor));
  handle('register', async ({ params, actor }) => new Made(JSON.stringify(await service.describe(params.key, actor))));
  handle(
    'registerRecords',
    async ({ params, query, actor }) => new Made(JSON.stringify(await service.page(params.key, query, actor))),
  );
  handle('registerTotals', ({ params, query, actor }) => service.totals(params.key, query, actor));
  handle('exportRegister', async ({ params, query, actor, reply }) => {
    const opened = await service.open(params.key, actor);
    const { zone, locale } = context.workspace;
    const { type, ending, body } = await exportRegister(
      { service, opened, style: { zone, locale }, sheets: context.sheets },
      query,
      actor,
    );
    reply
      .type(type)
      .header(
        'content-disposition',
        `attachment; filename="${params.key}${query.table === '' ? '' : `-${query.table}`}.${ending}"`,
      );
    return reply.send(body) as never;
  });
  handle('registerViews', ({ params, actor }) => service.views(params.key, actor));
  handle('addRegisterView', ({ params, body, actor }) => service.addView(params.key, body, actor));
  handle('putRegisterView', ({ params, body, actor }) => service.putView(params.key, params.id, body, actor));
  handle('deleteRegisterView', async ({ params, actor }) => {
    await service.deleteView(params.key, params.id, actor);
    return null;
  });
  handle('watching', async ({ params, query, actor }) => watch(context, await service.open(params.key, actor), query.weeks));
}
