import { randomUUID } from 'node:crypto';
import http from 'node:http';

const PASSWORD = 'museum-loans';
const PEOPLE = {
  borrower: 'beryl@hollenstreet.invalid',
  registrar: 'rufus@lindenmuseum.invalid',
  conservator: 'carla@lindenmuseum.invalid',
  analyst: 'ines@lindenmuseum.invalid',
};
const PAUSE_MS = 100;
/** No request takes longer, whatever happens to the server. */
const GIVE_UP_MS = 20_000;

const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

/** Sends one request; null when there is no answer, or one that says to come back. */
function send(base, agent, { method, path, cookie = '', body, headers = {} }) {
  const text = body === undefined ? '' : JSON.stringify(body);
  return new Promise((resolve) => {
    const request = http.request(
      `${base}${path}`,
      {
        method,
        agent,
        timeout: GIVE_UP_MS,
        headers: { cookie, 'content-type': 'application/json', 'content-length': Buffer.byteLength(text), ...headers },
      },
      (response) => {
        let found = '';
        response.setEncoding('utf8').on('data', (chunk) => (found += chunk));
        response.once('end', () => {
          if (response.statusCode === 503) resolve(null);
          else resolve({ status: response.statusCode, headers: response.headers, body: found === '' ? null : JSON.parse(found) });
        });
        response.once('error', () => resolve(null));
        response.once('aborted', () => resolve(null));
      },
    );
    request.once('timeout', () => request.destroy());
    request.once('error', () => resolve(null));
    request.end(text);
  });
}

/**
 * Clients that begin records and hand them on, each request with a key of its own, asked again with the same key until there
 * is an answer. `acknowledged` holds what the server said it did, by key; `open` what was never answered.
 */
export class Clients {
  acknowledged = new Map();
  open = new Set();
  refused = [];
  isStopping = false;
  #agent = new http.Agent({ keepAlive: true, maxSockets: 100 });
  #cookies = {};

  /** `bases`: the addresses of the server's processes; each request goes to any of them. */
  constructor(bases) {
    this.bases = bases;
  }

  get base() {
    return this.bases[Math.floor(Math.random() * this.bases.length)];
  }

  async signIn() {
    for (const [who, email] of Object.entries(PEOPLE)) {
      const answer = await this.#insist({ method: 'POST', path: '/api/session', body: { email, password: PASSWORD } });
      this.#cookies[who] = answer.headers['set-cookie'].map((cookie) => cookie.split(';')[0]).join('; ');
    }
  }

  /** Publishes the workflow whose hand-off sends by every outlet and opens records. */
  async publishRouted() {
    const cookie = this.#cookies.analyst;
    const made = await this.#insist({ method: 'POST', path: '/api/workflows', cookie, body: ROUTED });
    const published = await this.#insist({
      method: 'POST',
      path: '/api/workflows/routed/versions',
      cookie,
      body: { accepted: [] },
      headers: { 'if-match': '"1"' },
    });
    if (made.status !== 201 || published.status !== 201) throw new Error(JSON.stringify([made.body, published.body]));
  }

  /** The members' cookies, and a public link of the loan's request with a pass of a guest, for requests of other kinds. */
  async invite() {
    const settings = { isOpen: true, opensAt: null, closesAt: null, maxRecords: null, maxPerHour: 10_000 };
    const fields = { nameField: null, mailField: null, acknowledgement: '', frames: [] };
    const path = '/api/workflows/objectLoan/links/request';
    const put = await this.#insist({ method: 'PUT', path, cookie: this.#cookies.analyst, body: { ...settings, ...fields } });
    const { address } = put.body.link;
    const opened = await this.#insist({ method: 'GET', path: `/api/public/${address}` });
    return { ...this.#cookies, link: address, pass: opened.body.intake.pass };
  }

  /** Tells the simulated web endpoint how to answer from now on; a server that is away isn't told. */
  async setReceiver(mode) {
    const request = { method: 'PUT', path: '/api/standins/receiver', cookie: this.#cookies.analyst, body: { mode } };
    await send(this.base, undefined, request);
  }

  /** Presses *Try again* for all deliveries of an outlet that wait for a person. */
  async tryAgain(outlet) {
    const request = { method: 'POST', path: '/api/deliveries/attempts', cookie: this.#cookies.analyst, body: { outlet } };
    await send(this.base, undefined, request);
  }

  /** Runs so many clients until they are told to stop. */
  async run(count) {
    await Promise.all(Array.from({ length: count }, () => this.#client()));
    this.#agent.destroy();
  }

  async #client() {
    while (!this.isStopping) {
      if (Math.random() < 0.35) {
        const routed = await this.#act('routed', 'borrower', '/api/intakes/routed/records', (key) => ({
          stage: 'ask',
          handOff: 'send',
          values: {
            key,
            rows: ['a', 'b'].map((id) => ({ id, values: { title: `${id} of ${key}`.slice(0, 40), material: 'metal' } })),
          },
        }));
        if (!routed) return;
        continue;
      }
      const begun = await this.#act('begin', 'borrower', '/api/intakes/objectLoan/records', (key) => ({
        stage: 'request',
        handOff: 'submit',
        values: requestOf(key),
      }));
      if (!begun) return;
      let { id, stage, revision } = begun.body.record;
      for (let step = 0; step < 4 && !this.isStopping; step++) {
        const [who, handOff, values] =
          stage === 'conservationReview' ? ['conservator', 'backToRegistrar', {}] : ['registrar', 'accept', { luxLimit: '50' }];
        if (stage !== 'conservationReview' && stage !== 'registrarCheck') break;
        const path = `/api/records/${id}/hand-offs`;
        const answer = await this.#act('hand-off', who, path, () => ({ handOff, values }), { 'if-match': `"${revision}"` });
        if (!answer) return;
        ({ id, stage, revision } = answer.body.record);
      }
    }
  }

  /** One action under one key. Twice in a while an acknowledged one is sent again: it must be answered the same. */
  async #act(kind, who, path, makeBody, headers = {}) {
    const key = `${kind}-${randomUUID()}`;
    this.open.add(key);
    const request = {
      method: 'POST',
      path,
      cookie: this.#cookies[who],
      body: makeBody(key),
      headers: { ...headers, 'idempotency-key': key },
    };
    const answer = await this.#insist(request);
    if (!answer) return null;
    this.open.delete(key);
    if (answer.status >= 300) {
      this.refused.push(`${key}: ${answer.status} ${JSON.stringify(answer.body)}`);
      return null;
    }
    const { id, revision } = answer.body.record;
    this.acknowledged.set(key, { kind, id, revision });
    if (Math.random() < 0.1) {
      const again = await this.#insist(request);
      if (again && (again.status !== answer.status || again.body.record.revision !== revision || again.body.record.id !== id))
        this.refused.push(`${key}: answered differently when repeated: ${again.status} ${JSON.stringify(again.body)}`);
    }
    return answer;
  }

  /** Asks until there is an answer; null only when the clients are stopped before. */
  async #insist(request) {
    for (;;) {
      const answer = await send(this.base, this.#agent, request);
      if (answer) return answer;
      if (this.isStopping) return null;
      await pause(PAUSE_MS);
    }
  }
}

