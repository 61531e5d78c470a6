import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { Workflow } from '@ypomet/core';
import { WorkflowCache } from './modules/workflows/workflow-cache.ts';
import { type Call, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

let server: TestServer;
let analyst: Call;
beforeAll(async () => {
  server = await TestServer.make();
  analyst = await server.as('analyst');
});
afterAll(() => server.close());

/** A workflow that carries nothing, with the fields given. */
const small = (key: string, fields: readonly object[], more: object = {}) => ({
  format: 'ypomet.workflow/1',
  key,
  name: key,
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 'all', name: 'All' }],
  fields: fields.map((field) => ({ section: 'all', treatment: 'optional', ...field })),
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
    { key: 'work', name: 'Work', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'work' } },
    { key: 'finish', name: 'Finish', from: 'work', otherwise: { to: 'done' } },
  ],
  ...more,
});
const text = (key: string) => ({ type: 'text', key, name: key });

describe('publishing', () => {
  test('twice with one revision makes one version, also at once', async () => {
    for (let round = 0; round < 10; round++) {
      const key = `once${round}`;
      await analyst('POST', '/api/workflows', small(key, [text('a')]));
      const publish = () => analyst('POST', `/api/workflows/${key}/versions`, undefined, { 'if-match': '"1"' });
      const answers = await Promise.all([publish(), publish(), publish(), publish()]);
      expect(answers.map(({ status, body }) => [status, body.number])).toEqual(Array(4).fill([201, 1]));
      expect((await analyst('GET', `/api/workflows/${key}/versions`)).body).toHaveLength(1);
    }
  });

  test('a warning is accepted with a reason, which is kept; another’s reason doesn’t do', async () => {
    const warned = small('warned', [{ type: 'number', key: 'n', name: 'N' }], {
      handOffs: [
        { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'work' }, sets: [{ field: 'n', value: '0.5' }] },
        { key: 'finish', name: 'Finish', from: 'work', otherwise: { to: 'done' } },
      ],
    });
    await analyst('POST', '/api/workflows', warned);
    const publish = (accepted?: readonly object[]) =>
      analyst('POST', '/api/workflows/warned/versions', accepted && { accepted }, { 'if-match': '"1"' });
    const path = 'handOffs.send.sets.n.value';
    for (const accepted of [
      undefined,
      [],
      [{ code: 'set/rounded', path: 'handOffs.finish.sets.n.value', reason: 'For another.' }],
    ]) {
      expect(problemOf(await publish(accepted))).toEqual({
        status: 422,
        code: 'workflow/warnings',
        details: [`${path}: set/rounded`],
      });
    }
    expect(problemOf(await publish([{ code: 'set/rounded', path, reason: '  ' }]))).toMatchObject({ status: 400 });
    expect((await publish([{ code: 'set/rounded', path, reason: 'Halves are rounded.' }])).status).toBe(201);
    const { rows } = await server.server.context.database.pool.query(`select accepted from versions where workflow = 'warned'`);
    expect(rows[0].accepted).toEqual([{ code: 'set/rounded', path, reason: 'Halves are rounded.' }]);
  });

  test('a member who doesn’t exist can’t be assigned', async () => {
    const [ask, work, done] = small('strangers', []).stages;
    const stages = [ask, { ...work, assignment: { kind: 'member', expression: '"00000000-0000-4000-8000-000000000000"' } }, done];
    await analyst('POST', '/api/workflows', small('strangers', [], { stages }));
    const answer = await analyst('POST', '/api/workflows/strangers/versions', undefined, { 'if-match': '"1"' });
    expect(problemOf(answer)).toMatchObject({
      status: 422,
      details: ['stages.work.assignment.expression: workflow/unknown-key'],
    });
  });

  test('a workflow that isn’t there can’t be referred to', async () => {
    await analyst('POST', '/api/workflows', small('lost', [{ type: 'reference', key: 'r', name: 'R', workflow: 'nowhere' }]));
    const answer = await analyst('POST', '/api/workflows/lost/versions', undefined, { 'if-match': '"1"' });
    expect(problemOf(answer)).toMatchObject({ status: 422, details: ['fields.r.workflow: workflow/unknown-key'] });
  });
});

