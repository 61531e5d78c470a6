import type { ServerContext } from '../../context.ts';
import { type Handle, Made } from '../../plugins/contract.ts';
import { Desk } from './service.ts';

/** The desk of a member, and what they may begin. */
export function deskRoutes(handle: Handle, context: ServerContext): void {
  const desk = new Desk(context);
  handle('intakes', ({ actor }) => desk.intakes(actor));
  handle('desk', ({ actor, query }) => desk.waiting(actor, query));
  handle('deskSummary', ({ actor }) => desk.summary(actor));
  handle('submitted', ({ actor, query }) => desk.submitted(actor, query));
  handle('deskWorkflow', async ({ params, actor }) => new Made(JSON.stringify(await desk.describe(params.key, actor))));
  handle('deskViews', ({ actor }) => desk.views(actor));
  handle('addDeskView', ({ body, actor }) => desk.addView(body, actor));
  handle('putDeskView', ({ params, body, actor }) => desk.putView(params.id, body, actor));
  handle('deleteDeskView', async ({ params, actor }) => {
    await desk.deleteView(params.id, actor);
    return null;
  });
}
