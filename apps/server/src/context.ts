import type { Config } from './config.ts';
import type { Database } from './db/database.ts';
import type { WallClock } from './db/wall-clock.ts';
import type { FileStore } from './modules/files/store.ts';
import type { OutletService } from './modules/outlets/service.ts';
import type { Guests } from './modules/public-intake/guests.ts';
import type { RecordWatch } from './modules/records/record-watch.ts';
import type { RegisterIndexes } from './modules/registers/indexes.ts';
import type { Questions } from './modules/registers/questions.ts';
import type { DraftWatch } from './modules/workflows/draft-watch.ts';
import type { WorkflowCache } from './modules/workflows/workflow-cache.ts';
import type { Workspace } from './modules/workspace/workspace.ts';
import type { Mailbox } from './standins/mailbox.ts';
import type { Receiver } from './standins/receiver.ts';
import type { DefinitionPool } from './workers/definition-pool.ts';
import type { SheetPool } from './workers/sheet-pool.ts';

/** What the modules of one server share. Made once at start; nothing in it belongs to a request. */
export type ServerContext = {
  readonly config: Config;
  readonly database: Database;
  readonly workspace: Workspace;
  readonly workflows: WorkflowCache;
  /** Where definitions are read, edited and compiled, off the request loop. */
  readonly definitions: DefinitionPool;
  /** Who is at which draft, and what they are told. */
  readonly watch: DraftWatch;
  readonly mailbox: Mailbox | null;
  /** The simulated web endpoint. */
  readonly receiver: Receiver | null;
  readonly files: FileStore;
  /** Where deliveries go. */
  readonly outlets: OutletService;
  /** Who is told of which changes of records. */
  readonly changes: RecordWatch;
  /** Where workbooks are written, off the request loop. */
  readonly sheets: SheetPool;
  readonly registerIndexes: RegisterIndexes;
  /** Where filters and searches run that members write. */
  readonly questions: Questions;
  readonly guests: Guests;
  readonly clock: () => number;
  /** This process's clock beside the database's. */
  readonly wallClock: WallClock;
  readonly isQueueReady: () => boolean;
};