const requestOf = (key) => ({
  borrower: key,
  borrowerEmail: 'beryl@hollenstreet.invalid',
  kind: 'exhibition',
  venue: 'home',
  fromDate: '2027-03-12',
  toDate: '2027-06-11',
  objects: [{ id: 'a', values: { title: 'Harbour study', material: 'paper', insuredValue: '60000.00' } }],
});

const field = (type, key, more = {}) => ({ type, key, name: key, section: 's', treatment: 'optional', ...more });

/** One hand-off that sends a mail, a web request, a file and a row, and opens a record for each of its rows. */
const ROUTED = {
  format: 'ypomet.workflow/1',
  key: 'routed',
  name: 'Routed',
  sections: [{ key: 's', name: 'S' }],
  fields: [
    field('text', 'key'),
    field('text', 'quote', { treatment: 'hidden' }),
    field('table', 'rows', {
      fields: [
        { type: 'text', key: 'title', name: 'title' },
        {
          type: 'choice',
          key: 'material',
          name: 'material',
          options: ['paper', 'textile', 'metal', 'glass', 'wood', 'stone'].map((code) => ({ code, label: code })),
        },
      ],
    }),
  ],
  tracks: [{ key: 'm', name: 'M' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['m'] },
    { key: 'rest', name: 'Rest', kind: 'end', tracks: ['m'] },
  ],
  handOffs: [
    {
      key: 'send',
      name: 'Send',
      from: 'ask',
      otherwise: { to: 'rest' },
      deliveries: [
        { kind: 'mail', key: 'mail', name: 'Mail', to: [{ kind: 'submitter' }], subject: '{{key}}', body: '{{#fields}}' },
        {
          kind: 'web',
          key: 'web',
          name: 'Web',
          outlet: 'insurer',
          address: '/quotes',
          properties: [
            { name: 'loan', value: 'key' },
            { name: 'value', value: '1000' },
          ],
          answers: [{ name: 'quote', field: 'quote' }],
        },
        { kind: 'file', key: 'file', name: 'File', outlet: 'agreements', folder: 'routed', fileName: '{{key}}', format: 'json' },
        {
          kind: 'file',
          key: 'line',
          name: 'Row',
          outlet: 'agreements',
          fileName: 'routed',
          format: 'csv',
          properties: [{ name: 'key', value: 'key' }],
        },
      ],
      followUps: [
        {
          key: 'each',
          name: 'Each',
          workflow: 'conditionReport',
          handOff: 'begin',
          perRow: 'rows',
          link: 'loan',
          carried: [
            { field: 'title', value: 'row.title' },
            { field: 'material', value: 'row.material' },
          ],
        },
      ],
    },
  ],
};
