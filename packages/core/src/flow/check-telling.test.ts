import { describe, expect, test } from '@jest/globals';
import { type SmallParts, smallCompiled } from '@ypomet/testkit/small-workflow';
import { describeTerm } from '../messages/describe.ts';

const RESERVE = { type: 'number', key: 'reserve', confidentialTo: ['chief'], treatment: 'hidden' };
const HIGH = 'reserve > 1000';
const FIELDS = [RESERVE, { type: 'text', key: 'why' }, { type: 'yes-no', key: 'high', expression: HIGH, treatment: 'hidden' }];
const mail = (to: object, when = HIGH) => ({
  deliveries: [{ kind: 'mail', key: 'm', name: 'M', to: [to], subject: 'S', body: 'B', when }],
});
const request = (readsAs: readonly string[]) => ({
  deliveries: [{ kind: 'web', key: 'w', name: 'W', outlet: 'insurer', method: 'POST', address: '/x', readsAs, when: HIGH }],
});
const branches = (when: string) => ({ branches: [{ key: 'b', name: 'B', when, to: 'done' }], otherwise: { to: 'work' } });

/** What is told by conditions: where, and to whom. */
const told = (parts: SmallParts): readonly string[] =>
  smallCompiled({ fields: FIELDS, ...parts }).diagnostics.flatMap(({ code, path, params }) =>
    code === 'readers/tells'
      ? [`${path}: ${typeof params.who === 'object' && 'term' in params.who ? describeTerm(params.who) : params.who}`]
      : [],
  );

describe('a condition over a confidential value tells part of it to whoever sees what comes of it', () => {
  test.each<[string, SmallParts, string[]]>([
    ['a branch tells whoever hands on', { handOffs: { send: branches(HIGH) } }, ['handOffs.send.branches.b.when: the submitter']],
    [
      'so it does through a computed field',
      { handOffs: { finish: branches('high') } },
      ['handOffs.finish.branches.b.when: Clerk'],
    ],
    ['whether a hand-off is offered', { handOffs: { finish: { offeredWhen: HIGH } } }, ['handOffs.finish.offeredWhen: Clerk']],
    [
      'an acknowledgement',
      { handOffs: { finish: { acknowledgements: [{ key: 'a', name: 'A', text: 'Thank you', when: HIGH }] } } },
      ['handOffs.finish.acknowledgements.a.when: Clerk'],
    ],
    [
      'an adjustment tells who acts at its stages',
      { adjustments: [{ key: 'a', name: 'A', when: HIGH, fields: ['why'], treatment: 'required', stages: ['work'] }] },
      ['adjustments.a.when: Clerk'],
    ],
    [
      'an adjustment of a whole section',
      { adjustments: [{ key: 'a', name: 'A', when: HIGH, sections: ['all'], treatment: 'read-only', stages: ['work'] }] },
      ['adjustments.a.when: Clerk'],
    ],
    [
      'a check',
      { checks: [{ key: 'c', name: 'C', condition: HIGH, message: 'Too low', stages: ['work'] }] },
      ['checks.c.condition: Clerk'],
    ],
    [
      'a mail tells its receivers',
      { handOffs: { finish: mail({ kind: 'submitter' }) } },
      ['handOffs.finish.deliveries.m.when: the submitter'],
    ],
    [
      'a request tells an outlet that is no reader',
      { handOffs: { finish: request([]) } },
      ['handOffs.finish.deliveries.w.when: the outlet insurer'],
    ],
    [
      'a mail on arrival',
      { stages: { work: { onArrival: mail({ kind: 'role', role: 'clerk' }) } } },
      ['stages.work.onArrival.deliveries.m.when: Clerk'],
    ],
    [
      'a junction tells whoever sends records through it',
      {
        moreStages: [{ key: 'sort', kind: 'junction' }],
        handOffs: { send: { otherwise: { to: 'sort' } } },
        moreHandOffs: [{ key: 'on', from: 'sort', ...branches(HIGH) }],
      },
      ['handOffs.on.branches.b.when: the submitter'],
    ],
  ])('%s', (_name, parts, expected) => {
    expect(told(parts)).toEqual(expected);
  });

  test.each<[string, SmallParts]>([
    ['who may read the value', { stages: { work: { roles: ['chief'] } }, handOffs: { finish: branches(HIGH) } }],
    ['who gets the mail may read the value', { handOffs: { finish: mail({ kind: 'role', role: 'chief' }) } }],
    ['an outlet that is one of its readers', { handOffs: { finish: request(['chief']) } }],
    ['whose condition reads something else', { handOffs: { send: branches('why = "x"') } }],
    [
      'who may read nothing of what an adjustment treats',
      {
        fields: [...FIELDS, { ...RESERVE, key: 'note' }],
        adjustments: [{ key: 'a', name: 'A', when: HIGH, fields: ['note'], treatment: 'required', stages: ['work'] }],
      },
    ],
  ])('nothing is said of one %s', (_name, parts) => {
    expect(told(parts)).toEqual([]);
  });

  test('a value that can be searched for is reported as that alone', () => {
    const parts = {
      fields: [...FIELDS, { type: 'number', key: 'offer' }],
      adjustments: [{ key: 'a', name: 'A', when: 'offer < reserve', fields: ['why'], treatment: 'required', stages: ['ask'] }],
    };
    expect(told(parts)).toEqual([]);
  });
});
