import { createHash } from 'node:crypto';
import { lookup } from 'node:dns';
import { isConnectionHeader, type Json } from '@ypomet/core';
import { createSigner, httpbis } from 'http-message-signatures';
import ipaddr from 'ipaddr.js';
import { parse } from 'lossless-json';
import { Agent, buildConnector, type Dispatcher, request } from 'undici';
import { isAllowedAddress } from './allowed-addresses.ts';
import { notSent, type Outlet, type OutletSetup, type Sending } from './outlet.ts';

/** The largest answer that is read: what is taken from it are single values. */
const MAX_ANSWER_BYTES = 1_000_000;
const MAX_BODY_BYTES = 10_000_000;
const SHOWN_ANSWER = 2000;

class NotAllowed extends Error {
  constructor() {
    super('address not allowed');
  }
}

/** Connections to allowed addresses only: a literal one is looked at, a name's are when it is looked up. */
function makeAgent(allowed: readonly string[]): Agent {
  const connect = buildConnector({
    timeout: 10_000,
    lookup: (host, options, done) =>
      lookup(host, { ...options, all: true }, (error, found) => {
        if (error) return done(error, '', 4);
        const port = Number((options as { port?: number }).port ?? 0);
        const list = found as unknown as readonly { readonly address: string; readonly family: number }[];
        const unfit = list.some(({ address }) => !isAllowedAddress(address, port, allowed));
        const [first] = list;
        if (unfit || !first) return done(new NotAllowed(), '', 4);
        return (options as { all?: boolean }).all ? done(null, list as never, 0) : done(null, first.address, first.family);
      }),
  } as Parameters<typeof buildConnector>[0]);
  return new Agent({
    connections: 8,
    maxResponseSize: MAX_ANSWER_BYTES,
    connect: (options, done) => {
      const host = options.hostname.replace(/^\[|\]$/g, '');
      const port = Number(options.port || (options.protocol === 'https:' ? 443 : 80));
      if (ipaddr.isValid(host) && !isAllowedAddress(host, port, allowed)) return done(new NotAllowed(), null);
      const isNamed = allowed.includes(`${host}:${port}`);
      return isNamed && !ipaddr.isValid(host)
        ? openConnect(options, done)
        : connect({ ...options, port: String(port) } as typeof options, done);
    },
  });
}

/** For hosts that the configuration names. */
const openConnect = buildConnector({ timeout: 10_000 });

/** Answers of an endpoint that is there and takes deliveries, not questions: no such thing here, not by this method, not this form. */
const ANSWERS_OTHERS: ReadonlySet<number> = new Set([400, 404, 405, 415, 422]);

/** Answers that another attempt may turn out otherwise (common practice): the receiver is busy, or asks to come back later. */
const TRANSIENT: ReadonlySet<number> = new Set([408, 409, 423, 425, 429]);
const isFinalStatus = (status: number): boolean => status >= 300 && status < 500 && !TRANSIENT.has(status);

/**
 * A header's value as it goes over the wire: its UTF-8 octets, which HTTP lets through as they are (RFC 9110, section 5.5,
 * obs-text), without control characters.
 */
const toFieldValue = (value: string): string => Buffer.from(value.replace(/\p{Cc}/gu, ' ').trim(), 'utf8').toString('latin1');

/** Speaks to web endpoints: JSON or forms, signed, once a delivery as far as the receiver drops repeats. Doesn't follow redirects. */
export function makeWebOutlet(allowed: readonly string[]): Outlet<'web'> {
  const agent = makeAgent(allowed);
  return {
    kind: 'web',
    send: async (setup, { id, sequence, content }) => {
      if (Buffer.byteLength(content.body) > MAX_BODY_BYTES)
        throw notSent('too-large', { bytes: Buffer.byteLength(content.body), limit: MAX_BODY_BYTES }, { isFinal: true });
      const url = addressOf(setup, content.address);
      const headers = await headersOf(setup, id, content, url);
      const numbered = { ...headers, 'x-ypomet-sequence': String(sequence) };
      const { status, text } = await ask(agent, setup, url, content.method, numbered, content.body);
      const shown = `${status} ${text.slice(0, SHOWN_ANSWER)}`.trim();
      if (!isExpected(status, content.expects))
        throw notSent('status', { status }, { answer: shown, isFinal: isFinalStatus(status) });
      return { answer: shown, json: readAnswer(text) };
    },
    try: async (setup) => {
      const url = addressOf(setup, '');
      // The trial request is signed like a delivery, so that a wrong secret is noticed now.
      const headers = await headersOf(setup, 'trial', { method: 'GET', headers: [], mediaType: 'text/plain', body: '' }, url);
      const { status, text } = await ask(agent, setup, url, 'GET', { ...headers, 'x-ypomet-trial': '1' }, undefined);
      const shown = `${status} ${text.slice(0, 200)}`.trim();
      if (status < 300 || ANSWERS_OTHERS.has(status)) return shown;
      throw notSent('status', { status }, { answer: shown });
    },
    close: () => agent.close(),
  };
}

