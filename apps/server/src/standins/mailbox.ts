import { createHash } from 'node:crypto';
import { mkdir, readdir, readFile, rename, writeFile } from 'node:fs/promises';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import type { MailDocument, MailEntry } from '@ypomet/contract';
import { type AddressObject, simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';

const MAX_BYTES = 40_000_000;

/** The simulated mailbox: every mail the stand-in took in, as files. */
export type Mailbox = {
  readonly port: number;
  readonly list: (limit: number, after: string | undefined) => Promise<{ entries: MailEntry[]; next: string | null }>;
  readonly find: (id: string) => Promise<MailDocument | null>;
  readonly close: () => Promise<void>;
};

/**
 * Starts a real SMTP server on loopback that accepts every mail and keeps it as an `.eml` file; nothing leaves the machine.
 * A mail whose Message-ID is there already is a repeat and is dropped, as a careful receiver would.
 */
export async function startMailbox(folder: string, port = 0): Promise<Mailbox> {
  await mkdir(folder, { recursive: true });
  const known = new Set((await readdir(folder)).flatMap((file) => /-([0-9a-f]{24})\.eml$/.exec(file)?.[1] ?? []));
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    size: MAX_BYTES,
    logger: false,
    onData(stream, _session, done) {
      const chunks: Buffer[] = [];
      stream.on('data', (chunk: Buffer) => chunks.push(chunk));
      stream.on('end', () => {
        if (stream.sizeExceeded) return done(new Error('552 message too large'));
        keep(folder, Buffer.concat(chunks), known).then(() => done(), done);
      });
    },
  });
  const bound = await new Promise<number>((resolve, reject) => {
    server.on('error', reject);
    const listener = server.listen(port, '127.0.0.1', () => resolve((listener.address() as AddressInfo).port));
  });
  return {
    port: bound,
    list: (limit, after) => list(folder, limit, after),
    find: (id) => find(folder, id),
    close: () => new Promise((resolve) => server.close(() => resolve())),
  };
}

/** `known`: the keys of the mails that are there. */
async function keep(folder: string, content: Buffer, known: Set<string>): Promise<void> {
  const header = /^message-id:\s*(\S+)/im.exec(content.subarray(0, 20_000).toString('latin1'));
  const key = createHash('sha256')
    .update(header?.[1] ?? content)
    .digest('hex')
    .slice(0, 24);
  if (known.has(key)) return;
  const name = `${new Date().toISOString().replace(/[-:.]/g, '')}-${key}.eml`;
  await writeFile(path.join(folder, `${name}.part`), content);
  await rename(path.join(folder, `${name}.part`), path.join(folder, name));
  known.add(key);
}

async function list(
  folder: string,
  limit: number,
  after: string | undefined,
): Promise<{ entries: MailEntry[]; next: string | null }> {
  const files = await readdir(folder);
  const names = files
    .filter((file) => file.endsWith('.eml'))
    .map((file) => file.slice(0, -4))
    .sort()
    .reverse();
  const ids = names.filter((id) => !after || id < after);
  const entries = await Promise.all(ids.slice(0, limit).map(async (id) => toEntry(await read(folder, id))));
  return { entries, next: ids.length > limit ? (ids[limit - 1] ?? null) : null };
}

async function find(folder: string, id: string): Promise<MailDocument | null> {
  try {
    return await read(folder, id);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return null;
    throw error;
  }
}

const toEntry = ({ id, from, to, subject, receivedAt }: MailDocument): MailEntry => ({ id, from, to, subject, receivedAt });

const addresses = (one: AddressObject | AddressObject[] | undefined): string[] =>
  (Array.isArray(one) ? one : one ? [one] : []).flatMap((object) => object.value.map((value) => value.address ?? value.name));

async function read(folder: string, id: string): Promise<MailDocument> {
  const parsed = await simpleParser(await readFile(path.join(folder, `${id}.eml`)), {
    skipTextToHtml: true,
    skipHtmlToText: true,
  });
  const stamp = /^(\d{4})(\d{2})(\d{2})T(\d{2})(\d{2})(\d{2})(\d{3})Z/.exec(id);
  const receivedAt = stamp ? `${stamp[1]}-${stamp[2]}-${stamp[3]}T${stamp[4]}:${stamp[5]}:${stamp[6]}.${stamp[7]}Z` : '';
  return {
    id,
    from: addresses(parsed.from)[0] ?? '',
    to: addresses(parsed.to),
    subject: parsed.subject ?? '',
    receivedAt,
    text: parsed.text ?? '',
    html: typeof parsed.html === 'string' ? parsed.html : null,
    attachments: parsed.attachments.map(({ filename, contentType, size }) => ({
      name: filename ?? '',
      mediaType: contentType,
      bytes: size,
    })),
    headers: parsed.headerLines.map(({ key, line }) => ({ name: key, value: line.slice(line.indexOf(':') + 1).trim() })),
  };
}
