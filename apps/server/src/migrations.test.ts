import { readdirSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { DraftEditEntry } from '@ypomet/contract';
import { describeEdit } from '@ypomet/core';
import { migrateDatabase } from './db/database.ts';
import { seedDemo } from './demo/seed.ts';
import { WorkflowCache } from './modules/workflows/workflow-cache.ts';
import { editing, eventually, TestServer } from './testing/test-server.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make();
});
afterAll(() => server.close());

const rows = async (text: string) => (await server.server.context.database.pool.query(text)).rows;

/**
 * Takes back what came since the first landing, as a database of then has it. Deliveries get new ids: the mailbox drops a mail
 * that it has taken in before.
 */
const BACK_TO_THE_FIRST = `
  drop table uploads; drop collation ypomet_natural; drop table pending_follow_ups; drop index deliveries_open, deliveries_in_order, deliveries_digest; alter table deliveries drop column sequence, drop column digest;
  drop table reversible_hand_offs; drop table guest_addresses; drop table guests; drop table public_links; drop table desk_views;
  drop index members_email; alter table members drop column is_guest; create unique index members_email on members (lower(email));
  drop table unfinished_forms, record_readings; drop table register_views; drop index records_register, records_register_due, records_register_arrival, records_stage;
  drop function ypomet_number, ypomet_instant, ypomet_date, ypomet_time;
  drop table files; drop table limits; drop table delivery_attempts; drop table outlets; drop table assignments;
  alter table records drop column intake, drop column defaulted, drop column opened_by, drop column follow_up, drop column opened_row,
    drop column depth, drop column issues, drop column due, drop column due_at, drop column reminded, drop column refused,
    drop column refused_at, drop column clock_at;
  alter table record_events drop column told;
  alter table versions drop column refers_to, drop column accepted, drop column notes;
  alter table workflows drop column owner, drop column archived_at, drop column told_waiting_at;
  alter table workspace drop column is_seeded, drop column calendar, drop column next_pages;
  update deliveries set body = 'As it was sent then.', id = gen_random_uuid();
  alter table deliveries drop column fault, drop column delivery, drop column outlet, drop column content, drop column next_at,
    add column last_error text;
  alter table draft_edits drop column id, drop column sentence;
  insert into draft_edits (workflow, revision, position, edit, inverse) select 'objectLoan', 1, e.ordinality - 1, e.value, e.value from
    jsonb_array_elements('[{"type":"set-treatments","cells":[{"field":"reason","stage":"closed","treatment":"hidden"}]},
      {"type":"rename-branch","handOff":"accept","branch":"refuse","name":"No"},{"type":"replace-definition","definition":{}}]') with ordinality e;
  update deliveries set last_error = 'refused once', status = 'waiting';
  update versions set definition = (regexp_replace((definition::jsonb - 'submitterSees')::text, '"key": "[a-zA-Z0-9_]+", "kind": "(role|submitter)"', '"kind": "\\1"', 'g'))::json;
  update workflows set definition = (definition::jsonb - 'submitterSees')::json;
  delete from drizzle.__drizzle_migrations where id > 1;`;

describe('a database of the first landing', () => {
  test('opens: records know their intake, versions what they refer to, and everything works on', async () => {
    const before = await rows('select id, values, stage from records order by id');
    await server.server.context.database.pool.query(BACK_TO_THE_FIRST);
    await migrateDatabase(server.databaseUrl);

    expect(await rows('select id, values, stage from records order by id')).toEqual(before);
    expect(await rows('select distinct intake from records')).toEqual([{ intake: 'request' }]);
    const newest = { objectLoan: 1, conditionReport: 1, transportBooking: 1 };
    expect(await rows('select distinct refers_to, accepted from versions')).toEqual([{ refers_to: newest, accepted: [] }]);
    expect(await rows("select distinct fault from deliveries where status = 'waiting'")).toEqual([
      { fault: { code: 'refused', params: { answer: 'refused once' } } },
    ]);
    expect(await rows('select is_seeded from workspace')).toEqual([{ is_seeded: true }]);

    const version = await new WorkflowCache(server.server.context.database.pool).find('objectLoan', 1);
    expect(version?.definition.submitterSees).toEqual({});
    const [analyst, borrower] = await Promise.all([server.as('analyst'), server.as('borrower')]);
    const draft = (await analyst('GET', '/api/workflows/objectLoan/draft')).body;
    const { edits } = editing({ type: 'set-submitter-sees', cells: [{ field: 'reason', sees: 'shown' }] });
    const edited = await analyst(
      'POST',
      '/api/workflows/objectLoan/draft/edits',
      { edits },
      { 'if-match': `"${draft.revision}"` },
    );
    expect(edited.status).toBe(200);
    const history = (await analyst('GET', '/api/workflows/objectLoan/draft/edits?limit=10')).body.entries as DraftEditEntry[];
    expect(history.map(({ sentence }) => describeEdit(sentence))).toEqual([
      'made Reason shown for the submitter',
      'read in a file',
      'changed name of the branch “refuse”',
      'set 1 cells of the plan: reason at closed',
    ]);
    // What waited then is sent as it was written then.
    const [waiting] = (await analyst('GET', '/api/deliveries?status=waiting&limit=1')).body.entries;
    await server.server.context.outlets.begin();
    expect((await analyst('POST', `/api/deliveries/${waiting.id}/attempts`)).status).toBe(200);
    await eventually(
      () => rows(`select status from deliveries where id = '${waiting.id}'`),
      ([one]) => one.status === 'sent',
    );
    const mailbox = (await analyst('GET', '/api/standins/mailbox?limit=1')).body;
    const mail = (await analyst('GET', `/api/standins/mailbox/${mailbox.entries[0].id}`)).body;
    expect(mail.text.trim()).toBe('As it was sent then.');
    const [mine] = (await borrower('GET', '/api/submitted')).body.entries;
    expect((await borrower('GET', `/api/records/${mine.record.id}`)).status).toBe(200);
  });

  test('is migrated once, by however many servers start at a time', async () => {
    await Promise.all(Array.from({ length: 4 }, () => migrateDatabase(server.databaseUrl)));
    expect(await rows('select count(*)::int as count from drizzle.__drizzle_migrations')).toEqual([
      { count: readdirSync(new URL('./db/migrations', import.meta.url)).filter((name) => name.endsWith('.sql')).length },
    ]);
  });
});

describe('a demo whose seeding was cut off', () => {
  const whole = `select (select count(*)::int from members) as members, (select count(*)::int from records) as records,
    (select count(*)::int from versions where workflow = 'objectLoan') as versions, (select is_seeded from workspace) as seeded`;

  test.each([
    [
      'before the last record was handed on',
      `delete from record_events where record in (select id from records where number like '%4') and revision > 1; update records set stage = 'registrarCheck', stage_kind = 'work', revision = 1, waiting_roles = '{registrar}' where number like '%4'; delete from answered_requests where key like 'demo-%4'`,
    ],
    [
      'after some members',
      `delete from record_events; delete from delivery_attempts; delete from deliveries; delete from records; delete from answered_requests; delete from sessions; delete from members where email like 'tomas%'`,
    ],
  ])('%s is whole when it starts again', async (_name, cut) => {
    const expected = { members: 6, records: 4, versions: 1, seeded: true };
    expect(await rows(whole)).toMatchObject([expected]);
    await server.server.context.database.pool.query(`${cut}; update workspace set is_seeded = false`);
    await seedDemo(server.server.context);
    expect(await rows(whole)).toMatchObject([expected]);
    await seedDemo(server.server.context);
    expect(await rows(whole)).toMatchObject([expected]);
  });
});
