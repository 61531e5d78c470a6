import { describe, expect, test } from '@jest/globals';
import { richWorkflow } from '@ypomet/testkit/rich-workflow';
import type { FindWorkflow } from '../expressions/workflow-scope.ts';
import { compileWorkflow } from '../flow/compile-workflow.ts';
import { describeDiagnostic, describeEdit } from '../messages/describe.ts';
import type { Workflow } from '../model/workflow.ts';
import { differencesBetween } from '../structure/differences.ts';
import { findPart } from '../structure/places.ts';
import { applyEdit, type Edited } from './apply-edit.ts';
import { followRenames } from './follow-renames.ts';
import { rebaseEdits, renamesIn } from './rebase.ts';
import type { Edit } from './registry.ts';
import { tellDifference } from './tell-difference.ts';
import { makeReadIn } from './whole/read-in.ts';

const rich = richWorkflow();

function made(edit: Edit, definition: Workflow = rich, findWorkflow: FindWorkflow = () => null): Edited {
  const result = applyEdit(definition, edit, { findWorkflow });
  if (!result.ok) throw new Error(result.diagnostics.map((one) => describeDiagnostic(one)).join());
  return result.value;
}
const after = (edit: Edit, definition: Workflow = rich): Workflow => made(edit, definition).definition;
function refused(edit: Edit, definition: Workflow = rich): readonly string[] {
  const result = applyEdit(definition, edit);
  return result.ok ? [] : result.diagnostics.map((one) => `${one.path}: ${one.code}`);
}
const part = (definition: Workflow, path: string) => findPart(definition, path)?.part ?? null;
const said = (edit: Edit, definition: Workflow = rich): string => describeEdit(made(edit, definition).sentence);
const cell = (field: string, treatment: 'hidden' | 'required' | 'nudged'): Edit => ({
  type: 'set-treatments',
  cells: [{ field, stage: 'work', treatment }],
});

describe('the sentence of an edit, for history', () => {
  test.each<[Edit, string]>([
    [
      { type: 'set-treatments', cells: [{ field: 'amount', stage: 'work', treatment: 'required' }] },
      'made “Amount” required at Work',
    ],
    [
      {
        type: 'set-treatments',
        cells: [
          { field: 'objects.worth', stage: 'work', treatment: 'nudged' },
          { field: 'objects.worth', stage: 'look', treatment: 'nudged' },
        ],
      },
      'made “Objects: Worth” nudged at Work, Look',
    ],
    [{ type: 'set-submitter-sees', cells: [{ field: 'kind', sees: 'hidden' }] }, 'made Kind hidden for the submitter'],
    [
      {
        type: 'add-part',
        to: 'handOffs.send.branches',
        part: { key: 'b', name: 'Third', when: 'true', to: 'done' },
        before: null,
      },
      'added the branch “Third” of the hand-off “Send”',
    ],
    [
      { type: 'change-part', part: 'handOffs.send.branches.quick', set: { when: 'false' } },
      'changed condition of the branch “Quick” of the hand-off “Send”: false',
    ],
    // An expression that is too long to be told in a sentence isn't.
    [
      { type: 'change-part', part: 'handOffs.send.branches.quick', set: { when: `false${' or false'.repeat(80)}` } },
      'changed condition of the branch “Quick” of the hand-off “Send”',
    ],
    [{ type: 'change-part', part: 'fields.day', set: { name: 'Date' } }, 'renamed the field “Day” to “Date”'],
    [{ type: 'change-part', part: '', set: { name: 'Richer' } }, 'renamed the workflow “Rich” to “Richer”'],
    [{ type: 'delete-part', part: 'fields.hint', withUses: false }, 'deleted the field “Hint”'],
    [{ type: 'move-part', part: 'fields.hint', before: 'title' }, 'moved the field “Hint” before “Title”'],
    [{ type: 'move-part', part: 'fields.title', before: null }, 'moved the field “Title” to the end'],
    [
      { type: 'duplicate-part', part: 'stages.look', key: 'look2', name: 'Look again' },
      'duplicated the stage “Look” as “Look again”',
    ],
    [
      { type: 'rename-key', part: 'fields.objects.fields.worth', key: 'value' },
      'gave the sub-field “Worth” the key “value” of the field “Objects”',
    ],
  ])('%j', (edit, sentence) => {
    expect(said(edit)).toBe(sentence);
  });

  test.each<[Edit, string]>([
    [cell('kind', 'nudged'), 'took back what was changed of Kind'],
    [{ type: 'change-part', part: 'handOffs.send.branches.quick', set: { when: 'false' } }, 'took back what was changed of Send'],
    [{ type: 'delete-part', part: 'fields.hint', withUses: false }, 'took back what was changed of Hint'],
    [{ type: 'move-part', part: 'fields.title', before: null }, 'took back what was changed of Title'],
    [{ type: 'change-part', part: '', set: { name: 'Richer' } }, 'took back what was changed of Rich'],
    [{ type: 'set-submitter-sees', cells: [{ field: 'kind', sees: 'hidden' }] }, 'took back what was changed of Kind'],
  ])('of taking back %j', (edit, sentence) => {
    const edited = made(edit);
    expect(said(edited.inverse, edited.definition)).toBe(sentence);
  });

  test('of a file read in: what it changed', () => {
    const file = after(
      { type: 'change-part', part: 'fields.day', set: { name: 'Date' } },
      after({ type: 'delete-part', part: 'fields.hint', withUses: true }),
    );
    expect(said(makeReadIn(rich, file) as Edit)).toBe('read in a file, which changed Hint, Day');
  });
});

