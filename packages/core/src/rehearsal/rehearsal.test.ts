import { describe, expect, test } from '@jest/globals';
import { OUTSIDE, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { smallCompiled } from '@ypomet/testkit/small-workflow';
import fc from 'fast-check';
import { applyEdit } from '../edits/apply-edit.ts';
import { compileWorkflow } from '../flow/compile-workflow.ts';
import { fillForm } from '../flow/enter-input.ts';
import { validateForm } from '../forms/validate-form.ts';
import { KeptTest } from '../model/kept-test.ts';
import type { Json } from '../shared/json.ts';
import { compareOutcomes, expectationsOf, runTest } from './expectations.ts';
import { generateEntries } from './generate.ts';
import { actorIn, beginScript, newScript, outsideOn, type RehearsalWorld, replay, type Script } from './replay.ts';

const world: RehearsalWorld = { person: { id: 'me', name: 'Me', email: null }, outside: OUTSIDE };
const workflow = sampleWorkflow();
const compiled = compileWorkflow(workflow);
const ASKED: Readonly<Record<string, Json>> = { thing: 'Lamp', kind: 'goods', price: '900.00' };
const script: Script = {
  ...newScript(compiled),
  steps: [
    { handOff: 'send', role: null, entered: ASKED },
    { handOff: 'pass', role: 'buyer', entered: {} },
  ],
};

describe('a rehearsal is run again', () => {
  test('each step from the record that the one before left; its path', () => {
    const { moments, path, record } = replay(compiled, script, world);
    expect(moments.map(({ record: own, came }) => [own.stage, came.ok])).toEqual([
      ['ask', true],
      ['check', true],
    ]);
    expect(path).toEqual(['ask', 'check', 'done']);
    expect(record).toMatchObject({ stage: 'done', number: 'REHEARSAL' });
  });

  test('it ends where a step is refused: by the form, by the role, by another stage', () => {
    const refusal = (steps: Script['steps']) => {
      const { moments } = replay(compiled, { ...script, steps }, world);
      const last = moments.at(-1);
      return [moments.length, last?.came.ok === false && last.came.diagnostics.map(({ code }) => code)];
    };
    expect(refusal([{ handOff: 'send', role: null, entered: { thing: 'Lamp' } }])).toEqual([
      1,
      ['form/required', 'form/required'],
    ]);
    expect(refusal([script.steps[0] as never, { handOff: 'pass', role: 'auditor', entered: {} }])).toEqual([
      2,
      ['hand-off/not-allowed'],
    ]);
    expect(refusal([script.steps[1] as never, script.steps[0] as never])).toEqual([1, ['hand-off/not-here']]);
  });

  test('what happens by itself is done by the clock, whatever role is played; where it begins it is due', () => {
    const timed = smallCompiled({
      fields: [{ type: 'date', key: 'back' }],
      stages: { work: { due: 'back' } },
      handOffs: { finish: { byClock: { alone: true } } },
    });
    const at: Script = { ...newScript(timed), at: 'work', start: { back: '2026-12-04' } };
    expect(beginScript(timed, at, world).due).toBe('2026-12-04');
    const finish = { handOff: 'finish', role: null, entered: {} };
    expect(replay(timed, { ...at, steps: [finish] }, world).record.stage).toBe('work');
    const byClock = replay(timed, { ...at, steps: [{ ...finish, byClock: true }] }, world);
    expect(byClock.record).toMatchObject({ stage: 'done', due: null });
    const [kept] = expectationsOf(byClock.moments);
    expect(kept).toMatchObject({ byClock: true, to: 'done' });
    expect(runTest(timed, KeptTest.parse({ ...at, key: 't', name: 'T', steps: [kept] }), world).differences).toEqual([]);
  });

  test('an answer that the design takes away on the way stays out, and nothing is refused for it', () => {
    const entered = { ...ASKED, kind: 'service', delivery: '2027-01-01' };
    const { moments } = replay(compiled, { ...script, steps: [{ handOff: 'send', role: null, entered }] }, world);
    expect(moments[0]?.came.ok && moments[0].came.value.record.values).not.toHaveProperty('delivery');
  });

  test('it begins where, when and with what it says', () => {
    const record = beginScript(compiled, { ...script, at: 'check', start: { thing: 'Desk' } }, world);
    expect(record).toMatchObject({ stage: 'check', intake: 'ask', values: { thing: 'Desk' } });
    // Nine in the morning of the day in Vienna, an hour east of UTC in winter.
    expect(new Date(outsideOn('2027-01-15', OUTSIDE).now).toISOString()).toBe('2027-01-15T08:00:00.000Z');
    expect(outsideOn(null, OUTSIDE)).toBe(OUTSIDE);
    expect(actorIn(compiled, 'buyer', world).roles).toEqual(['buyer']);
    expect(actorIn(compiled, null, world).roles).toEqual(['buyer', 'boss', 'auditor']);
  });
});

describe('a rehearsal that is kept as a test', () => {
  const { moments } = replay(compiled, script, world);
  const kept = KeptTest.parse({ ...script, key: 'lamp', name: 'A lamp', steps: expectationsOf(moments) });

  test('expects where it led, how fields were treated, what was sent and said', () => {
    expect(kept.steps.map(({ to }) => to)).toEqual(['check', 'done']);
    expect(kept.steps[0]?.treatments).toMatchObject({ delivery: 'optional' });
    expect(runTest(compiled, kept, world)).toEqual({ differences: [], refused: [] });
  });

  test('says what has changed after a change of the design', () => {
    const changed = applyEdit(workflow, {
      type: 'change-part',
      part: 'handOffs.pass.branches.cheap',
      set: { when: 'price < 100' },
    });
    if (!changed.ok) throw new Error();
    const run = runTest(compileWorkflow(changed.value.definition), kept, world);
    expect(run.differences).toContainEqual({ step: 2, what: 'to', key: null, expected: 'done', found: null });
    expect(run.refused.map(({ code }) => code)).toEqual(['hand-off/no-branch']);
  });

  test('says where it is no longer reached', () => {
    const stopped = { ...kept, steps: kept.steps.map((step, index) => (index === 0 ? { ...step, entered: {} } : step)) };
    const { differences, refused } = runTest(compiled, stopped, world);
    expect(differences.map(({ step, what }) => [step, what])).toContainEqual([2, 'not-reached']);
    expect(refused.length).toBeGreaterThan(0);
  });

  test('follows a field and a hand-off that are given other keys; goes along with a step whose hand-off goes', () => {
    const withTest = { ...workflow, tests: [kept] };
    const renamed = applyEdit(withTest, { type: 'rename-key', part: 'fields.thing', key: 'article' });
    const again =
      renamed.ok && applyEdit(renamed.value.definition, { type: 'rename-key', part: 'handOffs.pass', key: 'letThrough' });
    if (again === false || !again.ok) throw new Error();
    const { definition } = again.value;
    expect(definition.tests[0]?.steps[0]?.entered).toHaveProperty('article', 'Lamp');
    expect(runTest(compileWorkflow(definition), definition.tests[0] as KeptTest, world).differences).toEqual([]);
    const asked = applyEdit(withTest, { type: 'delete-part', part: 'handOffs.pass', withUses: false });
    expect(asked.ok).toBe(false);
    const gone = applyEdit(withTest, { type: 'delete-part', part: 'handOffs.pass', withUses: true });
    expect(gone.ok && gone.value.definition.tests[0]?.steps.map(({ handOff }) => handOff)).toEqual(['send']);
  });

  test('holds values as deep as fields have them, and no deeper', () => {
    let deep: Json = 1;
    for (let level = 0; level < 20_000; level++) deep = [deep];
    const tried = (value: Json) => KeptTest.safeParse({ ...kept, start: { parts: value } }).success;
    expect(tried([{ id: 'r1', values: { files: [{ name: 'a', sha256: 'b' }] } }])).toBe(true);
    expect(tried(deep)).toBe(false);
  });

  test('what is sent twice is expected twice; the order doesn’t matter', () => {
    const of = (...sent: readonly string[]) => ({ to: 'x', treatments: {}, sent: [...sent], opened: [], answer: null });
    expect(compareOutcomes(1, of('a', 'b', 'a'), of('a', 'a', 'b'))).toEqual([]);
    expect(compareOutcomes(1, of('a', 'a'), of('a', 'b')).map(({ what, expected, found }) => [what, expected, found])).toEqual([
      ['not-sent', 'a', null],
      ['sent', null, 'b'],
    ]);
  });
});

describe('a form filled by itself', () => {
  const everything = smallCompiled({
    roles: [
      { key: 'clerk', name: 'Clerk' },
      { key: 'chief', name: 'Chief' },
    ],
    fields: [
      { type: 'text', key: 'text', minLength: 5, maxLength: 9 },
      { type: 'long-text', key: 'long' },
      { type: 'number', key: 'number', min: '3', max: '4', scale: 1 },
      { type: 'money', key: 'money', currency: 'EUR', max: '-5' },
      { type: 'yes-no', key: 'flag' },
      { type: 'date', key: 'date', min: '2027-01-01', max: '2027-01-02' },
      { type: 'time', key: 'time' },
      { type: 'date-time', key: 'at' },
      {
        type: 'choice',
        key: 'choice',
        options: [
          { code: 'a', label: 'A', retired: true },
          { code: 'b', label: 'B' },
        ],
      },
      {
        type: 'multi-choice',
        key: 'several',
        options: [
          { code: 'a', label: 'A' },
          { code: 'b', label: 'B' },
        ],
      },
      { type: 'member', key: 'member', role: 'chief' },
      { type: 'file', key: 'file', kinds: ['.csv'], maxBytes: 100 },
      {
        type: 'table',
        key: 'rows',
        minRows: 2,
        maxRows: 3,
        fields: [
          { type: 'number', key: 'n', name: 'N', min: '1' },
          { type: 'number', key: 'twice', name: 'T', expression: 'row.n * 2' },
        ],
      },
      { type: 'number', key: 'more', treatment: 'hidden', min: '1' },
      { type: 'sign-off', key: 'signed' },
    ],
    adjustments: [{ key: 'shown', name: 'Shown', when: 'choice = "b"', fields: ['more'], treatment: 'required' }],
  });
  const files = new Map<string, { name: string; mediaType: string; bytes: number }>();
  const outside = {
    ...OUTSIDE,
    findMember: (id: string) => (id === 'chief' ? { id, name: 'Chief', roles: ['chief'] } : null),
    findFile: (sha256: string) => files.get(sha256) ?? null,
  };
  const members = [
    { id: 'clerk', roles: ['clerk'] },
    { id: 'chief', roles: ['chief'] },
  ];
  const makeFile = (facts: { name: string; mediaType: string; bytes: number }): string => {
    const sha256 = String(files.size + 1).padStart(64, '0');
    files.set(sha256, facts);
    return sha256;
  };
  const generate = (seed: number) => {
    const actor = actorIn(everything, null, { ...world, outside });
    const record = beginScript(everything, newScript(everything), { ...world, outside });
    const made = generateEntries(everything, record, actor, outside, { seed, members, makeFile });
    return { made, ...fillForm(everything, record, made.entered, actor, outside) };
  };

  test('is valid by every type and limit, whatever the seed; what an answer brings in is filled too', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
        const { made, form, unreadable } = generate(seed);
        expect([...unreadable.keys()]).toEqual([]);
        expect(validateForm(form).map(({ field, code }) => [field, code])).toEqual([]);
        expect(made.left).toEqual([]);
        if (made.entered.choice === 'b') expect(made.entered).toHaveProperty('more');
      }),
    );
  });

  test('makes up nothing for a confidential field that who acts may not read, and all of it for who may', () => {
    const design = smallCompiled({
      roles: [
        { key: 'keeper', name: 'Keeper' },
        { key: 'porter', name: 'Porter' },
      ],
      fields: [
        { type: 'text', key: 'plain', treatment: 'required' },
        { type: 'text', key: 'secret', treatment: 'required', confidentialTo: ['keeper'] },
      ],
    });
    const record = beginScript(design, newScript(design), world);
    const keysFor = (role: string): readonly string[] => {
      const actor = { ...actorIn(design, null, world), roles: [role] };
      return Object.keys(generateEntries(design, record, actor, OUTSIDE, { seed: 1, members: [], makeFile }).entered);
    };
    expect(keysFor('porter')).toEqual(['plain']);
    expect(keysFor('keeper')).toEqual(['plain', 'secret']);
  });

  test('is the same for the same seed, leaves what was entered, and says what it could not fill', () => {
    files.clear();
    const first = generate(7).made.entered;
    files.clear();
    expect(generate(7).made.entered).toEqual(first);
    expect(generate(8).made.entered).not.toEqual(first);
    const strict = smallCompiled({ fields: [{ type: 'text', key: 'code', pattern: '[A-Z]{3}-\\d{4}', treatment: 'required' }] });
    const record = beginScript(strict, newScript(strict), world);
    const made = generateEntries(strict, record, actorIn(strict, null, world), OUTSIDE, { seed: 1, members: [], makeFile });
    expect(made.left).toEqual(['code']);
    const kept = generateEntries(
      strict,
      record,
      actorIn(strict, null, world),
      OUTSIDE,
      { seed: 1, members: [], makeFile },
      { code: 'ABC-1234' },
    );
    expect(kept).toEqual({ entered: { code: 'ABC-1234' }, left: [] });
  });
});
