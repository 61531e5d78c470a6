import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { type Call, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

// All that somebody may see of a record, beside the short form of its stage.
let server: TestServer;
let registrar: Call;
let conservator: Call;
let record: string;

const DESIGN = {
  format: 'ypomet.workflow/1',
  key: 'whole',
  name: 'Whole',
  roles: [
    { key: 'registrar', name: 'Registrar' },
    { key: 'conservator', name: 'Conservator' },
  ],
  sections: [{ key: 'all', name: 'All' }],
  fields: [
    { key: 'why', name: 'Why', section: 'all', type: 'text', treatment: 'hidden' },
    { key: 'price', name: 'Price', section: 'all', type: 'money', currency: 'EUR', treatment: 'hidden' },
    { key: 'secret', name: 'Secret', section: 'all', type: 'text', treatment: 'hidden', confidentialTo: ['conservator'] },
    { key: 'note', name: 'Note', section: 'all', type: 'text', treatment: 'hidden' },
  ],
  plan: {
    why: { ask: 'optional' },
    price: { ask: 'optional' },
    secret: { ask: 'optional', look: 'optional' },
    note: { work: 'optional', look: 'optional' },
  },
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], roles: ['registrar', 'conservator'] },
    { key: 'work', name: 'Work', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'look', name: 'Look', kind: 'work', tracks: ['main'], roles: ['conservator'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'work' } },
    { key: 'pass', name: 'Pass', from: 'work', otherwise: { to: 'look' } },
    { key: 'end', name: 'End', from: 'look', otherwise: { to: 'done' } },
  ],
};

beforeAll(async () => {
  server = await TestServer.make();
  [registrar, conservator] = await Promise.all([server.as('registrar'), server.as('conservator')]);
  await publishDefinition(await server.as('analyst'), DESIGN);
  const values = { why: 'A show', price: '12.50', secret: 'Between us' };
  const { body } = await conservator('POST', '/api/intakes/whole/records', { stage: 'ask', handOff: 'send', values });
  record = body.record.id;
});
afterAll(() => server.close());

const shown = async (call: Call) => (await call('GET', `/api/records/${record}/shown`)).body;

describe('all that one may see', () => {
  test('is what any of one’s stages shows, though the present one asks for less', async () => {
    const { body } = await registrar('GET', `/api/records/${record}`);
    expect(body.mayAct).toBe(true);
    expect(Object.keys(body.form.values)).not.toContain('why');
    const whole = await shown(registrar);
    expect(whole.values).toEqual({ why: 'A show', price: '12.50' });
    expect(whole.definition.handOffs).toEqual([]);
  });

  test('leaves out what isn’t for one’s roles: neither the value nor the field', async () => {
    expect(JSON.stringify(await shown(registrar))).not.toMatch(/secret|Between us/i);
    expect((await shown(conservator)).values).toMatchObject({ secret: 'Between us' });
  });

  test('isn’t there for whoever can’t see the record', async () => {
    const answer = await (await server.as('borrower'))('GET', `/api/records/${record}/shown`);
    expect(problemOf(answer).code).toBe('thing/not-found');
  });
});
