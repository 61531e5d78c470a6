import type { Config } from './config.ts';
import type { Database } from './db/database.ts';
import type { DraftWatch } from './modules/workflows/draft-watch.ts';
import type { WorkflowCache } from './modules/workflows/workflow-cache.ts';
import type { Mailbox } from './standins/mailbox.ts';
import type { DefinitionPool } from './workers/definition-pool.ts';

export type WorkspaceSettings = { readonly name: string; readonly zone: string; readonly locale: string };

/** What the modules of one server share. Made once at start; nothing in it belongs to a request. */
export type ServerContext = {
  readonly config: Config;
  readonly database: Database;
  readonly workspace: WorkspaceSettings;
  readonly workflows: WorkflowCache;
  /** Where definitions are read, edited and compiled, off the request loop. */
  readonly definitions: DefinitionPool;
  /** Who is at which draft, and what they are told. */
  readonly watch: DraftWatch;
  readonly mailbox: Mailbox | null;
  readonly clock: () => number;
  readonly isQueueReady: () => boolean;
};
