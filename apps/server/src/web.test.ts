import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { brotliDecompressSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { TestServer } from './testing/test-server.ts';

let server: TestServer;
let webDir: string;
beforeAll(async () => {
  webDir = mkdtempSync(path.join(os.tmpdir(), 'ypomet-web-'));
  mkdirSync(path.join(webDir, 'assets'));
  for (const [file, content] of Object.entries({
    'a.js': 'plain',
    'a.js.br': 'by brotli',
    'a.js.gz': 'by gzip',
    'b.svg': 'alone',
    'draft-worker-1.js': 'plain',
  }))
    writeFileSync(path.join(webDir, 'assets', file), content);
  writeFileSync(path.join(webDir, 'index.html'), '<html></html>');
  server = await TestServer.make({ webDir });
});
afterAll(async () => {
  await server.close();
  rmSync(webDir, { recursive: true });
});

describe('the web application', () => {
  test.each([
    ['br, gzip', 'a.js', 'br', 'by brotli'],
    ['gzip', 'a.js', 'gzip', 'by gzip'],
    ['identity', 'a.js', undefined, 'plain'],
    ['br, gzip', 'b.svg', undefined, 'alone'],
  ])('who takes %s gets %s as %s, for ever', async (accepted, file, encoding, content) => {
    const answer = await server.anybody('GET', `/assets/${file}`, undefined, { 'accept-encoding': accepted });
    expect([answer.status, answer.headers['content-encoding'], answer.body]).toEqual([200, encoding, content]);
    expect(answer.headers['cache-control']).toBe('public, max-age=31536000, immutable');
  });

  test('pages and worker scripts carry the policy they run under, other assets what they need alone', async () => {
    const headersOf = async (url: string) => Object.keys((await server.anybody('GET', url)).headers);
    expect(await headersOf('/desk')).toEqual(expect.arrayContaining(['content-security-policy', 'x-frame-options']));
    expect(await headersOf('/assets/draft-worker-1.js')).toContain('content-security-policy');
    const asset = await headersOf('/assets/a.js');
    expect(asset).toEqual(expect.arrayContaining(['x-content-type-options', 'cross-origin-resource-policy']));
    expect(asset).not.toContain('content-security-policy');
  });

  test('large answers of the API are compressed for who takes that', async () => {
    const answer = await server.server.app.inject({ url: '/api/schemas/workflow.json', headers: { 'accept-encoding': 'br' } });
    expect(answer.headers['content-encoding']).toBe('br');
    expect(JSON.parse(brotliDecompressSync(answer.rawPayload).toString()).title).toBe('Ypomet workflow definition');
    expect((await server.anybody('GET', '/api/health')).headers['content-encoding']).toBeUndefined();
  });

  test('every other address is the page, which is looked for anew each time', async () => {
    const answer = await server.anybody('GET', '/workflows/objectLoan/plan');
    expect([answer.status, answer.body, answer.headers['cache-control']]).toEqual([200, '<html></html>', 'no-cache']);
  });

  test.each(['/assets/%00', '/assets//x', '/assets/..%2findex.html', '/assets/nothing.js', '/api/nothing'])(
    '%s is a problem, and no fault of the server',
    async (url) => {
      const answer = await server.anybody('GET', url);
      expect([400, 403, 404]).toContain(answer.status);
      expect(answer.headers['content-type']).toContain('application/problem+json');
    },
  );
});
