import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { describeEvent, type NamedEvent, writePlain } from '@ypomet/core';
import { eventually, loanRequest, objectRow, problemOf, TestServer } from './testing/test-server.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make();
});
afterAll(() => server.close());

const row = objectRow;
const REQUEST = loanRequest(row('a', 'Harbour study', 'paper', '18400.00'), row('b', 'Tide clock', 'metal', '44000.00'));

const begin = async (values: object = REQUEST, key?: string) => {
  const borrower = await server.as('borrower');
  return borrower(
    'POST',
    '/api/intakes/objectLoan/records',
    { stage: 'request', handOff: 'submit', values },
    key ? { 'idempotency-key': key } : {},
  );
};

describe('beginning a record', () => {
  test('gives it a number, an acknowledgement and its place', async () => {
    const { status, body } = await begin();
    expect(status).toBe(201);
    expect(body.record).toMatchObject({
      stage: 'registrarCheck',
      track: 'exhibition',
      version: 1,
      revision: 1,
      workflowName: 'Object loan',
    });
    expect(writePlain(body.acknowledgement)).toBe(
      `Thank you, Hollen Street Gallery. Your request ${body.record.number} is with the registrars, who answer within 5 working days.`,
    );
  });

  test('a study goes on the study track, without a venue', async () => {
    const { venue: _, ...study } = { ...REQUEST, kind: 'study' };
    const { body } = await begin(study);
    expect(body.record.track).toBe('study');
  });

  test('what is missing or wrong is said field by field, and nothing is stored', async () => {
    const borrower = await server.as('borrower');
    const before = (await borrower('GET', '/api/submitted')).body.entries.length;
    const answer = await begin({ ...REQUEST, borrowerEmail: 'nowhere', toDate: '2027-01-01', objects: [] });
    expect(problemOf(answer)).toEqual({
      status: 422,
      code: 'hand-off/refused',
      details: ['borrowerEmail: form/pattern', 'objects: form/required', 'toDate: form/check'],
    });
    expect(answer.body.details[0].message).toBe('Write an e-mail address, such as name@place.example.');
    expect((await borrower('GET', '/api/submitted')).body.entries).toHaveLength(before);
  });

  test.each([
    ['a field that isn’t there', { nope: 1 }, 'nope: hand-off/unknown-field'],
    ['a field of a later stage', { ...REQUEST, luxLimit: '50' }, 'luxLimit: hand-off/unknown-field'],
    ['a computed field', { ...REQUEST, totalValue: '1.00' }, 'totalValue: hand-off/may-not-enter'],
    [
      'a number that is a number in JSON',
      { ...REQUEST, objects: [{ id: 'a', values: { insuredValue: 5 } }] },
      'objects[a].insuredValue: value/wrong-type',
    ],
    ['a date that is none', { ...REQUEST, fromDate: '2027-02-30' }, 'fromDate: value/wrong-type'],
    [
      'rows with one id twice',
      { ...REQUEST, objects: [row('a', 'x', 'paper', '1'), row('a', 'y', 'paper', '1')] },
      'objects[a]: value/wrong-type',
    ],
    [
      'an unknown sub-field',
      { ...REQUEST, objects: [{ id: 'a', values: { weight: '1' } }] },
      'objects[a].weight: value/unknown-field',
    ],
  ])('%s is refused by name', async (_name, values, detail) => {
    expect(problemOf(await begin(values)).details).toContain(detail);
  });

  test('keys that reach for a prototype never arrive', async () => {
    const borrower = await server.as('borrower');
    const body = '{"stage": "request", "handOff": "submit", "values": {"__proto__": {"x": 1}}}';
    expect(problemOf(await borrower('POST', '/api/intakes/objectLoan/records', body))).toMatchObject({
      status: 400,
      code: 'request/malformed',
    });
    const answer = await borrower('POST', '/api/intakes/objectLoan/records', body.replace('__proto__', 'toString'));
    expect(problemOf(answer).details).toEqual(['toString: hand-off/unknown-field']);
  });

  test('sent twice with one key it acts once and answers the same', async () => {
    const [one, two] = await Promise.all([begin(REQUEST, 'key-begin-1'), begin(REQUEST, 'key-begin-1')]);
    const three = await begin(REQUEST, 'key-begin-1');
    expect(new Set([one, two, three].map((answer) => answer.body.record.id)).size).toBe(1);
    expect(problemOf(await begin({ ...REQUEST, venue: 'overseas' }, 'key-begin-1'))).toMatchObject({
      status: 422,
      code: 'request/idempotency-mismatch',
    });
  });
});