describe('workflows that refer to each other', () => {
  /** A workflow that opens another by its hand-off "send", beside a link back from whatever opens it. */
  const opening = (key: string, opens: readonly string[], linksTo: readonly string[] = []) =>
    small(
      key,
      linksTo.map((workflow) => ({ type: 'reference', key: `from_${workflow}`, name: workflow, workflow })),
      {
        handOffs: [
          {
            key: 'send',
            name: 'Send',
            from: 'ask',
            otherwise: { to: 'work' },
            followUps: opens.map((workflow) => ({
              key: `open_${workflow}`,
              name: workflow,
              workflow,
              handOff: 'send',
              link: `from_${key}`,
            })),
          },
          { key: 'finish', name: 'Finish', from: 'work', otherwise: { to: 'done' } },
        ],
      },
    );
  const make = async (...definitions: readonly { readonly key: string }[]) => {
    for (const one of definitions) expect((await analyst('POST', '/api/workflows', one)).status).toBe(201);
  };
  const publish = (key: string, together: readonly string[] = [], revision = 1) =>
    analyst(
      'POST',
      `/api/workflows/${key}/versions`,
      { together: together.map((one) => ({ key: one, revision: 1, accepted: [] })) },
      { 'if-match': `"${revision}"` },
    );

  test('are published together: a follow-up with its link back, from blank', async () => {
    await make(opening('mutualA', ['mutualB']), opening('mutualB', [], ['mutualA']));
    const neighbours = (await analyst('GET', '/api/workflows/mutualA/neighbours')).body;
    expect(neighbours.drafts).toEqual(['mutualB']);
    expect(neighbours.workflows.map((one: Workflow) => one.key)).toEqual(['mutualB']);
    const { body } = await analyst('GET', '/api/workflows/mutualA/publication');
    expect(body.workflows.map((one: { key: string; faults: unknown[] }) => [one.key, one.faults])).toEqual([
      ['mutualA', []],
      ['mutualB', []],
    ]);
    expect(problemOf(await publish('mutualA'))).toMatchObject({
      status: 422,
      details: ['handOffs.send.followUps.open_mutualB.workflow: workflow/unknown-key'],
    });
    expect((await publish('mutualA', ['mutualB'])).status).toBe(201);
    const { rows } = await server.server.context.database.pool.query(
      `select workflow, number, refers_to from versions where workflow like 'mutual%' order by workflow`,
    );
    expect(rows).toEqual([
      { workflow: 'mutualA', number: 1, refers_to: { mutualB: 1 } },
      { workflow: 'mutualB', number: 1, refers_to: { mutualA: 1 } },
    ]);
    // The record and what it opens.
    const begun = await analyst('POST', '/api/intakes/mutualA/records', { stage: 'ask', handOff: 'send', values: {} });
    expect(begun.status).toBe(201);
    const opened = await server.server.context.database.pool.query(
      `select r.values ->> 'from_mutualA' = o.id::text as "isLinked" from records r join records o on o.id = r.opened_by where r.workflow = 'mutualB'`,
    );
    expect(opened.rows).toEqual([{ isLinked: true }]);
    expect(problemOf(await publish('mutualA', ['mutualB', 'mutualB']))).toMatchObject({ status: 400, code: 'request/invalid' });
    // The same request again makes no further versions.
    expect((await publish('mutualA', ['mutualB'])).body.number).toBe(1);
  });

  test('what is wrong with any of them keeps all from being published, and names it', async () => {
    await make(opening('halfA', ['halfB']), opening('halfB', ['nowhere'], ['halfA']));
    expect(problemOf(await publish('halfA', ['halfB']))).toMatchObject({
      status: 422,
      details: ['halfB: handOffs.send.followUps.open_nowhere.workflow: workflow/unknown-key'],
    });
    const { rows } = await server.server.context.database.pool.query(`select 1 from versions where workflow like 'half%'`);
    expect(rows).toEqual([]);
  });

  test('a ring of three is a fault, also where only the last of them is published', async () => {
    await make(opening('ringA', ['ringB'], ['ringC']), opening('ringB', ['ringC'], ['ringA']), opening('ringC', [], ['ringB']));
    expect((await publish('ringA', ['ringB', 'ringC'])).status).toBe(201);
    const closed = opening('ringC', ['ringA'], ['ringB']);
    await analyst('PUT', '/api/workflows/ringC/draft', closed, { 'if-match': '"1"' });
    expect(problemOf(await publish('ringC', [], 2))).toMatchObject({
      status: 422,
      details: ['handOffs.send.followUps.open_ringA: follow-up/circle'],
    });
    await make(
      opening('openA', ['openB'], ['openC']),
      opening('openB', ['openC'], ['openA']),
      opening('openC', ['openA'], ['openB']),
    );
    const answer = problemOf(await publish('openA', ['openB', 'openC']));
    expect(answer.details).toContain('handOffs.send.followUps.open_openB: follow-up/circle');
  });

  test('a published workflow isn’t broken by another that becomes too deep beneath it', async () => {
    const keys = Array.from({ length: 9 }, (_, index) => `deep${index}`);
    await make(
      ...keys.map((key, index) => opening(key, keys.slice(index + 1, index + 2), index > 0 ? [`deep${index - 1}`] : [])),
    );
    expect((await publish('deep0', keys.slice(1))).status).toBe(201);
    await make(opening('deep9', [], ['deep8']));
    expect((await publish('deep9')).status).toBe(201);
    await analyst('PUT', '/api/workflows/deep8/draft', opening('deep8', ['deep9'], ['deep7']), { 'if-match': '"1"' });
    expect(problemOf(await publish('deep8', [], 2))).toMatchObject({
      status: 422,
      details: ['handOffs.send.followUps.open_deep9: follow-up/too-deep'],
    });
  });

  test('a changed draft of another published workflow can be published along, and is checked as it is then', async () => {
    await make(opening('alongA', ['alongB']), opening('alongB', [], ['alongA']));
    await publish('alongA', ['alongB']);
    const b = opening('alongB', [], ['alongA']);
    await analyst(
      'PUT',
      '/api/workflows/alongB/draft',
      { ...b, fields: [...b.fields, { ...text('extra'), section: 'all', treatment: 'optional' }] },
      { 'if-match': '"1"' },
    );
    const a = opening('alongA', ['alongB']);
    const [send, finish] = a.handOffs as [{ followUps: object[] }, object];
    const carrying = {
      ...send,
      followUps: send.followUps.map((one) => ({ ...one, carried: [{ field: 'extra', value: '"x"' }] })),
    };
    await analyst('PUT', '/api/workflows/alongA/draft', { ...a, handOffs: [carrying, finish] }, { 'if-match': '"1"' });
    const alone = (await analyst('GET', '/api/workflows/alongA/publication')).body;
    expect(alone.workflows.map((one: { faults: { code: string }[] }) => one.faults.map(({ code }) => code))).toEqual([
      ['workflow/unknown-key'],
    ]);
    expect(alone.others).toEqual([{ key: 'alongB', name: 'alongB', revision: 2, number: 2 }]);
    const along = (await analyst('GET', '/api/workflows/alongA/publication?along=alongB')).body;
    expect(along.workflows.map((one: { key: string; faults: unknown[] }) => [one.key, one.faults])).toEqual([
      ['alongA', []],
      ['alongB', []],
    ]);
    const answer = await analyst(
      'POST',
      '/api/workflows/alongA/versions',
      { together: [{ key: 'alongB', revision: 2 }] },
      { 'if-match': '"2"' },
    );
    expect(answer.status).toBe(201);
    expect(answer.body.number).toBe(2);
  });

  test('two people who publish the same workflows at once make one version of each', async () => {
    await make(opening('bothA', ['bothB']), opening('bothB', [], ['bothA']));
    const answers = await Promise.all([publish('bothA', ['bothB']), publish('bothB', ['bothA']), publish('bothA', ['bothB'])]);
    expect(answers.map(({ status, body }) => [status, body.number])).toEqual(Array(3).fill([201, 1]));
    const { rows } = await server.server.context.database.pool.query(`select workflow from versions where workflow like 'both%'`);
    expect(rows).toHaveLength(2);
  });
});