describe('adding and changing', () => {
  test('what is left out is filled in; the place is before another part, or the end', () => {
    const field = { type: 'text', key: 'fresh', name: 'Fresh', section: 'main' };
    const definition = after({ type: 'add-part', to: 'fields', part: field, before: 'kind' });
    expect(definition.fields.map(({ key }) => key).slice(0, 4)).toEqual(['title', 'address', 'fresh', 'kind']);
    expect(part(definition, 'fields.fresh')).toMatchObject({ treatment: 'hidden', maxLength: null });
  });

  test('another type drops what it doesn’t have, and keeps the rest; taking it back gives all of it again', () => {
    const edited = made({ type: 'change-part', part: 'fields.title', set: { type: 'number', scale: 1 } });
    expect(part(edited.definition, 'fields.title')).toMatchObject({
      type: 'number',
      scale: 1,
      name: 'Title',
      treatment: 'optional',
    });
    expect(part(edited.definition, 'fields.title')).not.toHaveProperty('maxLength');
    expect(after(edited.inverse, edited.definition)).toEqual(rich);
  });

  test.each<[string, Edit, string]>([
    ['a list that isn’t', { type: 'add-part', to: 'nowhere', part: { key: 'a' }, before: null }, 'nowhere: edit/unknown-part'],
    ['a part without its form', { type: 'add-part', to: 'roles', part: { key: 'a' }, before: null }, 'roles.a.name: edit/unfit'],
    [
      'a key of another part',
      { type: 'add-part', to: 'roles', part: { key: 'clerk', name: 'C' }, before: null },
      'roles.clerk: edit/taken',
    ],
    [
      'a field called like a decision table',
      { type: 'add-part', to: 'fields', part: { type: 'text', key: 'fee', name: 'Fee', section: 'main' }, before: null },
      'fields.fee: edit/taken',
    ],
    [
      'a branch to a stage that isn’t',
      {
        type: 'add-part',
        to: 'handOffs.send.branches',
        part: { key: 'b', name: 'B', when: 'true', to: 'nowhere' },
        before: null,
      },
      'handOffs.send.branches.b.to: edit/unknown-key',
    ],
    ['a property nobody knows', { type: 'change-part', part: 'fields.day', set: { colour: 'red' } }, 'fields.day: edit/unfit'],
    [
      'a key, which has an edit of its own',
      { type: 'change-part', part: 'fields.day', set: { key: 'date1' } },
      'fields.day: edit/fixed-key',
    ],
    [
      'a word of the language as a key',
      { type: 'rename-key', part: 'fields.day', key: 'satisfies' },
      'fields.satisfies.key: edit/unfit',
    ],
    [
      'a role’s key, by which members have it',
      { type: 'rename-key', part: 'roles.clerk', key: 'clerk2' },
      'roles.clerk: edit/fixed-key',
    ],
    ['the last section', { type: 'delete-part', part: 'tracks.long', withUses: true }, 'stages.work.tracks.long: edit/last-one'],
  ])('%s is refused', (_name, edit, expected) => {
    expect(refused(edit)).toEqual([expected]);
  });
});

