import { execFile } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { promisify } from 'node:util';
import { brotliDecompressSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { makeOpenApi } from '@ypomet/contract';
import openapiTS, { astToString } from 'openapi-typescript';
import { DEMO_MEMBERS, DEMO_PASSWORD } from './demo/members.ts';
import { TestServer } from './testing/test-server.ts';

const root = path.resolve(import.meta.dirname, '../../..');
const run = promisify(execFile);
let server: TestServer;
let folder: string;

beforeAll(async () => {
  server = await TestServer.make();
  // Within the tree, so that the packages are found.
  const generated = path.join(root, 'apps/server/.generated');
  mkdirSync(generated, { recursive: true });
  folder = mkdtempSync(path.join(generated, 'client-'));
});
afterAll(async () => {
  await server.close();
  rmSync(folder, { recursive: true });
});

type Operation = {
  readonly operationId: string;
  readonly description: string;
  readonly responses: Readonly<Record<string, unknown>>;
  readonly security: readonly unknown[];
};
type Document = {
  readonly openapi: string;
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
  readonly components: { readonly schemas: Readonly<Record<string, unknown>> };
};

describe('the API document', () => {
  test('is served as OpenAPI 3.1, with the schemas by name and the problems of each operation', async () => {
    const document = (await server.anybody('GET', '/api/openapi.json')).body as Document;
    expect(document).toEqual(JSON.parse(JSON.stringify(makeOpenApi())));
    expect(document.openapi).toBe('3.1.0');
    expect(Object.keys(document.components.schemas)).toEqual(
      expect.arrayContaining(['Workflow', 'EditsRequest', 'RecordDocument', 'HandOffResponse', 'Problem']),
    );
    const handOn = document.paths['/api/records/{id}/hand-offs']?.post;
    expect(Object.keys(handOn?.responses ?? {})).toEqual(
      expect.arrayContaining(['200', '400', '401', '403', '404', '412', '413', '415', '422', '428', '503']),
    );
    expect(JSON.stringify(handOn?.responses['422'])).toContain('hand-off/refused');
    expect(document.paths['/api/session']?.post?.security).toEqual([]);
  });

  // The linter of the OpenAPI specification that its tools ship with: every reference, parameter and example.
  test('holds against a linter of OpenAPI: no error, no warning', async () => {
    writeFileSync(path.join(folder, 'openapi.json'), JSON.stringify(makeOpenApi()));
    // Health and the like answer 2xx or 5xx alone; there is one kind of delivery as yet.
    writeFileSync(
      path.join(folder, 'lint.yaml'),
      'extends: [recommended]\nrules:\n  operation-4xx-response: off\n  no-illogical-composition-keywords: off\n',
    );
    const cli = path.join(root, 'node_modules/@redocly/cli/bin/cli.js');
    const { stdout } = await run(process.execPath, [cli, 'lint', 'openapi.json', '--config', 'lint.yaml', '--format=json'], {
      cwd: folder,
      env: { ...process.env, REDOCLY_TELEMETRY: 'off', REDOCLY_SUPPRESS_UPDATE_NOTICE: 'true' },
      maxBuffer: 50_000_000,
    });
    const { problems } = JSON.parse(stdout) as {
      problems: { ruleId: string; message: string; location: { pointer: string }[] }[];
    };
    expect(problems.map(({ ruleId, message, location }) => `${location[0]?.pointer}: ${ruleId}: ${message}`)).toEqual([]);
  });

  test('gives a client that compiles, and runs the first hand-off', async () => {
    const base = await server.server.app.listen({ port: 0, host: '127.0.0.1' });
    writeFileSync(
      path.join(folder, 'api.ts'),
      astToString(await openapiTS(makeOpenApi() as never, { defaultNonNullable: false })),
    );
    writeFileSync(path.join(folder, 'client.ts'), CLIENT);
    writeFileSync(
      path.join(folder, 'tsconfig.json'),
      JSON.stringify({
        extends: `${root}/tsconfig.base.json`,
        compilerOptions: { lib: ['ES2023', 'DOM'], types: ['node'] },
        include: ['.'],
      }),
    );
    await run(process.execPath, [path.join(root, 'node_modules/typescript-7/bin/tsc'), '-p', folder], { cwd: root }).catch(
      (error: { stdout?: string }) => {
        throw new Error(error.stdout);
      },
    );
    const borrower = DEMO_MEMBERS.find(({ email }) => email.startsWith('beryl'));
    const { stdout } = await run(process.execPath, ['--import', 'tsx', path.join(folder, 'client.ts')], {
      cwd: root,
      env: { ...process.env, BASE: base, EMAIL: borrower?.email ?? '', PASSWORD: DEMO_PASSWORD },
    });
    expect(stdout.trim()).toMatch(/^L-\d{4}-\d{4} at Registrar check$/);
  });
});

/** What somebody writes who knows the document alone. */
const CLIENT = `
import createClient from 'openapi-fetch';
import type { components, paths } from './api.ts';

const { BASE = '', EMAIL = '', PASSWORD = '' } = process.env;
let cookie = '';
const client = createClient<paths>({ baseUrl: BASE });
client.use({
  onRequest: ({ request }) => {
    request.headers.set('cookie', cookie);
    request.headers.set('origin', BASE);
  },
  onResponse: ({ response }) => {
    const set = response.headers.getSetCookie();
    if (set.length > 0) cookie = set.map((one) => one.split(';')[0]).join('; ');
  },
});

function must<T>(answer: { data?: T; error?: components['schemas']['Problem'] | undefined }): T {
  if (answer.data === undefined) throw new Error(JSON.stringify(answer.error));
  return answer.data;
}

must(await client.POST('/api/session', { body: { email: EMAIL, password: PASSWORD } }));
const intakes = must(await client.GET('/api/intakes'));
const [intake] = intakes;
if (!intake) throw new Error('no intake');
const { workflow: key, stage } = intake;
const { form } = must(await client.POST('/api/intakes/{key}/{stage}/form', { params: { path: { key, stage } }, body: {} }));
const [handOff] = form.definition.handOffs;
const { record } = must(
  await client.POST('/api/intakes/{key}/records', {
    params: { path: { key }, header: { 'Idempotency-Key': 'from-a-client' } },
    body: {
      stage,
      handOff: handOff?.key ?? '',
      values: {
        borrower: 'Hollen Street Gallery',
        borrowerEmail: 'beryl@hollenstreet.invalid',
        kind: 'study',
        fromDate: '2027-03-12',
        toDate: '2027-06-11',
        objects: [{ id: 'r1', values: { title: 'Tide clock', material: 'metal', insuredValue: '2100.50' } }],
      },
    },
  }),
);
console.log(record.number, 'at', record.stageName);
`;

describe('documents of the API', () => {
  test.each(['/api/openapi.json', '/api/schemas/workflow.json'])('%s is compressed, and known by its tag', async (url) => {
    const { app } = server.server;
    const plain = await app.inject({ url });
    expect([plain.statusCode, plain.headers['content-type']]).toEqual([200, 'application/json; charset=utf-8']);
    const small = await app.inject({ url, headers: { 'accept-encoding': 'gzip, br' } });
    expect(small.headers['content-encoding']).toBe('br');
    expect(brotliDecompressSync(small.rawPayload).toString()).toBe(plain.body);
    const again = await app.inject({ url, headers: { 'if-none-match': String(plain.headers.etag) } });
    expect([again.statusCode, again.body]).toEqual([304, '']);
  });

  test('are given to one address sixty times a minute', async () => {
    const statuses: number[] = [];
    for (let count = 0; count < 62; count++)
      statuses.push(
        (await server.server.app.inject({ url: '/api/schemas/workflow.json', remoteAddress: '192.0.2.7' })).statusCode,
      );
    expect(statuses).toEqual([...Array.from({ length: 60 }, () => 200), 429, 429]);
  });
});