describe('a version names the versions of what it refers to', () => {
  const about = { type: 'reference', key: 'about', name: 'About', workflow: 'pinned' };
  const computed = { type: 'text', key: 'said', name: 'Said', expression: 'about.title' };

  test('so it is compiled alike in every process, whenever that meets it first', async () => {
    await publishDefinition(analyst, small('pinned', [text('title')]));
    await publishDefinition(analyst, small('pinning', [about, computed]));
    // The other workflow changes: what was text is a number now.
    const draft = (await analyst('GET', '/api/workflows/pinned/draft')).body;
    const changed = {
      ...draft.definition,
      fields: [{ ...text('title'), type: 'number', section: 'all', treatment: 'optional' }],
    };
    expect((await analyst('PUT', '/api/workflows/pinned/draft', changed, { 'if-match': '"1"' })).status).toBe(200);
    expect((await analyst('POST', '/api/workflows/pinned/versions', undefined, { 'if-match': '"2"' })).status).toBe(201);

    const fresh = new WorkflowCache(server.server.context.database.pool);
    const pinning = await fresh.find('pinning', 1);
    expect(pinning?.findWorkflow('pinned')?.fields[0]?.type).toBe('text');
    const { rows } = await server.server.context.database.pool.query(`select refers_to from versions where workflow = 'pinning'`);
    expect(rows[0].refers_to).toMatchObject({ pinned: 1 });
  });
});

