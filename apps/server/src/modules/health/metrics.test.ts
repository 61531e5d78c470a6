import { mkdtempSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { readConfig } from '../../config.ts';
import { loanRequest, objectRow, problemOf, TestServer } from '../../testing/test-server.ts';

const TOKEN = 'a-token-of-the-monitor-of-the-tests';
const AUTHORIZATION = { authorization: `Bearer ${TOKEN}` };

/** The samples of the text format of Prometheus 0.0.4, by name with labels. */
const samplesOf = (text: string): ReadonlyMap<string, number> =>
  new Map(
    text.split('\n').flatMap((line): [string, number][] => {
      const [, name, value] = /^([^#\s{]+(?:\{.*\})?) (\S+)$/.exec(line) ?? [];
      return name && value ? [[name, Number(value)]] : [];
    }),
  );

describe('metrics', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.make({ metricsToken: TOKEN });
  });
  afterAll(() => server.close());

  test('are there for whoever sends the token, and for nobody else, signed in or not', async () => {
    expect(problemOf(await server.anybody('GET', '/api/metrics'))).toMatchObject({ status: 401, code: 'session/none' });
    const analyst = await server.as('analyst');
    expect((await analyst('GET', '/api/metrics')).status).toBe(401);
    for (const authorization of ['Bearer', `Bearer ${TOKEN}x`, `Bearer ${TOKEN.slice(1)}`, TOKEN])
      expect((await server.anybody('GET', '/api/metrics', undefined, { authorization })).status).toBe(401);
    const metrics = await server.anybody('GET', '/api/metrics', undefined, AUTHORIZATION);
    expect([metrics.status, metrics.headers['content-type']]).toEqual([200, expect.stringContaining('text/plain')]);
  });

  test('tell how long requests took by the pattern of their route, and name no record and no person', async () => {
    const borrower = await server.as('borrower');
    const { body } = await borrower('POST', '/api/intakes/objectLoan/records', {
      stage: 'request',
      handOff: 'submit',
      values: loanRequest(objectRow('a', 'Harbour study', 'paper', '60000.00')),
    });
    await borrower('GET', `/api/records/${body.record.id}`);
    const { body: text } = await server.anybody('GET', '/api/metrics', undefined, AUTHORIZATION);
    const samples = samplesOf(text);
    expect(samples.get('ypomet_http_request_seconds_count{route="/api/records/:id",method="GET",status="200"}')).toBe(1);
    expect(text).not.toContain(body.record.id);
    expect(text).not.toMatch(/beryl|quist/i);
  });

  test('tell the delay of the event loop, connections, and what is queued for each outlet', async () => {
    const { pool } = server.server.context.database;
    await pool.query(
      `update deliveries set status = 'waiting' where id = (select id from deliveries where outlet = 'mail' limit 1)`,
    );
    const samples = samplesOf((await server.anybody('GET', '/api/metrics', undefined, AUTHORIZATION)).body);
    expect(samples.get('ypomet_deliveries_unsent{outlet="mail",status="waiting"}')).toBe(1);
    expect(samples.get('ypomet_queue_ready')).toBe(1);
    expect(samples.get('ypomet_clock_off')).toBe(0);
    expect(samples.get('ypomet_database_connections{state="open"}')).toBeGreaterThan(0);
    expect(samples.get('ypomet_disk_free_bytes')).toBeGreaterThan(0);
    expect(samples.has('nodejs_eventloop_lag_p99_seconds')).toBe(true);
    for (const share of ['0.5', '0.99', '0.999', '1'])
      expect(samples.get(`ypomet_event_loop_delay_seconds{quantile="${share}"}`)).toBeGreaterThanOrEqual(0);
  });
});

test('without a token in the configuration there are no metrics', async () => {
  const server = await TestServer.make();
  try {
    for (const authorization of ['Bearer ', 'Bearer null', 'Bearer undefined'])
      expect((await server.anybody('GET', '/api/metrics', undefined, { authorization })).status).toBe(404);
  } finally {
    await server.close();
  }
});

test('a token that could be guessed keeps the server from starting, and says so', () => {
  const environment = {
    DATABASE_URL: 'postgres://nowhere/none',
    YPOMET_DATA: mkdtempSync(path.join(os.tmpdir(), 'ypomet-config-')),
  };
  expect(() => readConfig({ ...environment, YPOMET_METRICS_TOKEN: 'secret' })).toThrow('at least 20 characters');
});
