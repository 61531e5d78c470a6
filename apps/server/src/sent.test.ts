import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { type Call, publishDefinition, TestServer } from './testing/test-server.ts';

// What was sent to whom, beside the record: for those who may know of it.
let server: TestServer;
let record: string;
const as: Record<string, Call> = {};

const DESIGN = {
  format: 'ypomet.workflow/1',
  key: 'told',
  name: 'Told',
  roles: [
    { key: 'registrar', name: 'Registrar' },
    { key: 'conservator', name: 'Conservator' },
  ],
  sections: [{ key: 'all', name: 'All' }],
  fields: [
    { key: 'what', name: 'What', section: 'all', type: 'text', treatment: 'optional' },
    { key: 'source', name: 'Source', section: 'all', type: 'text', treatment: 'hidden', confidentialTo: ['registrar'] },
  ],
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
    { key: 'work', name: 'Work', kind: 'work', tracks: ['main'], roles: ['registrar', 'conservator'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [
    {
      key: 'send',
      name: 'Send',
      from: 'ask',
      otherwise: { to: 'work' },
      deliveries: [
        {
          kind: 'mail',
          key: 'thanks',
          name: 'Thanks to the borrower',
          to: [{ kind: 'submitter' }],
          subject: 'It came',
          body: 'Thanks.',
        },
        {
          kind: 'mail',
          key: 'tell',
          name: 'To the registrars',
          to: [{ kind: 'role', role: 'registrar' }],
          subject: 'New',
          body: 'See.',
        },
      ],
    },
    { key: 'finish', name: 'Finish', from: 'work', otherwise: { to: 'done' } },
  ],
};

beforeAll(async () => {
  server = await TestServer.make();
  for (const who of ['registrar', 'conservator', 'borrower', 'other'] as const) as[who] = await server.as(who);
  await publishDefinition(await server.as('analyst'), DESIGN);
  const begun = await as.borrower?.('POST', '/api/intakes/told/records', { stage: 'ask', handOff: 'send', values: {} });
  record = begun?.body.record.id;
});
afterAll(() => server.close());

const sent = async (who: string): Promise<readonly (readonly [string, readonly string[]])[]> => {
  const answer = await as[who]?.('GET', `/api/records/${record}`);
  return answer?.body.sent.map(({ what, to }: { what: string; to: string[] }) => [what, to]).sort();
};

test('whoever may read all of it knows what was sent, and to whom', async () => {
  expect(await sent('registrar')).toEqual([
    ['Thanks to the borrower', ['beryl@hollenstreet.invalid']],
    ['To the registrars', ['rufus@lindenmuseum.invalid']],
  ]);
});

test('a colleague who may not read a confidential field knows that something was sent, not to which address', async () => {
  expect(await sent('conservator')).toEqual([
    ['Thanks to the borrower', []],
    ['To the registrars', []],
  ]);
});

test('a submitter knows of what was sent to themselves alone', async () => {
  expect(await sent('borrower')).toEqual([['It came', ['beryl@hollenstreet.invalid']]]);
  expect((await as.other?.('GET', `/api/records/${record}`))?.status).toBe(404);
});
