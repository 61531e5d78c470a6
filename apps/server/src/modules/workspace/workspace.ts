import { CalendarSettings, makeCalendar, ORDINARY_CALENDAR, type WorkingCalendar } from '@ypomet/core';
import { sql } from 'drizzle-orm';
import type { FastifyBaseLogger } from 'fastify';
import type { Database } from '../../db/database.ts';
import { workspace } from '../../db/schema.ts';

export type WorkspaceNames = { readonly name: string; readonly zone: string; readonly locale: string };

/** Other processes know of a change within this time. */
const EVERY_MS = 5000;

/** The workspace's settings. Name, zone and language stay as they are while a server runs; its working calendar and next pages may change. */
export class Workspace {
  private settings: CalendarSettings = CalendarSettings.parse({});
  private counted: WorkingCalendar = ORDINARY_CALENDAR;
  private pages: readonly string[] = [];
  private stored = '';

  private constructor(
    private readonly database: Database,
    readonly name: string,
    readonly zone: string,
    readonly locale: string,
  ) {}

  /** Reads the settings; where there are none yet, `initial` are kept. */
  static async open(database: Database, initial: WorkspaceNames): Promise<Workspace> {
    await database.drizzle
      .insert(workspace)
      .values({ id: 1, ...initial })
      .onConflictDoNothing();
    const [row = initial] = await database.drizzle.select().from(workspace).where(sql`${workspace.id} = 1`);
    const opened = new Workspace(database, row.name, row.zone, row.locale);
    await opened.refresh();
    return opened;
  }

  /** What working days and hours count in. */
  get counting(): WorkingCalendar {
    return this.counted;
  }

  get calendar(): CalendarSettings {
    return this.settings;
  }

  /** Pages that answers may lead to. */
  get nextPages(): readonly string[] {
    return this.pages;
  }

  /** What everybody who is signed in may know. */
  told(): WorkspaceNames & { readonly calendar: CalendarSettings; readonly nextPages: string[] } {
    const { name, zone, locale, calendar, nextPages } = this;
    return { name, zone, locale, calendar, nextPages: [...nextPages] };
  }

  /** Keeps other pages that answers may lead to. An answer that leads elsewhere from then on offers no page. */
  async putNextPages(nextPages: readonly string[]): Promise<void> {
    await this.database.drizzle
      .update(workspace)
      .set({ nextPages: [...new Set(nextPages)] })
      .where(sql`${workspace.id} = 1`);
    await this.refresh();
  }

  /** Keeps another calendar. Due dates that stand are counted again when a value they read changes. */
  async putCalendar(calendar: CalendarSettings): Promise<void> {
    await this.database.drizzle.update(workspace).set({ calendar }).where(sql`${workspace.id} = 1`);
    await this.refresh();
  }

  /** Reads what may have changed anew: another process may have changed it. */
  async refresh(): Promise<void> {
    const [row] = await this.database.drizzle
      .select({ calendar: workspace.calendar, nextPages: workspace.nextPages })
      .from(workspace)
      .where(sql`${workspace.id} = 1`);
    const stored = JSON.stringify(row ?? {});
    if (stored === this.stored) return;
    this.stored = stored;
    this.settings = CalendarSettings.parse(row?.calendar ?? {});
    this.counted = makeCalendar(this.settings);
    this.pages = row?.nextPages ?? [];
  }

  /** Reads it anew again and again, until it is stopped. */
  follow(log: FastifyBaseLogger): { readonly stop: () => void } {
    const timer = setInterval(() => {
      this.refresh().catch((error: Error) => log.warn({ message: error.message }, 'the workspace’s settings were not read'));
    }, EVERY_MS).unref();
    return { stop: () => clearInterval(timer) };
  }
}