describe('deleting', () => {
  test('the last of what must be there stays, however many go together', () => {
    const only = {
      ...rich,
      sections: rich.sections.slice(0, 1),
      fields: [],
      plan: {},
      submitterSees: {},
      adjustments: [],
      checks: [],
    };
    const bare = { ...only, handOffs: [], decisionTables: [], tests: [] };
    const key = bare.sections[0]?.key;
    const result = applyEdit(bare, { type: 'delete-part', part: `sections.${key}`, withUses: true });
    expect(result.ok ? [] : result.diagnostics.map(({ code, path }) => `${path}: ${code}`)).toEqual(['sections: edit/unfit']);
  });

  test('what something names is said, with every place that names it', () => {
    const result = applyEdit(rich, { type: 'delete-part', part: 'fields.amount', withUses: false });
    const uses = result.ok ? [] : result.diagnostics[0]?.params.uses;
    expect(uses).toEqual([
      'fields.objects.fields.worth.default',
      'fields.total.expression',
      'adjustments.cells.when',
      'decisionTables.fee.rules.first.when.worth',
      'decisionTables.fee.rules.first.then.days',
      'handOffs.send.branches.slow.when',
      'handOffs.send.acknowledgements.thanks.when',
      'handOffs.pass.sets.amount.field',
      'handOffs.pass.sets.amount.value',
      'handOffs.pass.sets.again.field',
      'checks.enough.condition',
      'checks.enough.field',
    ]);
  });

  test('its uses go with it: keys are taken out, what is about it goes, expressions stay as faults', () => {
    const definition = after({ type: 'delete-part', part: 'stages.look', withUses: true });
    expect(definition.handOffs.map(({ key }) => key)).toEqual(['send', 'pass', 'sorted']);
    expect(definition.handOffs[0]?.branches.map(({ key }) => key)).toEqual(['slow']);
    expect(definition.adjustments.find(({ key }) => key === 'away')?.stages).toEqual(['ask']);
    expect(definition.plan['objects.label']).toEqual({ ask: 'required' });
    const without = after({ type: 'delete-part', part: 'fields.amount', withUses: true });
    expect(without.handOffs.find(({ key }) => key === 'pass')?.sets).toEqual([]);
    expect(compileWorkflow(without).diagnostics.map(({ path }) => path)).toContain('fields.total.expression');
  });

  test('an adjustment or check of a stage alone goes with it: without stages it would be one of all', () => {
    const definition = after({ type: 'delete-part', part: 'stages.ask', withUses: true });
    expect(definition.checks).toEqual([]);
    expect(definition.adjustments.map(({ key }) => key)).toEqual(['dear', 'cells', 'away']);
    const twice = after({ type: 'delete-part', part: 'stages.look', withUses: true }, definition);
    expect(twice.adjustments.map(({ key }) => key)).toEqual(['dear', 'cells']);
  });

  test('the last reader or role isn’t taken out on the way: that would open it to all', () => {
    expect(refused({ type: 'delete-part', part: 'roles.chief', withUses: true })).toEqual([
      'handOffs.pass.roles.chief: edit/last-one',
    ]);
    const open = after({ type: 'change-part', part: 'handOffs.pass', set: { roles: [] } });
    const definition = after({ type: 'delete-part', part: 'roles.chief', withUses: true }, open);
    expect(part(definition, 'fields.reserve')?.confidentialTo).toEqual(['clerk']);
    expect(part(definition, 'stages.look')?.assignment).toBeNull();
    expect(refused({ type: 'delete-part', part: 'roles.clerk', withUses: true }, definition)).toEqual([
      'fields.reserve.confidentialTo.clerk: edit/last-one',
    ]);
  });

  test('a column goes with its cells', () => {
    const definition = after({ type: 'delete-part', part: 'decisionTables.fee.inputs.sort', withUses: false });
    expect(definition.decisionTables[0]?.rules[0]?.when).toEqual({ worth: '> amount' });
  });
});

