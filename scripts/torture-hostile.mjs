import http from 'node:http';

const EVERY_MS = 1000;
const GIVE_UP_MS = 30_000;
const PROBE_EVERY_MS = 10;

const body = (of) => ({ headers: { 'content-type': 'application/json' }, text: JSON.stringify(of) });
const many = (count, make) => Object.fromEntries(Array.from({ length: count }, (_, index) => make(index)));

/**
 * Requests that want more of the server than they should get, each with who sends it. `guest` ones carry the pass of a public
 * link; none of them may end in a fault of the server, or hold up what others ask.
 */
export const REQUESTS = {
  'unknown keys in a guest’s form': ({ link, pass }) => ({
    method: 'POST',
    path: `/api/public/${link}/form`,
    headers: { 'content-type': 'application/json', authorization: `Bearer ${pass}` },
    text: JSON.stringify({ values: many(300_000, (index) => [`k${index}`, 1]) }),
  }),
  'a row of 200,000 cells': ({ borrower }) => ({
    method: 'POST',
    path: '/api/intakes/objectLoan/request/form',
    cookie: borrower,
    ...body({ values: { objects: [{ id: 'a', values: many(200_000, (index) => [`c${index}`, 1]) }] } }),
  }),
  'lists within lists': ({ borrower }) => ({
    method: 'POST',
    path: '/api/intakes/objectLoan/request/form',
    cookie: borrower,
    headers: { 'content-type': 'application/json' },
    text: `{"values":{"borrower":${'['.repeat(400_000)}${']'.repeat(400_000)}}}`,
  }),
  'an upload that is never ended': ({ borrower }) => ({
    method: 'POST',
    path: '/api/uploads',
    cookie: borrower,
    headers: { 'tus-resumable': '1.0.0', 'upload-length': '49000000', 'upload-metadata': 'filename cm9vbXMucGRm' },
  }),
  'a filter that counts for long': ({ registrar }) =>
    search(registrar, 'count(for i in 1..1400, j in 1..1400 return i * j) = totalValue'),
  'a filter of rows within rows': ({ registrar }) =>
    search(
      registrar,
      ['a', 'b', 'c', 'd'].reduceRight(
        (inner, name) => `some ${name} in objects satisfies (${inner})`,
        'a.title != b.title or c.title != d.title',
      ),
    ),
  'an export of everything': ({ registrar }) => ({
    method: 'GET',
    path: '/api/registers/objectLoan/export?format=xlsx',
    cookie: registrar,
  }),
  'the document of the API': () => ({ method: 'GET', path: '/api/openapi.json' }),
  'a wrong password': () => ({
    method: 'POST',
    path: '/api/session',
    ...body({ email: 'nobody@nowhere.invalid', password: 'guess' }),
  }),
  'a definition of 4 MB': ({ analyst }) => ({
    method: 'POST',
    path: '/api/workflows',
    cookie: analyst,
    ...body({
      format: 'ypomet.workflow/1',
      key: 'large',
      name: 'x',
      fields: Array.from({ length: 60_000 }, (_, i) => ({ type: 'text', key: `f${i}`, name: 'x' })),
    }),
  }),
};

const search = (cookie, filter) => ({
  method: 'GET',
  path: `/api/registers/objectLoan/records?filter=${encodeURIComponent(filter)}`,
  cookie,
});

/** Sends each hostile request once a second, and probes health and a desk every 10 ms, until it is stopped. */
export class Hostile {
  /** How often each request was answered with which status; `none`: no answer. */
  answers = new Map(Object.keys(REQUESTS).map((name) => [name, new Map()]));
  /** Milliseconds that probes took. */
  probes = [];
  faults = [];
  isStopping = false;
  #agent = new http.Agent({ keepAlive: true, maxSockets: 200 });

  /** `who`: cookies of the demo's members, and the address of a public link with a pass of a guest. */
  constructor(base, who) {
    this.base = base;
    this.who = who;
  }

  async run() {
    const made = Object.entries(REQUESTS).map(([name, make]) => [name, make(this.who)]);
    await Promise.all([...made.map(([name, request]) => this.#repeat(name, request)), this.#probe()]);
    this.#agent.destroy();
  }

  /** Whatever happened, the next one is sent a second after the one before. */
  async #repeat(name, request) {
    while (!this.isStopping) {
      const next = new Promise((resolve) => setTimeout(resolve, EVERY_MS));
      const { status } = await this.#send(request);
      const counts = this.answers.get(name);
      counts.set(status, (counts.get(status) ?? 0) + 1);
      if (status === 500 || status === 'gave up') this.faults.push(`${name}: ${status}`);
      await next;
    }
  }

  async #probe() {
    const desk = { method: 'GET', path: '/api/desk', cookie: this.who.registrar };
    for (let turn = 0; !this.isStopping; turn += 1) {
      const next = new Promise((resolve) => setTimeout(resolve, PROBE_EVERY_MS));
      const begun = performance.now();
      const { status } = await this.#send(turn % 2 === 0 ? { method: 'GET', path: '/api/health' } : desk);
      if (status === 200) this.probes.push(performance.now() - begun);
      if (status === 500) this.faults.push('a probe: 500');
      await next;
    }
  }

  #send({ method, path, cookie = '', headers = {}, text = '' }) {
    return new Promise((resolve) => {
      const length = { 'content-length': Buffer.byteLength(text) };
      const request = http.request(
        `${this.base}${path}`,
        { method, agent: this.#agent, timeout: GIVE_UP_MS, headers: { cookie, ...length, ...headers } },
        (response) => {
          response.resume();
          response.once('end', () => resolve({ status: response.statusCode }));
          response.once('error', () => resolve({ status: 'none' }));
        },
      );
      request.once('timeout', () => {
        resolve({ status: 'gave up' });
        request.destroy();
      });
      // A body that is refused before it was read whole breaks the connection.
      request.once('error', () => resolve({ status: 'none' }));
      request.end(text);
    });
  }
}

/** The value below which a share of numbers lies. */
export function quantile(numbers, share) {
  const sorted = [...numbers].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? Number.NaN;
}
