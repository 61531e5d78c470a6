import type { Style } from '@ypomet/core';
import { useSession } from '../session/queries.ts';

/** How a register's values are written: by the workspace's clock and language, with the names that came with them. */
export function useRegisterStyle(names: Readonly<Record<string, string>>): Style {
  const { workspace } = useSession();
  return { locale: workspace.locale, zone: workspace.zone, nameOf: (id) => names[id] ?? null };
}