describe('compiled versions', () => {
  test('are kept within a bound of size, and asked for at once are made once', async () => {
    for (const key of ['sized0', 'sized1', 'sized2']) await publishDefinition(analyst, small(key, [text('a')]));
    const length = JSON.stringify(Workflow.parse(small('sized0', [text('a')]))).length;
    const cache = new WorkflowCache(server.server.context.database.pool, length * 2 + 1);
    const [one, same] = await Promise.all([cache.find('sized0', 1), cache.find('sized0', 1)]);
    expect(one).toBe(same);
    await cache.find('sized1', 1);
    await cache.find('sized2', 1);
    expect(cache.kept.count).toBeLessThanOrEqual(2);
    expect(cache.kept.characters).toBeLessThanOrEqual(length * 2 + 1);
    expect((await cache.find('sized0', 1))?.definition.key).toBe('sized0');
  });

  test('the largest legal definition keeps nobody waiting while it is read and checked', async () => {
    const fields = Array.from({ length: 1000 }, (_, index) => ({
      type: 'number',
      key: `n${index}`,
      name: `N${index}`,
      expression: index === 0 ? null : `if n${index - 1} > ${index} then n${index - 1} + 1 else ${index}`,
    }));
    const adjustments = Array.from({ length: 1000 }, (_, index) => ({
      key: `a${index}`,
      name: `A${index}`,
      when: `n${index} > 3 and n${(index + 1) % 1000} < 10`,
      fields: [`n${(index + 500) % 1000}`],
      treatment: 'read-only',
      stages: [],
    }));
    const created = await analyst('POST', '/api/workflows', small('largest', fields, { adjustments }));
    expect(created.status).toBe(201);
    let isUnderWay = true;
    const published = analyst('POST', '/api/workflows/largest/versions', undefined, { 'if-match': '"1"' }).finally(() => {
      isUnderWay = false;
    });
    let servedMeanwhile = 0;
    while (isUnderWay) {
      await server.anybody('GET', '/api/health');
      if (isUnderWay) servedMeanwhile += 1;
    }
    expect([201, 422]).toContain((await published).status);
    expect(servedMeanwhile).toBeGreaterThan(20);
  }, 60_000);
});
