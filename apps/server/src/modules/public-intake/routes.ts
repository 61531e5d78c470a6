import type { ServerContext } from '../../context.ts';
import { type Handle, Made } from '../../plugins/contract.ts';
import { PublicLinks } from './links.ts';
import type { PublicIntakes } from './service.ts';

/** Public links: set up by analysts, used by whoever has their address. */
export function publicIntakeRoutes(handle: Handle, context: ServerContext, intakes: PublicIntakes): void {
  const links = new PublicLinks(context);
  handle('publicLinks', ({ params }) => links.list(params.key));
  handle('putPublicLink', ({ params, body }) => links.put(params.key, params.stage, body));
  handle('renewPublicLink', ({ params }) => links.renew(params.key, params.stage));
  handle('publicIntake', async ({ params }) => new Made(JSON.stringify(await intakes.open(params.address))));
  handle(
    'publicForm',
    async ({ params, body, guest, actor }) =>
      new Made(JSON.stringify(await intakes.form(params.address, body.values, guest, actor))),
  );
  handle('beginPublicly', ({ params, body, guest, actor, idempotencyKey }) =>
    intakes.begin(params.address, body, guest, { actor, idempotencyKey }),
  );
  handle('confirmAddress', async ({ body }) => ({
    address: await context.guests.confirm(body.token),
    workspace: context.workspace.name,
  }));
  handle('followed', ({ guest, actor }) => intakes.followed(guest, actor));
}
