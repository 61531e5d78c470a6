import { isMailAddress, writeHtml, writePlain } from '@ypomet/core';
import nodemailer, { type Transporter } from 'nodemailer';
import type { FileStore } from '../modules/files/store.ts';
import { isAllowedHost } from './allowed-addresses.ts';
import { notSent, type Outlet, type OutletSetup, type Received, type Sending } from './outlet.ts';
import { type Render, writtenName, writtenType } from './written.ts';

const TIMEOUT_MS = 20_000;
/** All that goes with one mail; common practice among mail servers is 10 to 25 MB. */
const MAX_BYTES = 20_000_000;

/** What sending mail needs beside an outlet's own settings. */
export type MailMeans = {
  /** The mail server of the configuration, for outlets that name none. */
  readonly fallback: { readonly host: string; readonly port: number };
  /** Mail servers inside the server's own network that outlets may use, each as `host:port`. */
  readonly allowed: readonly string[];
  readonly locale: string;
  readonly files: FileStore;
  readonly render: Render;
};

type Attachment = { readonly filename: string; readonly content: Buffer; readonly contentType: string };
type Own = { readonly changedAt: string; readonly transport: Transporter };

/** Sends mail over SMTP: text and HTML, a key to know repeats by, copies in the envelope only where they are blind. */
export function makeMailOutlet(means: MailMeans): Outlet<'mail'> {
  const transports = new Map<string, Own>();
  const transportOf = ({ key, settings, secret, changedAt }: OutletSetup<'mail'>): Transporter => {
    const known = transports.get(key);
    if (known?.changedAt === changedAt) return known.transport;
    known?.transport.close();
    const { host, port } = settings.host === '' ? means.fallback : settings;
    const isLocal = settings.host === '' || host === '127.0.0.1' || host === 'localhost';
    const transport = nodemailer.createTransport({
      host,
      port,
      secure: settings.encryption === 'tls' && settings.host !== '',
      requireTLS: settings.encryption === 'starttls' && !isLocal,
      ignoreTLS: isLocal || settings.encryption === 'none',
      ...(settings.user === '' ? {} : { auth: { user: settings.user, pass: secret ?? '' } }),
      pool: true,
      maxConnections: 4,
      connectionTimeout: TIMEOUT_MS,
      greetingTimeout: TIMEOUT_MS,
      socketTimeout: TIMEOUT_MS,
      disableFileAccess: true,
      disableUrlAccess: true,
    });
    transports.set(key, { changedAt, transport });
    return transport;
  };
  /** Throws `not-allowed` if the mail server is inside the server's own network and the configuration doesn't list it. */
  const admit = async ({ settings: { host, port } }: OutletSetup<'mail'>): Promise<void> => {
    if (host !== '' && !(await isAllowedHost(host, port, means.allowed))) throw notSent('not-allowed', {}, { isFinal: true });
  };
  return {
    kind: 'mail',
    send: async (setup, sending) => {
      await admit(setup);
      const message = await writeMessage(setup, sending, means);
      return sendWith(transportOf(setup), message, receiversOf(sending.content));
    },
    try: async (setup) => {
      await admit(setup);
      await transportOf(setup)
        .verify()
        .catch((error: Error) => {
          throw asNotSent(error);
        });
      return 'It answers, and takes the sign-in.';
    },
    close: async () => {
      for (const { transport } of transports.values()) transport.close();
    },
  };
}

/** Every receiver's address, each once; `left`: those who don't have the mail yet. */
function receiversOf({ addresses, taken = [] }: Sending<'mail'>['content']): Receivers {
  const all = [...new Set([...(addresses?.to ?? []), ...(addresses?.cc ?? []), ...(addresses?.bcc ?? [])])];
  const left = all.filter((address) => !taken.includes(address));
  // All of them had it, and the note of that was lost: the last of them is asked once more.
  return { all, left: left.length === 0 ? all.slice(-1) : left };
}
type Receivers = { readonly all: readonly string[]; readonly left: readonly string[] };

type Sent = {
  readonly response: string;
  readonly rejected: readonly (string | { readonly address: string })[];
  readonly rejectedErrors?: readonly { readonly responseCode?: number; readonly response?: string }[];
};

async function sendWith(transport: Transporter, message: object, receivers: Receivers): Promise<Received> {
  const { from } = message as { readonly from: { readonly address: string } };
  let sent: Sent;
  try {
    const envelope = { from: from.address, to: [...receivers.left] };
    sent = (await transport.sendMail({ ...message, envelope })) as Sent;
  } catch (error) {
    throw asNotSent(error as Error);
  }
  if (sent.rejected.length === 0) return { answer: sent.response };
  throw partlyRefused(sent, receivers);
}