describe('handing on', () => {
  const accept = async (id: string, revision: number, values: object, headers: Record<string, string> = {}) => {
    const registrar = await server.as('registrar');
    return registrar(
      'POST',
      `/api/records/${id}/hand-offs`,
      { handOff: 'accept', values },
      { 'if-match': `"${revision}"`, ...headers },
    );
  };

  test('an adjustment requires a field for this record only', async () => {
    const { body } = await begin();
    expect(problemOf(await accept(body.record.id, 1, {})).details).toEqual(['luxLimit: form/required']);
    const metal = await begin({ ...REQUEST, objects: [row('b', 'Tide clock', 'metal', '44000.00')] });
    expect((await accept(metal.body.record.id, 1, {})).body.record.stage).toBe('directorSignOff');
  });

  test('the branch is taken on the exact value', async () => {
    const worth = async (value: string) => {
      const { body } = await begin({ ...REQUEST, objects: [row('a', 'Anchor', 'metal', value)] });
      return (await accept(body.record.id, 1, {})).body.record.stage;
    };
    expect(await worth('50000.00')).toBe('directorSignOff');
    expect(await worth('50000.01')).toBe('conservationReview');
  });

  test('a stale revision changes nothing; a missing one is asked for', async () => {
    const { body } = await begin();
    const { id } = body.record;
    expect(problemOf(await accept(id, 7, { luxLimit: '50' }))).toMatchObject({ status: 412, code: 'revision/stale' });
    const registrar = await server.as('registrar');
    expect(problemOf(await registrar('POST', `/api/records/${id}/hand-offs`, { handOff: 'accept', values: {} }))).toMatchObject({
      status: 428,
      code: 'revision/missing',
    });
    expect((await registrar('GET', `/api/records/${id}`)).body.record).toMatchObject({ stage: 'registrarCheck', revision: 1 });
  });

  test('of many at once just one is carried out', async () => {
    const { body } = await begin();
    const answers = await Promise.all(Array.from({ length: 8 }, () => accept(body.record.id, 1, { luxLimit: '50' })));
    expect(answers.filter((answer) => answer.status === 200)).toHaveLength(1);
    expect(
      answers
        .map((answer) => `${answer.status} ${answer.body.code ?? ''}`)
        .sort()
        .slice(1),
    ).toEqual(Array(7).fill('412 revision/stale'));
  });

  test('only the stage’s role may; others don’t even see the record', async () => {
    const { body } = await begin();
    const url = `/api/records/${body.record.id}`;
    const act = { handOff: 'accept', values: {} };
    expect(
      problemOf(await (await server.as('conservator'))('POST', `${url}/hand-offs`, act, { 'if-match': '"1"' })).details,
    ).toEqual(['accept: hand-off/not-allowed']);
    expect((await (await server.as('other'))('GET', url)).status).toBe(404);
    expect((await server.anybody('GET', url)).status).toBe(401);
    expect((await (await server.as('borrower'))('GET', url)).body).toMatchObject({ mayAct: false });
  });

  test('sent back, the submitter has it again, and only they', async () => {
    const { body } = await begin();
    const registrar = await server.as('registrar');
    const url = `/api/records/${body.record.id}`;
    await registrar(
      'POST',
      `${url}/hand-offs`,
      { handOff: 'askBorrower', values: { reason: 'Which hall?' } },
      { 'if-match': '"1"' },
    );
    const borrower = await server.as('borrower');
    expect((await borrower('GET', url)).body).toMatchObject({ mayAct: true, record: { stage: 'request' } });
    expect(
      (await borrower('GET', '/api/desk')).body.entries.map((entry: { record: { id: string } }) => entry.record.id),
    ).toContain(body.record.id);
    expect((await registrar('GET', url)).body.mayAct).toBe(false);
  });

  test('hidden values are in no part of what a browser gets', async () => {
    const { body } = await begin();
    const url = `/api/records/${body.record.id}`;
    const registrar = await server.as('registrar');
    await registrar(
      'POST',
      `${url}/hand-offs`,
      { handOff: 'askBorrower', values: { reason: 'Which hall?', luxLimit: '7417' } },
      { 'if-match': '"1"' },
    );
    const seen = await (await server.as('borrower'))('GET', url);
    expect(seen.status).toBe(200);
    expect(JSON.stringify(seen.body)).not.toContain('7417');
    expect(seen.body.form.definition.fields.map((field: { key: string }) => field.key)).not.toContain('luxLimit');
    // What is asked of the borrower is theirs to read.
    expect(seen.body.form.values.reason).toBe('Which hall?');
  });

  test('history says who did what, mails are queued with it and arrive', async () => {
    const { body } = await begin();
    const accepted = await accept(body.record.id, 1, { luxLimit: '50' });
    const record = (await (await server.as('registrar'))('GET', `/api/records/${body.record.id}`)).body;
    expect(record.history.map((entry: NamedEvent) => describeEvent(entry))).toEqual([
      'Beryl Quist pressed “Submit request” at Request. It went to Registrar check.',
      'Rufus Okonjo pressed “Accept” at Registrar check. It went to Conservation review.',
    ]);
    const analyst = await server.as('analyst');
    const sent = await eventually(
      async () =>
        (await analyst('GET', '/api/deliveries?limit=200')).body.entries.filter(
          (entry: { recordId: string }) => entry.recordId === accepted.body.record.id,
        ),
      (entries: { status: string; recipients: string[] }[]) =>
        entries.length === 3 && entries.every((entry) => entry.status === 'sent'),
    );
    expect(sent.map((entry: { recipients: string[] }) => entry.recipients.join())).toEqual(
      expect.arrayContaining(['rufus@lindenmuseum.invalid', 'carla@lindenmuseum.invalid', 'beryl@hollenstreet.invalid']),
    );
    const mails = (await analyst('GET', '/api/standins/mailbox?limit=200')).body.entries;
    const mail = mails.find((entry: { subject: string }) => entry.subject === 'Review asked: Hollen Street Gallery, 2 objects');
    const text = (await analyst('GET', `/api/standins/mailbox/${mail.id}`)).body.text;
    expect(text).toContain('Harbour study · Paper · €18,400.00');
  });
});

