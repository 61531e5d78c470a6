import { BODY_LIMITS, type FileEntry } from '@ypomet/contract';
import type { Actor } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { ProblemError } from '../../problem.ts';
import type { Guest } from '../public-intake/guests.ts';
import type { PublicIntakes } from '../public-intake/service.ts';
import { type BegunUploads, DAILY_BYTES } from './begun-uploads.ts';
import { mediaTypeOf } from './content.ts';
import type { Taken } from './store.ts';

const MEDIA_TYPE = /^[a-z0-9][a-z0-9!#$&^_.+-]{0,60}\/[a-z0-9][a-z0-9!#$&^_.+-]{0,60}$/;

/** What is said of a file by whoever hands it over. */
export type Said = { readonly name: string; readonly mediaType: string };

/** Embeddings, overrides and isolates of the Unicode Bidirectional Algorithm (UAX #9, section 2). */
const TURNING = /[\u202a-\u202e\u2066-\u2069]/;

/** Whether a name holds marks that turn the direction of its letters: "invoice[U+202E]fdp.exe" looks like "invoiceexe.pdf". */
export const isTurned = (name: string): boolean => TURNING.test(name);

/** Takes in files: who may, what they hold, and what is noted of them. However they come, they come through here. */
export class FileIntake {
  constructor(
    private readonly context: Pick<ServerContext, 'database' | 'files'>,
    private readonly intakes: PublicIntakes,
    private readonly uploads: BegunUploads,
  ) {}

  /**
   * Whether somebody may hand over a file now, before anything of it is read. Codes: `request/too-many`, `link/shut`,
   * `server/no-room`.
   */
  async admit(actor: Actor, guest: Guest | null): Promise<void> {
    const { rows } = await this.context.database.pool.query<{ bytes: number }>(
      `select coalesce(sum(bytes), 0)::float8 as bytes from files where member = $1 and at > now() - interval '1 day'`,
      [actor.id],
    );
    if ((rows[0]?.bytes ?? 0) >= DAILY_BYTES) throw new ProblemError('request/too-many', { retryAfterSeconds: 3600 });
    await this.uploads.admit(BODY_LIMITS.file, guest !== null);
    if (guest) await this.intakes.admitFile(guest);
  }

  /** Takes in a stream. */
  async take(stream: Parameters<ServerContext['files']['take']>[0], member: string, said: Said): Promise<FileEntry> {
    if (isTurned(said.name)) throw new ProblemError('file/turned-name');
    return this.note(member, said, this.context.files.take(stream, BODY_LIMITS.file, lookFor(said)));
  }

  /** Takes in a file that came in parts. */
  adopt(place: string, member: string, said: Said): Promise<FileEntry> {
    return this.note(member, said, this.context.files.adopt(place, lookFor(said)));
  }

  private async note(member: string, said: Said, taking: Promise<Taken>): Promise<FileEntry> {
    const { sha256, bytes, mediaType } = await taking;
    if (bytes === 0) throw new ProblemError('file/empty');
    const name = said.name.normalize('NFC');
    await this.context.database.pool.query(
      `insert into files (sha256, member, name, media_type, bytes) values ($1, $2, $3, $4, $5)
       on conflict (member, sha256, name) do update set media_type = excluded.media_type, at = now()`,
      [sha256, member, name, mediaType, bytes],
    );
    return { name, mediaType, bytes, sha256 };
  }
}

const lookFor =
  ({ name, mediaType }: Said) =>
  (place: string): Promise<string> => {
    const written = mediaType.split(';')[0]?.trim().toLowerCase() ?? '';
    return mediaTypeOf(place, name, MEDIA_TYPE.test(written) ? written : '');
  };
