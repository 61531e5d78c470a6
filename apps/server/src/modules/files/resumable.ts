import { AsyncLocalStorage } from 'node:async_hooks';
import { randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { FileStore as PartStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import { BODY_LIMITS, FileName, UPLOADS_PATH } from '@ypomet/contract';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { rateKeyOf, requireActor } from '../../plugins/sessions.ts';
import { makeProblem, ProblemError } from '../../problem.ts';
import type { FileIntake, Said } from './intake.ts';

/** How long a file that wasn't handed over whole can be gone on with. */
export const PARTS_KEPT_MS = 24 * 3_600_000;
/** New files, and requests in all, that one member or guest may send a minute. */
const NEW_A_MINUTE = 120;
const REQUESTS_A_MINUTE = 1200;

/** Whose request the protocol's server is at. */
const asking = new AsyncLocalStorage<string>();

/** Where parts wait for the rest of their file. */
export function makePartStore(dataDir: string): PartStore {
  const directory = path.join(dataDir, 'files', 'parts');
  mkdirSync(directory, { recursive: true });
  return new PartStore({ directory, expirationPeriodInMilliseconds: PARTS_KEPT_MS });
}

type Answer = { readonly status_code: number; readonly body: string };

/**
 * Files handed over in parts that can be gone on with, by the tus protocol 1.0.0 (creation, expiration, termination), as
 * `@tus/server` has it. The last part is answered with the file as a field names it, or with problem details. Whose a
 * file is stands in the name of its parts: nobody else finds it.
 */
export async function resumableUploads(app: FastifyInstance, parts: PartStore, intake: FileIntake): Promise<void> {
  const server = new Server({
    path: UPLOADS_PATH,
    datastore: parts,
    relativeLocation: true,
    maxSize: BODY_LIMITS.file,
    namingFunction: () => `${asking.getStore()}_${randomUUID()}`,
    onUploadCreate: async (_request, { metadata, size }) => {
      if (size === undefined) throw asAnswer(new ProblemError('request/invalid', { path: 'Upload-Length' }));
      if (size === 0) throw asAnswer(new ProblemError('file/empty'));
      if (!saidOf(metadata)) throw asAnswer(new ProblemError('request/invalid', { path: 'Upload-Metadata.filename' }));
      return {};
    },
    onUploadFinish: async (_request, { id, metadata, storage }) => {
      const said = saidOf(metadata);
      const member = asking.getStore();
      if (!said || !storage || !member) throw new Error(`an upload ${id} without what it was begun with`);
      try {
        const entry = await intake.adopt(storage.path, member, said);
        await parts.configstore.delete(id);
        return { status_code: 200, headers: { 'content-type': 'application/json' }, body: JSON.stringify(entry) };
      } catch (error) {
        await parts.remove(id);
        throw asAnswer(error);
      }
    },
  });
  await app.register(async (own) => {
    own.removeAllContentTypeParsers();
    // The body is read as it comes, by the protocol.
    own.addContentTypeParser('*', (_request, _payload, done) => done(null));
    const limit = (max: number) => own.rateLimit({ max, timeWindow: 60_000, keyGenerator: rateKeyOf });
    const onRequest = [async (request: FastifyRequest) => void requireActor(request)];
    const answer = async (request: FastifyRequest, reply: FastifyReply): Promise<void> => {
      for (const [name, value] of Object.entries(reply.getHeaders())) if (value !== undefined) reply.raw.setHeader(name, value);
      reply.hijack();
      await asking.run(requireActor(request).id, () => server.handle(request.raw, reply.raw));
    };
    own.route({
      method: 'POST',
      url: UPLOADS_PATH,
      onRequest: [
        ...onRequest,
        limit(NEW_A_MINUTE) as never,
        async (request) => intake.admit(requireActor(request), request.guest),
      ],
      handler: answer,
    });
    own.route<{ Params: { id: string } }>({
      method: ['HEAD', 'PATCH', 'DELETE'],
      url: `${UPLOADS_PATH}/:id`,
      onRequest: [
        ...onRequest,
        limit(REQUESTS_A_MINUTE) as never,
        async (request) => {
          if (!request.params.id.startsWith(`${requireActor(request).id}_`)) throw new ProblemError('thing/not-found');
        },
      ],
      handler: answer,
    });
  });
}

/** What was said of a file when it was begun; null where its name is none. */
function saidOf(metadata: Upload['metadata']): Said | null {
  const name = FileName.safeParse(metadata?.filename ?? '');
  return name.success ? { name: name.data, mediaType: metadata?.filetype ?? '' } : null;
}

/** A refusal as the protocol's server answers it. What isn't one is told as a fault, without its text. */
function asAnswer(error: unknown): Answer {
  const problem = error instanceof ProblemError ? error.problem : makeProblem('server/fault');
  return { status_code: problem.status, body: JSON.stringify(problem) };
}
