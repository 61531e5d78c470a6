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
