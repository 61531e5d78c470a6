import type { ServerContext } from '../../context.ts';
import type { Handle } from '../../plugins/contract.ts';

export function outletRoutes(handle: Handle, { outlets }: ServerContext): void {
  handle('outlets', () => outlets.list());
  handle('putOutlet', ({ params: { key }, body }) => outlets.put(key, body));
  handle('deleteOutlet', ({ params: { key } }) => outlets.remove(key));
  handle('tryOutlet', ({ params: { key } }) => outlets.try(key));
  handle('mailMe', ({ params: { key }, body, actor }) => outlets.mailTo(key, actor, body.subject, body.body));
}
