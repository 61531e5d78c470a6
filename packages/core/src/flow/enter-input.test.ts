import { describe, expect, test } from '@jest/globals';
import { OUTSIDE, person } from '@ypomet/testkit/sample-workflow';
import { CLERK, handedOn, recordOf, refusalsOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import type { Json } from '../shared/json.ts';
import { type FileFacts, makeOutside } from './record.ts';
import { brokenSignOffs } from './sign-off.ts';

const FILE: FileFacts = { name: 'plan.pdf', mediaType: 'application/pdf', bytes: 5 };
const SHA = 'a'.repeat(64);
const outside = makeOutside({
  ...OUTSIDE,
  findMember: (id) => (id === 'clara' ? { id, name: 'Clara', roles: ['clerk'] } : null),
  findFile: (sha256) => (sha256 === SHA ? FILE : null),
});

describe('members and files are those there are', () => {
  const workflow = smallCompiled({
    fields: [
      { type: 'member', key: 'who' },
      { type: 'member', key: 'chief', role: 'chief' },
      { type: 'file', key: 'plans' },
      { type: 'table', key: 'rows', fields: [{ type: 'member', key: 'who', name: 'Who' }] },
    ],
  });
  const file = { ...FILE, sha256: SHA };

  test.each<[string, Record<string, Json>, string[]]>([
    ['a member', { who: 'clara' }, []],
    ['nobody', { who: 'nobody' }, ['who: value/unknown-member']],
    ['a member without the role', { chief: 'clara' }, ['chief: value/member-role']],
    ['nobody, in a row', { rows: [{ id: 'a', values: { who: 'nobody' } }] }, ['rows[a].who: value/unknown-member']],
    ['a file handed over', { plans: [file] }, []],
    ['a file under another name', { plans: [{ ...file, name: 'other.pdf' }] }, ['plans: value/unknown-file']],
    ['a file of another size', { plans: [{ ...file, bytes: 6 }] }, ['plans: value/unknown-file']],
    ['a file nobody handed over', { plans: [{ ...file, sha256: 'b'.repeat(64) }] }, ['plans: value/unknown-file']],
  ])('%s', (_name, input, expected) => {
    expect(refusalsOf(workflow, recordOf(workflow), 'send', input, undefined, outside)).toEqual(expected);
  });

  test('what the record has may stay, also when the member has gone since', () => {
    const record = recordOf(workflow, { who: 'gone', rows: [{ id: 'a', values: { who: 'gone' } }] });
    const input = { who: 'gone', rows: [{ id: 'a', values: { who: 'gone' } }] };
    expect(refusalsOf(workflow, record, 'send', input, undefined, outside)).toEqual([]);
  });
});

describe('a sign-off is set down by who decides, not by who sends it', () => {
  const workflow = smallCompiled({
    fields: [
      { type: 'text', key: 'text' },
      { type: 'number', key: 'twice', expression: 'string length(text) * 2' },
      { type: 'text', key: 'inner', treatment: 'hidden' },
      { type: 'sign-off', key: 'agreed' },
    ],
  });
  const begun = recordOf(workflow, { inner: 'x' }, 'work');
  const signed = (values: Record<string, Json>) =>
    handedOn(workflow, begun, 'finish', { ...values, agreed: { sign: true } }).record;
  const broken = (values: Record<string, Json>) => brokenSignOffs(workflow.forms, { values }, 'UTC');

  test('who, when, what was shown, and a hash of it', () => {
    const { agreed } = signed({ text: 'Yes' }).values;
    expect(agreed).toEqual({
      by: CLERK.id,
      name: CLERK.name,
      at: '2026-11-25T09:30:00Z',
      sha256: expect.stringMatching(/^[0-9a-f]{64}$/),
      fields: ['text'],
    });
    expect(signed({ text: 'Yes' }).values.agreed).toEqual(agreed);
    expect(signed({ text: 'No' }).values.agreed).not.toEqual(agreed);
  });

  test('it stands until a signed value changes, and stands again when that is taken back', () => {
    const { values } = signed({ text: 'Yes' });
    expect(broken(values)).toEqual([]);
    expect(broken({ ...values, inner: 'y' })).toEqual([]);
    expect(broken({ ...values, text: 'Yes!' })).toEqual(['agreed']);
    const changed = { ...values, text: 'Yes!' };
    expect(broken({ ...changed, text: 'Yes' })).toEqual([]);
  });

  test.each<[string, Json]>([
    ['made up', { by: 'chief', name: 'Chief', at: '2026-11-25T09:30:00Z', sha256: SHA, fields: ['text'] }],
    ['a flag', true],
    ['a refusal to sign', { sign: false }],
  ])('%s is refused', (_name, agreed) => {
    expect(refusalsOf(workflow, begun, 'finish', { agreed })).toEqual(['agreed: value/wrong-type']);
  });

  test('the one that is there may be sent again, or taken back', () => {
    const record = { ...signed({ text: 'Yes' }), stage: 'work' };
    const sent = handedOn(workflow, record, 'finish', { agreed: record.values.agreed as Json }).record;
    expect(sent.values.agreed).toEqual(record.values.agreed);
    expect(handedOn(workflow, record, 'finish', { agreed: null }).record.values.agreed).toBeUndefined();
  });
});

describe('what is sent is refused by name, and cheaply', () => {
  const workflow = smallCompiled({ fields: [{ type: 'text', key: 'text' }] });

  test('of 150,000 unknown keys a hundred are named', () => {
    const input = Object.fromEntries(Array.from({ length: 150_000 }, (_, index) => [`k${index}`, 1]));
    const found = refusalsOf(workflow, recordOf(workflow), 'send', input);
    expect([found.length, found[0]]).toEqual([100, 'k0: hand-off/unknown-field']);
  });

  test.each([
    ['the character U+0000', 'a\u0000b'],
    ['half of a surrogate pair', 'a\ud800b'],
  ])('%s', (_name, text) => {
    expect(refusalsOf(workflow, recordOf(workflow), 'send', { text })).toEqual(['text: value/wrong-type']);
  });
});

test('a cell whose table is locked keeps its value, and no clean-up touches it', () => {
  const workflow = smallCompiled({
    fields: [
      { type: 'yes-no', key: 'locked' },
      {
        type: 'table',
        key: 'rows',
        fields: [
          { type: 'text', key: 'a', name: 'A' },
          { type: 'text', key: 'b', name: 'B' },
        ],
      },
    ],
    plan: { rows: { work: 'read-only' }, 'rows.b': { work: 'optional' } },
    adjustments: [{ key: 'x', name: 'X', when: 'row.a = "1"', fields: ['rows.b'], treatment: 'hidden', stages: ['work'] }],
  });
  const rows = [{ id: 'r', values: { a: '1', b: 'kept' } }];
  const { values } = handedOn(workflow, recordOf(workflow, { rows }, 'work'), 'finish', {}, person('clara', 'clerk')).record;
  expect(values.rows).toEqual(rows);
});
