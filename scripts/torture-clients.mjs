import { randomUUID } from 'node:crypto';
import http from 'node:http';

const PASSWORD = 'museum-loans';
const PEOPLE = {
  borrower: 'beryl@hollenstreet.invalid',
  registrar: 'rufus@lindenmuseum.invalid',
  conservator: 'carla@lindenmuseum.invalid',
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

  constructor(base) {
    this.base = base;
  }

  async signIn() {
    for (const [who, email] of Object.entries(PEOPLE)) {
      const answer = await this.#insist({ method: 'POST', path: '/api/session', body: { email, password: PASSWORD } });
      this.#cookies[who] = answer.headers['set-cookie'].map((cookie) => cookie.split(';')[0]).join('; ');
    }
  }

  /** Runs so many clients until they are told to stop. */
  async run(count) {
    await Promise.all(Array.from({ length: count }, () => this.#client()));
    this.#agent.destroy();
  }

  async #client() {
    while (!this.isStopping) {
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