/** Some receivers have it, others were refused: the others wait, by their number, and are tried again by themselves. */
function partlyRefused({ rejected, rejectedErrors = [] }: Sent, { all, left }: Receivers): Error {
  const refused = rejected.map((one) => (typeof one === 'string' ? one : one.address).toLowerCase());
  const isRefused = (address: string): boolean => refused.includes(address.toLowerCase());
  const numbers = all.flatMap((address, index) => (isRefused(address) ? [String(index + 1)] : []));
  const said = rejectedErrors.map(({ response = '' }) => response);
  // What the server said often repeats the address, which not everybody who reads the log may know.
  const answer = all.reduce(
    (text, address, index) => text.replaceAll(address, `recipient ${index + 1}`),
    (said[0] ?? '').slice(0, 500),
  );
  return notSent(
    'partly-refused',
    { recipients: numbers, answer },
    {
      isFinal: rejectedErrors.length > 0 && rejectedErrors.every(({ responseCode = 0 }) => isFinalCode(responseCode)),
      answer: said.join('\n'),
      taken: left.filter((address) => !isRefused(address)),
    },
  );
}

/** 5xx answers are final by RFC 5321, section 4.2.1, but for those about the sign-in, which a person mends. */
const isFinalCode = (code: number): boolean => code >= 550 && code < 560;

/** What went wrong, in the mail server's own words where it said any. */
function asNotSent(error: Error): Error {
  const { code = '', response, responseCode } = error as Error & { code?: string; response?: string; responseCode?: number };
  if (response) {
    return notSent('refused', { answer: response.slice(0, 500) }, { isFinal: isFinalCode(responseCode ?? 0), answer: response });
  }
  if (code === 'ETIMEDOUT') return notSent('timed-out', { seconds: TIMEOUT_MS / 1000 });
  return notSent('unreachable', { answer: error.message.slice(0, 300) });
}

async function writeMessage(
  { settings }: OutletSetup<'mail'>,
  { id, content }: Sending<'mail'>,
  means: MailMeans,
): Promise<object> {
  const { to, cc, bcc, replyTo } = content.addresses ?? { to: [], cc: [], bcc: [], replyTo: [] };
  if (to.length + cc.length + bcc.length === 0) throw notSent('nobody', {}, { isFinal: true });
  const unfit = [...to, ...cc, ...bcc, ...replyTo].findIndex((address) => !isMailAddress(address));
  // A mail server could read several addresses, or none, in it.
  if (unfit >= 0) throw notSent('recipient-unfit', { recipients: [String(unfit + 1)] }, { isFinal: true });
  const attachments = await attachmentsOf(content, means);
  const plain = (list: readonly string[]) => list.map((address) => ({ name: '', address }));
  const isHidden = to.length === 0 && cc.length === 0;
  return {
    from: { name: content.senderName || settings.fromName, address: settings.from },
    // A mail to blind copies alone names nobody (RFC 5322, section 3.4).
    to: isHidden ? 'undisclosed-recipients:;' : plain(to),
    cc: plain(cc),
    bcc: plain(bcc),
    ...(replyTo[0] === undefined ? {} : { replyTo: { name: '', address: replyTo[0] } }),
    subject: content.subject,
    text: writePlain(content.body),
    html: writeDocument(content.subject, writeHtml(content.body), means.locale),
    attachments,
    messageId: `<${id}@ypomet.invalid>`,
    headers: { 'X-Ypomet-Delivery': id, 'Auto-Submitted': 'auto-generated' },
  };
}

const writeDocument = (title: string, body: string, locale: string): string => {
  const safe = title.replace(/[&<>"]/g, (character) => `&#${character.charCodeAt(0)};`);
  return `<!doctype html>
<html lang="${locale.replace(/[^A-Za-z0-9-]/g, '')}"><head><meta charset="utf-8"><title>${safe}</title></head>
<body style="font-family:sans-serif;font-size:15px;line-height:1.5;color:#1c2b33;max-width:40em">
${body}
</body></html>`;
};

async function attachmentsOf({ attached, files }: Sending<'mail'>['content'], means: MailMeans): Promise<readonly Attachment[]> {
  const size = files.reduce((sum, { bytes }) => sum + bytes, 0);
  if (size > MAX_BYTES) throw notSent('too-large', { bytes: size, limit: MAX_BYTES }, { isFinal: true });
  const made = attached
    ? [{ filename: writtenName(attached), content: await means.render(attached), contentType: writtenType(attached) }]
    : [];
  const own: Attachment[] = [];
  for (const { name, mediaType, sha256 } of files) {
    const content = await means.files.read(sha256);
    if (!content) throw notSent('no-file', { name }, { isFinal: true });
    own.push({ filename: name, content, contentType: mediaType });
  }
  return [...made, ...own];
}
