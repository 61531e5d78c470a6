import type { ServerContext } from '../../context.ts';
import type { Handle } from '../../plugins/contract.ts';

export function workspaceRoutes(handle: Handle, { workspace }: ServerContext): void {
  handle('putCalendar', async ({ body }) => {
    await workspace.putCalendar(body);
    return workspace.told();
  });

  handle('putNextPages', async ({ body }) => {
    await workspace.putNextPages(body.addresses);
    return workspace.told();
  });
}
