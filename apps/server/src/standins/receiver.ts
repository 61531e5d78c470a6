import { randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile, rename, writeFile } from 'node:fs/promises';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import type { ReceivedRequest, ReceiverMode } from '@ypomet/contract';
import { RECEIVER_OPENAPI } from './receiver-openapi.ts';

const MAX_BYTES = 12_000_000;
const SHOWN = 100;
const SLOW_MS = 3000;
/** What is shown of a body. */
const SHOWN_BODY = 20_000;

/** The simulated web endpoint: an insurer that gives quotes, and takes in whatever else is sent to it. */
export type Receiver = {
  readonly address: string;
  /** Its host with its port. */
  readonly host: string;
  mode: ReceiverMode;
  readonly list: () => Promise<ReceivedRequest[]>;
  readonly close: () => Promise<void>;
};

/**
 * Starts an HTTP server on loopback that keeps every request as a file, and answers as it is told to; nothing leaves the
 * machine. A delivery whose key came before is a repeat: it gets the answer of before, as a careful receiver would give.
 */
export async function startReceiver(folder: string, port = 0): Promise<Receiver> {
  await mkdir(folder, { recursive: true });
  const answered = await readAnswered(folder);
  const state = { mode: 'answers' as ReceiverMode };
  const server = createServer((request, response) => {
    take(request, response, folder, state, answered).catch(() => response.destroy());
  });
  server.requestTimeout = 60_000;
  const bound = await listen(server, folder, port);
  const host = `127.0.0.1:${bound}`;
  return Object.assign(state, {
    address: `http://${host}`,
    host,
    list: () => list(folder),
    close: () =>
      new Promise<void>((resolve) => {
        server.closeAllConnections();
        server.close(() => resolve());
      }),
  });
}

/** Listens on a port, or on the one it had before, so that outlets find it again after a restart; else on any that is free. */
async function listen(server: Server, folder: string, port: number): Promise<number> {
  const file = path.join(folder, 'port');
  const before = port > 0 ? port : Number(await readFile(file, 'utf8').catch(() => '0'));
  const tryOne = (own: number): Promise<void> =>
    new Promise((resolve, reject) => {
      server.once('error', reject);
      server.listen(own, '127.0.0.1', () => {
        server.removeListener('error', reject);
        resolve();
      });
    });
  await tryOne(before).catch((error: NodeJS.ErrnoException) => {
    if (port > 0 || error.code !== 'EADDRINUSE') throw error;
    return tryOne(0);
  });
  const bound = (server.address() as AddressInfo).port;
  await writeFile(file, String(bound));
  return bound;
}

type Answered = Map<string, { readonly status: number; readonly answer: string }>;

async function readBody(request: IncomingMessage): Promise<string | null> {
  const chunks: Buffer[] = [];
  let bytes = 0;
  for await (const chunk of request as AsyncIterable<Buffer>) {
    bytes += chunk.length;
    if (bytes > MAX_BYTES) return null;
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString('utf8');
}

async function take(
  request: IncomingMessage,
  response: ServerResponse,
  folder: string,
  state: { readonly mode: ReceiverMode },
  answered: Answered,
): Promise<void> {
  const url = new URL(request.url ?? '/', 'http://receiver.invalid');
  if (request.method === 'GET' && url.pathname === '/openapi.json') {
    response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(RECEIVER_OPENAPI));
    return;
  }
  const body = await readBody(request);
  if (body === null) {
    response.writeHead(413).end();
    return;
  }
  if (request.method === 'GET') {
    response.writeHead(200, { 'content-type': 'application/json' }).end('{"service":"quotes"}');
    return;
  }
  const key = request.headers['idempotency-key'];
  const delivery = typeof key === 'string' ? key : null;
  const known = delivery === null ? undefined : answered.get(delivery);
  const made = known ?? answerTo(url.pathname, body);
  const { mode } = state;
  const fails = mode === 'hangs' || mode === 'breaks';
  const shown =
    mode === 'error'
      ? { status: 500, answer: '{"error":"told to fail"}' }
      : mode === 'no-json'
        ? { status: 200, answer: '<p>Thank you</p>' }
        : made;
  const entry: ReceivedRequest = {
    id: `${new Date().toISOString().replace(/[-:.]/g, '')}-${randomUUID().slice(0, 8)}`,
    at: new Date().toISOString(),
    method: request.method ?? '',
    path: request.url ?? '',
    headers: Object.entries(request.headers).map(([name, value]) => ({ name, value: String(value) })),
    body: body.slice(0, SHOWN_BODY),
    delivery,
    isRepeat: known !== undefined,
    status: fails ? null : shown.status,
    answer: fails ? '' : shown.answer,
  };
  if (delivery !== null && mode !== 'error') answered.set(delivery, made);
  await keep(folder, entry);
  answer(response, mode, shown);
}

