import type { ServerContext } from '../../context.ts';
import { type Handle, Made } from '../../plugins/contract.ts';
import type { RecordService } from '../records/service.ts';
import { findUnfinished, forgetUnfinished, keepUnfinished, listUnfinished } from './repository.ts';

const NOTHING = { entered: {}, base: {}, revision: 0, at: null, names: {} };

/** Forms that members began to fill in: each sees and changes their own alone. */
export function unfinishedRoutes(handle: Handle, context: ServerContext, records: RecordService): void {
  const { pool } = context.database;
  handle('unfinishedForms', ({ actor }) => listUnfinished(pool, actor.id));
  handle('unfinishedForm', async ({ params, actor }) => {
    const found = await findUnfinished(pool, actor.id, params.place);
    const names = found && (await records.namesIn(params.place, found.entered, actor));
    return new Made(JSON.stringify(found ? { ...found, names } : NOTHING));
  });
  handle(
    'keepUnfinishedForm',
    async ({ params, actor, body, revision }) => {
      const title = await records.titleOfForm(params.place, actor);
      const kept = { member: actor.id, place: params.place, title, content: body };
      return { revision: await keepUnfinished(pool, kept, revision) };
    },
    async ({ params, actor, sizeBytes }) => {
      const [kind, of = '', stage = null] = params.place.split('.');
      if (kind === 'record') await records.admit(of, actor, sizeBytes);
      else await records.admitIntake(of, stage, actor);
    },
  );
  handle('forgetUnfinishedForm', async ({ params, actor }) => {
    await forgetUnfinished(pool, actor.id, params.place);
    return null;
  });
}