describe('another key', () => {
  const renamed = (path: string, key: string): Workflow => after({ type: 'rename-key', part: path, key });

  test('of a field: in expressions of all kinds, cells, lists; the rest of every text stays as it was written', () => {
    const definition = renamed('fields.amount', 'worth');
    expect(part(definition, 'fields.total')?.expression).toBe('sum(objects.worth) + worth');
    expect(part(definition, 'decisionTables.fee.rules.first')).toMatchObject({
      when: { worth: '> worth' },
      then: { days: 'worth' },
    });
    expect(part(definition, 'handOffs.pass.sets.amount')).toMatchObject({ key: 'amount', field: 'worth', value: 'worth + 1' });
    expect(definition.checks[0]).toMatchObject({ condition: 'worth > 0 or day = null', field: 'worth' });
  });

  test('of a sub-field: where rows are read, and as `row`', () => {
    const definition = renamed('fields.objects.fields.worth', 'price');
    expect(part(definition, 'fields.objects.fields.double')?.expression).toBe('row.price * 2');
    expect(part(definition, 'handOffs.send.branches.slow')?.when).toBe(
      'some o in objects satisfies o.price > amount and o.state = "loan"',
    );
    expect(definition.submitterSees).toEqual({ title: 'shown', 'objects.price': 'hidden', reserve: 'hidden' });
    expect(definition.adjustments[1]?.when).toBe('row.price > amount');
  });

  test('of a table: its sub-fields’ rows of the plan, too', () => {
    const definition = renamed('fields.objects', 'things');
    expect(Object.keys(definition.plan)).toEqual(['title', 'kind', 'things', 'things.state', 'things.label']);
    expect(definition.adjustments[1]?.fields).toEqual(['things.state']);
    expect(part(definition, 'handOffs.pass.followUps.report')).toMatchObject({ perRow: 'things' });
    expect(part(definition, 'handOffs.pass.deliveries.passed')?.body).toContain('{{for o in things return o.label}}');
  });

  test('of an option: where it is compared with its own field, not with another that has the same code', () => {
    const definition = renamed('fields.kind.options.loan', 'lend');
    expect(definition.adjustments[2]?.when).toBe('kind in ("a b", "lend")');
    expect(part(definition, 'decisionTables.fee.rules.first')?.when).toEqual({ worth: '> amount', sort: '"lend"' });
    expect(part(definition, 'handOffs.send.branches.slow')?.when).toContain('o.state = "loan"');
    const spaced = renamed('fields.kind.options."a b"', 'c d');
    expect(spaced.adjustments[2]?.when).toBe('kind in ("c d", "loan")');
  });

  test('of a stage and a track: also in conditions that read where the record is', () => {
    const definition = renamed('stages.work', 'review');
    expect(definition.handOffs[1]).toMatchObject({
      from: 'review',
      offeredWhen: 'record.stage = "review" and record.track != "short"',
    });
    expect(definition.plan.title).toEqual({ ask: 'required', review: 'read-only' });
    expect(renamed('tracks.short', 'brief').handOffs[1]?.offeredWhen).toBe('record.stage = "work" and record.track != "brief"');
  });

  test('of a decision table and its output', () => {
    expect(part(renamed('decisionTables.fee', 'charge'), 'fields.level')?.expression).toBe('charge.level');
    expect(part(renamed('decisionTables.fee.outputs.level', 'grade'), 'fields.level')?.expression).toBe('fee.grade');
  });

  test('through a reference only where the other workflow says so', () => {
    const withReference = after({
      type: 'add-part',
      to: 'fields',
      part: { type: 'reference', key: 'other', name: 'Other', section: 'main', workflow: 'far' },
      before: null,
    });
    const condition = 'count(other.lines[amount > 1]) > 0 and amount > 2';
    const definition = after(
      { type: 'change-part', part: 'handOffs.close.branches.end', set: { when: condition } },
      withReference,
    );
    const lines = {
      type: 'table',
      key: 'lines',
      name: 'L',
      section: 'main',
      fields: [{ type: 'number', key: 'amount', name: 'A' }],
    };
    const far = after({ type: 'add-part', to: 'fields', part: lines as never, before: null });
    const { definition: renamedThere } = made({ type: 'rename-key', part: 'fields.amount', key: 'sum1' }, definition, (key) =>
      key === 'far' ? far : null,
    );
    expect(part(renamedThere, 'handOffs.close.branches.end')?.when).toBe('count(other.lines[amount > 1]) > 0 and sum1 > 2');
  });

  test('one that a filter would read as a part of its rows is refused, with the place', () => {
    const definition = after({
      type: 'change-part',
      part: 'handOffs.send.branches.slow',
      set: { when: 'count(objects[worth > amount]) > 0' },
    });
    expect(refused({ type: 'rename-key', part: 'fields.amount', key: 'label' }, definition)).toEqual([
      'handOffs.send.branches.slow.when: edit/captured',
    ]);
  });
});

