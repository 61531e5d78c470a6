import { randomBytes, randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { MAX_IMPORTED } from '@ypomet/contract/limits';
import { DEMO_MEMBERS } from '@ypomet/server/demo/members';
import { signIn, startServer } from './hand-offs.ts';
import { median } from './measure.ts';
import type { Figure } from './report.ts';

const ROWS = 10_000;
const UPLOAD_BYTES = 49_000_000;
const TOLD = 20;
/** How long the server is under load for its memory; the first part of it warms it up. */
const MEMORY_MINUTES = Number(process.env.BENCH_MEMORY_MINUTES ?? 2);
const CLIENTS = 8;

type Call = (method: string, path: string, body?: unknown, headers?: Record<string, string>) => Promise<Response>;

const caller =
  (base: string, cookie: string): Call =>
  async (method, path, body, headers = {}) => {
    const response = await fetch(`${base}${path}`, {
      method,
      headers: { cookie, origin: base, ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
      body: body === undefined ? null : JSON.stringify(body),
    });
    if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
    return response;
  };

const loan = (index: number) => ({
  borrower: `Gallery ${index}`,
  borrowerEmail: `g${index}@gallery.invalid`,
  kind: 'exhibition',
  venue: 'home',
  fromDate: '2027-03-02',
  toDate: '2027-06-11',
  objects: [{ id: 'a', values: { title: `Study ${index}`, material: 'metal', insuredValue: String(index + 1) } }],
});

/** Begins many loans in parts, as the page for sheets does; milliseconds. */
async function importRows(call: Call, isTrial: boolean, count: number): Promise<number> {
  const run = randomUUID();
  const start = performance.now();
  for (let from = 0; from < count; from += MAX_IMPORTED) {
    const rows = Array.from({ length: MAX_IMPORTED }, (_, index) => ({ line: from + index + 2, values: loan(from + index) }));
    const answer = await call('POST', '/api/intakes/objectLoan/request/imports', { handOff: 'submit', run, isTrial, rows });
    const { rows: told } = (await answer.json()) as { rows: readonly { isBegun: boolean }[] };
    if (told.some(({ isBegun }) => !isBegun)) throw new Error(`not begun: ${JSON.stringify(told.find((one) => !one.isBegun))}`);
  }
  return performance.now() - start;
}

async function exportAll(call: Call, format: string): Promise<{ readonly ms: number; readonly bytes: number }> {
  const start = performance.now();
  const answer = await call('GET', `/api/registers/objectLoan/export?format=${format}`);
  const bytes = (await answer.arrayBuffer()).byteLength;
  return { ms: performance.now() - start, bytes };
}

async function upload(base: string, cookie: string): Promise<number> {
  // The head of a PDF, and noise that nothing makes smaller.
  const body = Buffer.concat([Buffer.from('%PDF-1.7\n'), randomBytes(UPLOAD_BYTES)]);
  const start = performance.now();
  const answer = await fetch(`${base}/api/files?name=big.pdf`, {
    method: 'POST',
    headers: { cookie, origin: base, 'content-type': 'application/pdf' },
    body,
  });
  if (!answer.ok) throw new Error(`upload: ${answer.status} ${await answer.text()}`);
  return performance.now() - start;
}

/** From the answer to whoever changed a record until a page that watches it is told. */
async function timeTold(base: string, cookie: string, call: Call, id: string): Promise<readonly number[]> {
  const under = new AbortController();
  const stream = await fetch(`${base}/api/changes?record=${id}`, { headers: { cookie }, signal: under.signal });
  const reader = stream.body?.pipeThrough(new TextDecoderStream()).getReader();
  if (!reader) throw new Error('no stream');
  const taken: number[] = [];
  let isMine = false;
  for (let round = 0; round < TOLD; round++) {
    const header = (await (await call('GET', `/api/records/${id}`)).json()) as { record: { revision: number } };
    await call(
      'PUT',
      `/api/records/${id}/assignee`,
      { kind: isMine ? 'give-back' : 'take' },
      { 'if-match': `"${header.record.revision}"` },
    );
    isMine = !isMine;
    const start = performance.now();
    for (let text = ''; !/^data:/m.test(text); ) text += (await reader.read()).value ?? '';
    taken.push(performance.now() - start);
  }
  under.abort();
  return taken;
}

const residentMegabytes = (pid: number): number =>
  Number(/^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1000;

/** How much the server's memory grows from a fifth of the time under load to its end, in megabytes. */
async function timeMemory(pid: number, call: Call, ids: readonly string[]): Promise<number> {
  const end = performance.now() + MEMORY_MINUTES * 60_000;
  const warm = performance.now() + MEMORY_MINUTES * 12_000;
  let early = 0;
  let round = 0;
  const client = async (): Promise<void> => {
    while (performance.now() < end) {
      const id = ids[round++ % ids.length];
      await (await call('GET', '/api/desk')).arrayBuffer();
      await (await call('GET', `/api/records/${id}`)).arrayBuffer();
      await (await call('GET', '/api/desk/summary')).arrayBuffer();
      if (early === 0 && performance.now() > warm) early = residentMegabytes(pid);
    }
  };
  await Promise.all(Array.from({ length: CLIENTS }, client));
  return residentMegabytes(pid) - early;
}

/** What the people who fill in ask of the server beside their pages: many at once, files, being told, and memory. */
export async function benchParticipants(postgres: string): Promise<readonly Figure[]> {
  const { child, base } = await startServer(`${postgres}bench`);
  try {
    const [borrowerCookie, registrarCookie] = [
      await signIn(base, DEMO_MEMBERS.find(({ name }) => name === 'Beryl Quist')?.email ?? ''),
      await signIn(base, DEMO_MEMBERS.find(({ name }) => name === 'Rufus Okonjo')?.email ?? ''),
    ];
    const [borrower, registrar] = [caller(base, borrowerCookie), caller(base, registrarCookie)];
    const trial = await importRows(borrower, true, 1000);
    const begun = await importRows(borrower, false, ROWS);
    const csv = await exportAll(registrar, 'csv');
    const sheet = await exportAll(registrar, 'xlsx');
    const uploaded = await upload(base, borrowerCookie);
    const desk = (await (await registrar('GET', '/api/desk?stage=registrarCheck&workflow=objectLoan&limit=200')).json()) as {
      entries: readonly { record: { id: string } }[];
    };
    const ids = desk.entries.map(({ record }) => record.id);
    const told = await timeTold(base, registrarCookie, registrar, ids[0] ?? '');
    const growth = await timeMemory(child.pid ?? 0, registrar, ids);
    const plain = (what: string, value: number, unit: string): Figure => ({ what, value, unit, bar: null });
    return [
      plain('rows of a sheet tried out, each', trial / 1000, 'ms'),
      plain(`${ROWS} rows of a sheet begun, with their mails`, begun / 1000, 's'),
      plain('a register of so many as CSV', csv.ms / 1000, 's'),
      plain('a register of so many as a workbook', sheet.ms / 1000, 's'),
      plain('a file of 49 MB handed over', uploaded / 1000, 's'),
      plain('a change told to a page that watches, median', median(told), 'ms'),
      plain('a change told to a page that watches, longest', Math.max(...told), 'ms'),
      plain(`memory under load of ${CLIENTS} clients, growth over ${MEMORY_MINUTES} minutes but the first fifth`, growth, 'MB'),
    ];
  } finally {
    child.kill('SIGTERM');
  }
}