function answer(
  response: ServerResponse,
  mode: ReceiverMode,
  { status, answer: text }: { readonly status: number; readonly answer: string },
): void {
  const send = (): void => {
    response.writeHead(status, { 'content-type': mode === 'no-json' ? 'text/html' : 'application/json' }).end(text);
  };
  switch (mode) {
    case 'hangs':
      // Whoever asked gives up first.
      return;
    case 'breaks':
      response.destroy();
      return;
    case 'slow':
      setTimeout(send, SLOW_MS).unref();
      return;
    case 'twice':
      // A second answer that nobody asked for, on the same connection.
      response.on('finish', () => {
        const { socket } = response;
        socket?.write(
          `HTTP/1.1 200 OK\r\ncontent-type: application/json\r\ncontent-length: ${Buffer.byteLength(text)}\r\n\r\n${text}`,
        );
      });
      send();
      return;
    default:
      send();
  }
}

/** A quote: the premium by value and class, and a number for it. */
function answerTo(pathname: string, body: string): { readonly status: number; readonly answer: string } {
  if (pathname !== '/quotes') return { status: 200, answer: '{"taken":true}' };
  const asked = readJson(body);
  const value = Number(asked?.value);
  if (!Number.isFinite(value) || value < 0)
    return { status: 422, answer: '{"error":"value must be a number that isn’t negative"}' };
  const rate = ({ basic: 0.0012, standard: 0.0019, special: 0.0031 } as Record<string, number>)[String(asked?.class)] ?? 0.0025;
  const premium = Math.max(40, Math.round(value * rate * 100) / 100);
  const quote = `Q-${String(asked?.loan ?? 'none')}`;
  return { status: 200, answer: JSON.stringify({ quote, premium, currency: 'EUR' }) };
}

function readJson(text: string): Record<string, unknown> | null {
  try {
    const json: unknown = JSON.parse(text);
    return typeof json === 'object' && json !== null ? (json as Record<string, unknown>) : null;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}

async function keep(folder: string, entry: ReceivedRequest): Promise<void> {
  const place = path.join(folder, `${entry.id}.json`);
  await writeFile(`${place}.part`, JSON.stringify(entry));
  await rename(`${place}.part`, place);
}

async function namesIn(folder: string): Promise<readonly string[]> {
  const names = await readdir(folder);
  return names
    .filter((name) => name.endsWith('.json'))
    .sort()
    .reverse();
}

const read = async (folder: string, name: string): Promise<ReceivedRequest> =>
  JSON.parse(await readFile(path.join(folder, name), 'utf8')) as ReceivedRequest;

async function list(folder: string): Promise<ReceivedRequest[]> {
  const names = await namesIn(folder);
  return Promise.all(names.slice(0, SHOWN).map((name) => read(folder, name)));
}

/** Reads back what deliveries were answered before a restart. What was only shown in the mode `no-json` is no answer. */
async function readAnswered(folder: string): Promise<Answered> {
  const answered: Answered = new Map();
  for (const name of await namesIn(folder)) {
    const { delivery, status, answer: text, isRepeat } = await read(folder, name);
    const isAnswer = status !== null && status < 500 && readJson(text) !== null;
    if (delivery !== null && isAnswer && !isRepeat) answered.set(delivery, { status, answer: text });
  }
  return answered;
}
