import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream, type ReadStream } from 'node:fs';
import { access, mkdir, readFile, rename, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { type Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { ProblemError } from '../../problem.ts';

/** Looks at contents before they are kept: their media type, or a refusal. */
export type Look = (place: string) => Promise<string>;
export type Taken = { readonly sha256: string; readonly bytes: number; readonly mediaType: string };

/** Contents of files by their SHA-256, in a folder: the same contents are kept once. */
export class FileStore {
  constructor(private readonly folder: string) {}

  /**
   * Takes in a stream of at most so many bytes. A stream that is larger, or breaks off, or whose contents are refused by a
   * look at them, leaves nothing behind.
   */
  async take(stream: Readable, maxBytes: number, look: Look): Promise<Taken> {
    await mkdir(this.folder, { recursive: true });
    const part = path.join(this.folder, `${randomUUID()}.part`);
    const hash = createHash('sha256');
    let bytes = 0;
    const counter = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        bytes += chunk.length;
        if (bytes > maxBytes) return done(new ProblemError('request/too-large'));
        hash.update(chunk);
        done(null, chunk);
      },
    });
    try {
      await pipeline(stream, counter, createWriteStream(part, { mode: 0o600 }));
      const mediaType = await look(part);
      const sha256 = hash.digest('hex');
      const target = this.placeOf(sha256);
      await mkdir(path.dirname(target), { recursive: true });
      await rename(part, target);
      return { sha256, bytes, mediaType };
    } catch (error) {
      await rm(part, { force: true });
      throw error;
    }
  }

  /** Takes in a file that lies beside, as {@link take} does a stream; it is gone from where it was. */
  async adopt(place: string, look: Look): Promise<Taken> {
    const hash = createHash('sha256');
    const mediaType = await look(place);
    for await (const chunk of createReadStream(place)) hash.update(chunk as Buffer);
    const sha256 = hash.digest('hex');
    const { size: bytes } = await stat(place);
    const target = this.placeOf(sha256);
    await mkdir(path.dirname(target), { recursive: true });
    await rename(place, target);
    return { sha256, bytes, mediaType };
  }

  /** The contents, or null when they aren't here. */
  async open(sha256: string): Promise<ReadStream | null> {
    const place = this.placeOf(sha256);
    const isHere = await access(place).then(
      () => true,
      () => false,
    );
    return isHere ? createReadStream(place) : null;
  }

  /** All of the contents; null when they aren't here. */
  async read(sha256: string): Promise<Buffer | null> {
    try {
      return await readFile(this.placeOf(sha256));
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ENOENT') return null;
      throw error;
    }
  }

  /** Removes contents that nobody refers to, unless they were handed over again since an instant (milliseconds since 1970). */
  async forget(sha256: string, since: number): Promise<void> {
    const place = this.placeOf(sha256);
    const found = await stat(place).catch(() => null);
    if (found && found.mtimeMs < since) await rm(place, { force: true });
  }

  private placeOf(sha256: string): string {
    return path.join(this.folder, sha256.slice(0, 2), sha256);
  }
}