/** Parts of a path that lead elsewhere than to what they name: up, to the same place, or nowhere (WHATWG URL, "double-dot segment"). */
const LEADS_AWAY = /^(\.|%2e){1,2}$/i;

/** Whether a path stays beneath the place it is added to, whatever values were written into it. */
function staysBeneath(more: string): boolean {
  const [path = ''] = more.split(/[?#]/);
  const parts = path.replace(/^[/\\]/, '').split(/[/\\]/);
  return parts.every((part, index) => !LEADS_AWAY.test(part) && (part !== '' || index === parts.length - 1));
}

/**
 * The outlet's address with what a delivery adds to it, which can't leave the outlet's own path: a value that is empty, `.` or
 * `..` would reach another resource, under our signature.
 */
export function addressOf({ settings }: Pick<OutletSetup<'web'>, 'settings'>, more: string): URL {
  const base = settings.address.replace(/\/+$/, '');
  const rest = more === '' || /^[/?]/.test(more) ? more : `/${more}`;
  const url = URL.canParse(base + rest) ? new URL(base + rest) : null;
  if (!url || !staysBeneath(rest) || url.origin !== new URL(settings.address).origin || url.username !== '')
    throw notSent('bad-address', { address: more.slice(0, 200) }, { isFinal: true });
  return url;
}

type Asking = {
  readonly method: string;
  readonly headers: Sending<'web'>['content']['headers'];
  readonly mediaType: string;
  readonly body: string;
};

/** What goes with a request; the delivery's key under the names receivers look for. */
async function headersOf(
  { settings, secret, key }: OutletSetup<'web'>,
  id: string,
  { method, headers: own, mediaType, body }: Asking,
  url: URL,
): Promise<Record<string, string>> {
  const headers: Record<string, string> = {
    ...Object.fromEntries(
      own.filter(([name]) => !isConnectionHeader(name)).map(([name, value]) => [name.toLowerCase(), toFieldValue(value)]),
    ),
    'content-type': mediaType,
    'idempotency-key': id,
    'x-ypomet-delivery': id,
    // RFC 9530.
    'content-digest': `sha-256=:${createHash('sha256').update(body).digest('base64')}:`,
  };
  if (settings.authentication === 'bearer' && secret) return { ...headers, authorization: `Bearer ${secret}` };
  if (settings.authentication !== 'signature' || !secret) return headers;
  const signed = await httpbis.signMessage(
    {
      key: createSigner(secret, 'hmac-sha256', key),
      name: 'ypomet',
      fields: ['@method', '@target-uri', 'content-type', 'content-digest', 'idempotency-key'],
      params: ['created', 'keyid', 'alg'],
    },
    { method, url: url.href, headers },
  );
  return signed.headers as Record<string, string>;
}

type Asked = { readonly status: number; readonly text: string };

async function ask(
  agent: Agent,
  { settings }: OutletSetup<'web'>,
  url: URL,
  method: Dispatcher.HttpMethod,
  headers: Record<string, string>,
  body: string | undefined,
): Promise<Asked> {
  const ms = settings.timeoutSeconds * 1000;
  try {
    const answer = await request(url, {
      dispatcher: agent,
      method,
      headers: { 'user-agent': 'Ypomet', accept: 'application/json', ...headers },
      ...(body === undefined ? {} : { body }),
      headersTimeout: ms,
      bodyTimeout: ms,
      signal: AbortSignal.timeout(ms),
    });
    return { status: answer.statusCode, text: await answer.body.text() };
  } catch (error) {
    throw asNotSent(error as Error, settings.timeoutSeconds);
  }
}

function asNotSent(error: Error, seconds: number): Error {
  const { code = '', name } = error as Error & { code?: string };
  const causes = [error, ...((error as { errors?: Error[] }).errors ?? []), (error as { cause?: Error }).cause];
  if (causes.some((one) => one instanceof NotAllowed)) return notSent('not-allowed', {}, { isFinal: true });
  if (name === 'TimeoutError' || name === 'AbortError' || /TIMEOUT/.test(code)) return notSent('timed-out', { seconds });
  if (code === 'UND_ERR_RES_EXCEEDED_MAX_SIZE')
    return notSent('answer-too-large', { limit: MAX_ANSWER_BYTES }, { isFinal: true });
  return notSent('unreachable', { answer: error.message.slice(0, 300) });
}

/** `200-299, 404`: whether a status is among them. */
export const isExpected = (status: number, expects: string): boolean =>
  expects.split(',').some((part) => {
    const [low, high] = part.split('-').map((text) => Number(text.trim()));
    return status >= (low as number) && status <= (high ?? (low as number));
  });

/** JSON with numbers as decimal text, every digit of them; null for what is no JSON. */
export function readAnswer(text: string): Json {
  try {
    return parse(text, undefined, { parseNumber: (digits) => digits }) as Json;
  } catch (error) {
    if (error instanceof SyntaxError || error instanceof RangeError) return null;
    throw error;
  }
}