describe('two analysts', () => {
  test('taking back leaves alone what the other has changed since', () => {
    const mine = made(cell('day', 'required'));
    const theirs = made(cell('day', 'hidden'), mine.definition);
    expect(refused(mine.inverse, theirs.definition)).toEqual(['plan.day: edit/overtaken']);
  });

  test('of several cells those are taken back that still are as they were set', () => {
    const mine = made({
      type: 'set-treatments',
      cells: ['day', 'kind', 'tags'].map((field) => ({ field, stage: 'work', treatment: 'required' })),
    });
    const theirs = made(cell('kind', 'hidden'), mine.definition);
    const undone = after(mine.inverse, theirs.definition);
    expect([undone.plan.day, undone.plan.kind, undone.plan.tags]).toEqual([
      undefined,
      { ask: 'required', work: 'hidden' },
      undefined,
    ]);
  });

  test('an added part that the other has built on isn’t taken back', () => {
    const field = { type: 'text', key: 'fresh', name: 'Fresh', section: 'main' };
    const mine = made({ type: 'add-part', to: 'fields', part: field, before: null });
    const changed = made({ type: 'change-part', part: 'fields.fresh', set: { name: 'Fresher' } }, mine.definition);
    expect(refused(mine.inverse, changed.definition)).toEqual(['fields: edit/overtaken']);
    const used = made({ type: 'change-part', part: 'checks.enough', set: { field: 'fresh' } }, mine.definition);
    expect(refused(mine.inverse, used.definition)).toEqual(['checks.enough.field: edit/unknown-key']);
  });

  test('a file read in is what it changed: taking it back leaves what came after, and a change beside it stays', () => {
    const file = after(
      { type: 'change-part', part: 'fields.day', set: { name: 'Date' } },
      after({ type: 'delete-part', part: 'fields.hint', withUses: true }),
    );
    const readIn = makeReadIn(rich, file);
    if (!readIn) throw new Error('no difference');
    const theirs = after(cell('kind', 'nudged'));
    const both = made(readIn, theirs);
    expect(both.definition.plan.kind).toEqual({ ask: 'required', work: 'nudged' });
    expect(part(both.definition, 'fields.day')?.name).toBe('Date');
    const later = after(cell('title', 'nudged'), both.definition);
    const undone = after(both.inverse, later);
    expect(undone.plan.title?.work).toBe('nudged');
    expect([part(undone, 'fields.day')?.name, part(undone, 'fields.hint')?.name]).toEqual(['Day', 'Hint']);
    expect(makeReadIn(rich, rich)).toBeNull();
  });

  test('edits follow the keys that the other gave; what no longer fits is left out, with the reason', () => {
    const rename: Edit = { type: 'rename-key', part: 'fields.objects', key: 'things' };
    const theirs = after(rename);
    const mine: readonly Edit[] = [
      { type: 'set-treatments', cells: [{ field: 'objects.label', stage: 'work', treatment: 'required' }] },
      { type: 'change-part', part: 'fields.objects.fields.label', set: { name: 'Title' } },
      { type: 'change-part', part: 'fields.gone', set: { name: 'x' } },
    ];
    const { edits } = followRenames({ definition: rich, edits: mine }, renamesIn([rename]), { findWorkflow: () => null });
    const followed = edits.map((edit, index) => ({ id: `e${index}`, edit }));
    const { definition, applied, refused: left } = rebaseEdits(theirs, followed);
    expect(definition.plan['things.label']).toMatchObject({ work: 'required' });
    expect(part(definition, 'fields.things.fields.label')?.name).toBe('Title');
    expect([applied.map(({ id }) => id), left.map(({ id, diagnostics }) => [id, diagnostics[0]?.code])]).toEqual([
      ['e0', 'e1'],
      [['e2', 'edit/unknown-part']],
    ]);
  });

  test('a renaming made together with others is taken back as one', () => {
    const together: Edit = {
      type: 'together',
      edits: [
        { type: 'rename-key', part: 'fields.day', key: 'date1' },
        { type: 'change-part', part: 'fields.date1', set: { name: 'Date' } },
      ],
    };
    const edited = made(together);
    expect(part(edited.definition, 'fields.date1')?.name).toBe('Date');
    expect(after(edited.inverse, edited.definition)).toEqual(rich);
    expect(refused({ type: 'together', edits: [cell('day', 'hidden'), cell('nope', 'hidden')] })).toEqual([
      'plan.nope: edit/unknown-part',
    ]);
  });
});