describe('the form, asked for again', () => {
  test('follows what was entered and refuses what may not be', async () => {
    const borrower = await server.as('borrower');
    const url = '/api/intakes/objectLoan/request/form';
    const form = (await borrower('POST', url, { values: { kind: 'study' } })).body.form;
    expect(form.definition.adjustments.map((one: { key: string }) => one.key)).toContain('studyHere');
    expect(problemOf(await borrower('POST', url, { values: { luxLimit: '7' } })).details).toEqual([
      'luxLimit: hand-off/unknown-field',
    ]);
    expect((await borrower('POST', '/api/intakes/objectLoan/registrarCheck/form', { values: {} })).status).toBe(404);
  });
});

describe('lists', () => {
  test('are paged without gaps or repeats', async () => {
    const borrower = await server.as('borrower');
    const seen: string[] = [];
    let after = '';
    for (;;) {
      const page = (await borrower('GET', `/api/submitted?limit=3${after ? `&after=${after}` : ''}`)).body;
      seen.push(...page.entries.map((entry: { record: { id: string } }) => entry.record.id));
      if (page.next === null) break;
      after = page.next;
    }
    expect(new Set(seen).size).toBe(seen.length);
    expect(seen.length).toBe((await borrower('GET', '/api/submitted?limit=200')).body.entries.length);
    expect((await borrower('GET', '/api/submitted?limit=0')).status).toBe(400);
    expect((await borrower('GET', '/api/submitted?after=nonsense')).status).toBe(400);
  });
});
