import { lstat, readdir, readFile } from 'node:fs/promises';
import path from 'node:path';
import type { RegisterFile, ResponseOf } from '@ypomet/contract';
import type { ServerContext } from '../../context.ts';
import type { Handle } from '../../plugins/contract.ts';
import { ProblemError } from '../../problem.ts';

type StandIns = Pick<ServerContext, 'mailbox' | 'receiver'> & {
  readonly config: Pick<ServerContext['config'], 'isDemo' | 'registersDir'>;
};

const MAX_LISTED = 500;
const TYPES: Readonly<Record<string, string>> = {
  '.json': 'application/json',
  '.csv': 'text/csv; charset=utf-8',
  '.pdf': 'application/pdf',
};

/**
 * What came to the simulated receivers of the demo: mails, requests, files, whatever is in them. Outside the demo none of it is
 * there: what was sent is read in the dispatch log, by those who may read all that it holds.
 */
export function standInRoutes(handle: Handle, { mailbox, receiver, config }: StandIns): void {
  const inDemo = (): void => {
    if (!config.isDemo) throw new ProblemError('thing/not-found');
  };
  handle('mailbox', async ({ query: { limit, after } }) => {
    inDemo();
    return mailbox ? mailbox.list(limit, after) : { entries: [], next: null };
  });

  handle('mail', async ({ params: { id } }) => {
    inDemo();
    const mail = await mailbox?.find(id);
    if (!mail) throw new ProblemError('thing/not-found');
    return mail;
  });

  const page = async (): Promise<ResponseOf<'receiver'>> => {
    inDemo();
    if (!receiver) throw new ProblemError('thing/not-found');
    return { mode: receiver.mode, address: receiver.address, entries: await receiver.list() };
  };
  handle('receiver', page);
  handle('setReceiver', async ({ body: { mode } }) => {
    if (receiver) receiver.mode = mode;
    return page();
  });

  handle('registers', () => {
    inDemo();
    return listFiles(config.registersDir);
  });
  handle('registerFile', async ({ query: { path: asked }, reply }) => {
    inDemo();
    const place = path.resolve(config.registersDir, asked);
    // Neither out of the folder nor into what is kept beside the files.
    const isWithin = place.startsWith(config.registersDir + path.sep) && !asked.split('/').some((part) => part.startsWith('.'));
    const facts = isWithin ? await lstat(place).catch(() => null) : null;
    if (!facts?.isFile()) throw new ProblemError('thing/not-found');
    const name = encodeURIComponent(path.basename(place));
    reply.type(TYPES[path.extname(place)] ?? 'application/octet-stream');
    // RFC 6266 and 8187.
    reply.header('content-disposition', `attachment; filename*=UTF-8''${name}`);
    reply.header('content-security-policy', "default-src 'none'; sandbox");
    return (await readFile(place)) as never;
  });
}

async function listFiles(root: string): Promise<RegisterFile[]> {
  const found: RegisterFile[] = [];
  const visit = async (folder: string): Promise<void> => {
    const entries = await readdir(folder, { withFileTypes: true }).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return [];
      throw error;
    });
    for (const entry of entries) {
      if (entry.name.startsWith('.') || entry.name.endsWith('.part')) continue;
      const place = path.join(folder, entry.name);
      if (entry.isDirectory()) await visit(place);
      else if (entry.isFile()) {
        const { size, mtime } = await lstat(place);
        found.push({ path: path.relative(root, place), bytes: size, changedAt: mtime.toISOString() });
      }
    }
  };
  await visit(root);
  return found.sort((a, b) => (a.changedAt < b.changedAt ? 1 : -1)).slice(0, MAX_LISTED);
}
