import type { BodyInput, FileEntry, ParamsOf, Problem, QueryOf, ResponseOf, RouteName } from '@ypomet/contract';
import { OPERATIONS } from '@ypomet/contract/operations';

/** A refusal of the server, as problem details. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(problem.title);
  }
}

/** What to say of a call that failed. */
export const problemText = (error: Error): string => (error instanceof ApiProblem ? error.problem.detail : error.message);

/** The server could not be reached. */
export class Unreachable extends Error {
  constructor() {
    super('The server can’t be reached. Try again in a moment; what you entered is still here.');
  }
}

export type CallOptions<N extends RouteName> = {
  readonly params?: ParamsOf<N>;
  readonly query?: Partial<QueryOf<N> & object>;
  readonly body?: BodyInput<N>;
  readonly revision?: number;
  readonly idempotencyKey?: string;
  readonly signal?: AbortSignal;
};

/** Calls an operation of the contract. Rejects with {@link ApiProblem} or {@link Unreachable}. */
export async function callApi<N extends RouteName>(name: N, options: CallOptions<N> = {}): Promise<ResponseOf<N>> {
  const { method, path } = OPERATIONS[name];
  const params = (options.params ?? {}) as Record<string, string | number>;
  const address = path.replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(String(params[key] ?? '')));
  const query = new URLSearchParams(
    Object.entries((options.query ?? {}) as Record<string, string>).filter(([, value]) => value !== undefined),
  );
  const response = await send(`${address}${query.size > 0 ? `?${query}` : ''}`, {
    method,
    headers: {
      accept: 'application/json',
      ...(options.body === undefined ? {} : { 'content-type': 'application/json' }),
      ...(options.revision === undefined ? {} : { 'if-match': `"${options.revision}"` }),
      ...(options.idempotencyKey ? { 'idempotency-key': options.idempotencyKey } : {}),
    },
    body: options.body === undefined ? null : JSON.stringify(options.body),
    signal: options.signal ?? null,
  });
  if (response.status === 204) return null as ResponseOf<N>;
  const isJson = /json/.test(response.headers.get('content-type') ?? '');
  if (!response.ok) {
    if (!isJson) throw new Unreachable();
    throw new ApiProblem((await response.json()) as Problem);
  }
  return (await response.json()) as ResponseOf<N>;
}

/** Hands over a file; resolves to what a field then names it by. Rejects as {@link callApi} does. */
export async function handOverFile(file: File): Promise<FileEntry> {
  const { method, path } = OPERATIONS.uploadFile;
  const response = await send(`${path}?${new URLSearchParams({ name: file.name })}`, {
    method,
    headers: { accept: 'application/json', 'content-type': file.type || 'application/octet-stream' },
    body: file,
  });
  if (!/json/.test(response.headers.get('content-type') ?? '')) throw new Unreachable();
  if (!response.ok) throw new ApiProblem((await response.json()) as Problem);
  return (await response.json()) as FileEntry;
}

/** Where a file of a record can be saved from. */
export const addressOfFile = (record: string, sha256: string): string =>
  OPERATIONS.downloadFile.path.replace(':id', record).replace(':sha256', sha256);

async function send(address: string, init: RequestInit): Promise<Response> {
  try {
    return await fetch(address, init);
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error;
    throw new Unreachable();
  }
}

/** Refusals are final; only what never reached the server is tried again. */
export const isWorthRetrying = (failures: number, error: Error): boolean => !(error instanceof ApiProblem) && failures < 2;