describe('differences are told as the edits that make them', () => {
  const tell = (edit: Edit): readonly string[] => {
    const result = applyEdit(rich, edit);
    if (!result.ok) throw new Error(JSON.stringify(result.diagnostics));
    const { definition } = result.value;
    return differencesBetween(rich, definition).map((one) => describeEdit(tellDifference(one, rich, definition)));
  };
  const told = (edit: Edit): string => {
    const result = applyEdit(rich, edit);
    return result.ok ? describeEdit(result.value.sentence) : '';
  };

  test.each<[string, Edit]>([
    ['a part added', { type: 'add-part', to: 'roles', part: { key: 'new', name: 'New role' }, before: null }],
    [
      'a part within a part',
      { type: 'add-part', to: 'fields.objects.fields', part: { type: 'text', key: 'more', name: 'More' }, before: null },
    ],
    ['a part deleted', { type: 'delete-part', part: 'checks.some', withUses: false }],
    ['a part moved', { type: 'move-part', part: 'sections.loose', before: 'main' }],
    ['a part moved to the end', { type: 'move-part', part: 'roles.clerk', before: null }],
    ['a property', { type: 'change-part', part: 'fields.title', set: { help: 'Say more.' } }],
    ['a property of the workflow', { type: 'change-part', part: '', set: { description: 'Other.' } }],
    ['a cell', { type: 'set-treatments', cells: [{ field: 'title', stage: 'work', treatment: 'nudged' }] }],
    ['what the submitter sees', { type: 'set-submitter-sees', cells: [{ field: 'title', sees: 'hidden' }] }],
  ])('%s', (_, edit) => {
    const has = edit.type !== 'delete-part' || rich.checks.some(({ key }) => `checks.${key}` === edit.part);
    const own: Edit = has ? edit : { type: 'delete-part', part: `checks.${rich.checks[0]?.key}`, withUses: false };
    expect(tell(own)).toEqual([told(own)]);
  });

  test('a text of a rule names its rule, a mail on arrival its mail', () => {
    const [table] = rich.decisionTables;
    const [rule] = table?.rules ?? [];
    const cell: Edit = {
      type: 'set-cells',
      table: table?.key ?? '',
      cells: [{ rule: rule?.key ?? '', side: 'then', column: 'days', text: '99' }],
    } as Edit;
    expect(tell(cell)[0]).toMatch(/^changed .* of the rule/);
    const mail = rich.stages.find(({ key }) => key === 'work')?.onArrival.deliveries[0]?.key;
    expect(tell({ type: 'change-part', part: `stages.work.onArrival.deliveries.${mail}`, set: { subject: 'New' } })[0]).toMatch(
      /^changed subject of the delivery “Mail/,
    );
  });
});
