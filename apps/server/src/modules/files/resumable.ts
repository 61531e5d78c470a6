import { AsyncLocalStorage } from 'node:async_hooks';
import { randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { Readable } from 'node:stream';
import { FileStore as PartStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import { BODY_LIMITS, FileName, UPLOADS_PATH } from '@ypomet/contract';
import type { Actor } from '@ypomet/core';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { toProblem } from '../../plugins/problems.ts';
import { rateKeyOf, requireActor } from '../../plugins/sessions.ts';
import { makeProblem, ProblemError } from '../../problem.ts';
import type { Guest } from '../public-intake/guests.ts';
import { type BegunUploads, PARTS_KEPT_MS } from './begun-uploads.ts';
import { type FileIntake, isTurned, type Said } from './intake.ts';

/** New files, and requests in all, that one member or guest may send a minute. */
const NEW_A_MINUTE = 120;
const REQUESTS_A_MINUTE = 1200;

/** Whose request the protocol's server is at. */
const asking = new AsyncLocalStorage<Asking>();

/** Where parts wait for the rest of their file. */
export function makePartStore(dataDir: string): PartStore {
  const directory = path.join(dataDir, 'files', 'parts');
  mkdirSync(directory, { recursive: true });
  return new PartStore({ directory, expirationPeriodInMilliseconds: PARTS_KEPT_MS });
}

type Asking = { readonly actor: Actor; readonly guest: Guest | null; readonly address: string };
type Answer = { readonly status_code: number; readonly body: string };

/**
 * Files handed over in parts that can be gone on with, by the tus protocol 1.0.0 (creation, expiration, termination), as
 * `@tus/server` has it. The last part is answered with the file as a field names it; refusals are problem details. Whose a
 * file is stands in the name of its parts: nobody else finds it.
 */
export async function resumableUploads(
  app: FastifyInstance,
  parts: PartStore,
  intake: FileIntake,
  uploads: BegunUploads,
): Promise<void> {
  /** Ends an upload, and answers with why. */
  const giveUp = async (id: string, error: unknown): Promise<Answer> => {
    await uploads.end(id);
    return asAnswer(error);
  };
  const server = new Server({
    path: UPLOADS_PATH,
    datastore: parts,
    relativeLocation: true,
    maxSize: BODY_LIMITS.file,
    onResponseError: (_request, error) => {
      // Refusals, of the tus protocol or of our own checks, carry a status and are answered with it. Any other error comes from
      // storing the upload, for example a full disk.
      if ('status_code' in error) return undefined;
      app.log.error({ err: { name: error.name, message: error.message, stack: error.stack } }, 'fault of an upload');
      return asAnswer(error);
    },
    namingFunction: () => `${asking.getStore()?.actor.id}_${randomUUID()}`,
    onUploadCreate: async (_request, { id, metadata, size }) => {
      const own = asking.getStore();
      if (!own || size === undefined) throw asAnswer(new ProblemError('request/invalid', { path: 'Upload-Length' }));
      if (size === 0) throw asAnswer(new ProblemError('file/empty'));
      const said = saidOf(metadata);
      if (!said) throw asAnswer(new ProblemError('request/invalid', { path: 'Upload-Metadata.filename' }));
      if (isTurned(said.name)) throw asAnswer(new ProblemError('file/turned-name'));
      await uploads.begin({ id, bytes: size, ...own }).catch((error: unknown) => {
        throw asAnswer(error);
      });
      return {};
    },
    onUploadFinish: async (_request, { id, metadata, storage }) => {
      const said = saidOf(metadata);
      const member = asking.getStore()?.actor.id;
      if (!said || !storage || !member) throw new Error(`an upload ${id} without what it was begun with`);
      try {
        const entry = await intake.adopt(storage.path, member, said);
        await parts.configstore.delete(id);
        await uploads.end(id);
        return { status_code: 200, headers: { 'content-type': 'application/json' }, body: JSON.stringify(entry) };
      } catch (error) {
        await parts.remove(id);
        throw await giveUp(id, error);
      }
    },
  });
  await app.register(async (own) => {
    own.removeAllContentTypeParsers();
    // The body is read as it comes, by the protocol.
    own.addContentTypeParser('*', (_request, _payload, done) => done(null));
    const limit = (max: number) => own.rateLimit({ max, timeWindow: 60_000, keyGenerator: rateKeyOf });
    const onRequest = [async (request: FastifyRequest) => void requireActor(request)];
    const answer = async (request: FastifyRequest, reply: FastifyReply): Promise<unknown> => {
      const whose = { actor: requireActor(request), guest: request.guest, address: request.ip };
      const response = await asking.run(whose, () => server.handleWeb(toWebRequest(request)));
      return sendAnswer(response, reply);
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
          const [whose, name = ''] = request.params.id.split('_');
          if (whose !== requireActor(request).id || !UPLOAD.test(name)) throw new ProblemError('thing/not-found');
        },
      ],
      handler: async (request, reply) => {
        const sent = await answer(request, reply);
        if (request.method === 'DELETE' && reply.statusCode === 204) await uploads.end(request.params.id);
        return sent;
      },
    });
  });
}

/** What follows whose it is in an upload's name: nothing that could be another file beside its parts. */
const UPLOAD = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

/** A request as the protocol's server reads it, with its body as a stream. */
function toWebRequest({ raw }: FastifyRequest): Request {
  const headers = new Headers();
  for (const [name, value] of Object.entries(raw.headers)) if (typeof value === 'string') headers.set(name, value);
  const hasBody = raw.method === 'PATCH' || raw.method === 'POST';
  return new Request(`http://uploads.invalid${raw.url}`, {
    method: raw.method ?? 'GET',
    headers,
    ...(hasBody ? { body: Readable.toWeb(raw) as ReadableStream, duplex: 'half' } : {}),
  });
}

/** Headers of the protocol; others of its server (such as those that open it to pages of other sites) aren't passed on. */
const PASSED_ON = /^(upload-|tus-|location$|content-type$)/;

/** Sends what the protocol's server answered: refusals as problem details, whatever form they had. */
async function sendAnswer(response: Response, reply: FastifyReply): Promise<unknown> {
  const text = await response.text();
  reply.code(response.status);
  response.headers.forEach((value, name) => {
    if (PASSED_ON.test(name)) reply.header(name, value);
  });
  if (response.status < 400) return reply.send(text === '' ? undefined : text);
  return reply.type('application/problem+json').send(text.startsWith('{') ? text : JSON.stringify(problemFor(response.status)));
}

/** The problem that a status of the protocol's server means. */
function problemFor(status: number) {
  switch (status) {
    case 404:
    case 410:
      return makeProblem('thing/not-found');
    case 409:
      return makeProblem('upload/offset');
    case 413:
      return makeProblem('request/too-large');
    default:
      return makeProblem(status >= 500 ? 'server/fault' : 'request/invalid');
  }
}

/** What was said of a file when it was begun; null where its name is none. */
function saidOf(metadata: Upload['metadata']): Said | null {
  const name = FileName.safeParse(metadata?.filename ?? '');
  return name.success ? { name: name.data, mediaType: metadata?.filetype ?? '' } : null;
}

/** An error as the protocol's server answers it: a refusal, a full disk or a database that is away. Others are told as a fault, without their text. */
function asAnswer(error: unknown): Answer {
  const problem = toProblem(error instanceof Error ? error : new Error('not an error'));
  return { status_code: problem.status, body: JSON.stringify(problem) };
}
