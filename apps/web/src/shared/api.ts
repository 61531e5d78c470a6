import type { BodyInput, ParamsOf, Problem, QueryOf, ResponseOf, RouteName } from '@ypomet/contract';
import { OPERATIONS } from '@ypomet/contract/operations';
import { ApiProblem, Unreachable } from './problems.ts';

let pass: string | null = null;
/** From here on calls are a guest's, by their pass; null: those of whoever is signed in. */
export const actAs = (guestPass: string | null): void => {
  pass = guestPass;
};
export const isGuest = (): boolean => pass !== null;
/** What a call sends to be a guest's. */
export const guestHeaders = (): Record<string, string> => (pass === null ? {} : { authorization: `Bearer ${pass}` });

export type CallOptions<N extends RouteName> = {
  readonly params?: ParamsOf<N>;
  readonly query?: Partial<QueryOf<N> & object>;
  readonly body?: BodyInput<N>;
  readonly revision?: number;
  readonly idempotencyKey?: string;
  readonly signal?: AbortSignal;
  /** Whether the request goes on when the page that makes it is gone. */
  readonly keepalive?: boolean;
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
      ...guestHeaders(),
      ...(options.body === undefined ? {} : { 'content-type': 'application/json' }),
      ...(options.revision === undefined ? {} : { 'if-match': `"${options.revision}"` }),
      ...(options.idempotencyKey ? { 'idempotency-key': options.idempotencyKey } : {}),
    },
    body: options.body === undefined ? null : JSON.stringify(options.body),
    signal: options.signal ?? null,
    keepalive: options.keepalive ?? false,
  });
  if (response.status === 204) return null as ResponseOf<N>;
  const isJson = /json/.test(response.headers.get('content-type') ?? '');
  if (!response.ok) {
    if (!isJson) throw new Unreachable();
    throw new ApiProblem((await response.json()) as Problem);
  }
  return (await response.json()) as ResponseOf<N>;
}

/** The contents of a file of a record. Rejects as {@link callApi} does. */
export async function readFile(record: string, sha256: string): Promise<Blob> {
  const response = await send(addressOfFile(record, sha256), { headers: guestHeaders() });
  if (!response.ok) throw new ApiProblem((await response.json()) as Problem);
  return response.blob();
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
