import { describe, expect, test } from '@jest/globals';
import { type EditChoice, editChoice, editOf, placesOf } from '@ypomet/testkit/random-edit';
import { randomValues, randomWorkflow } from '@ypomet/testkit/random-workflow';
import { richWorkflow } from '@ypomet/testkit/rich-workflow';
import { OUTSIDE, person } from '@ypomet/testkit/sample-workflow';
import fc from 'fast-check';
import { compileWorkflow } from '../flow/compile-workflow.ts';
import type { HandedOn, RecordEvent } from '../flow/events.ts';
import { handOn } from '../flow/hand-on.ts';
import { openRecord } from '../flow/open-record.ts';
import { checkKeys } from '../model/invariants.ts';
import { parseWorkflow } from '../model/read-workflow.ts';
import { mapDefinition } from '../model/walk.ts';
import { type Workflow, writeWorkflow } from '../model/workflow.ts';
import { applyDifferences, differencesBetween } from '../structure/differences.ts';
import { findPart } from '../structure/places.ts';
import { applyEdit, type Edited } from './apply-edit.ts';
import { followRenames } from './follow-renames.ts';
import type { RenameKey } from './keys/rename-key.ts';
import { renamesIn } from './rebase.ts';
import type { Edit } from './registry.ts';
import { pathAfter } from './renamed-paths.ts';

const workflows = fc.oneof(randomWorkflow, fc.constant(richWorkflow()));
const RUNS = { numRuns: 400 };

/** What an edit came to; null where it can't be made. */
function tried(definition: Workflow, edit: Edit): Edited | null {
  const result = applyEdit(definition, edit);
  if (!result.ok) for (const { code } of result.diagnostics) expect(code).toMatch(/^edit\//);
  return result.ok ? result.value : null;
}

/** Returns an event with the keys of its changed and dropped fields renamed and sorted: their order isn't promised. */
function sortedKeys(event: RecordEvent, rename: (key: string) => string): RecordEvent {
  if (!('changed' in event)) return event;
  const changed = event.changed.map(rename).sort();
  const dropped = 'dropped' in event && event.dropped ? { dropped: event.dropped.map(rename).sort() } : {};
  return { ...event, changed, ...dropped };
}

/** A random edit; now and then one that writes an expression which names the part at a path. */
function changing(definition: Workflow, choice: EditChoice, part: string): Edit {
  const [list, key] = part.split('.');
  const adjustment = definition.adjustments[0];
  if (choice.kind % 3 > 0 || list !== 'fields' || key === undefined || !adjustment) return editOf(definition, choice);
  const when = `${key} != null`;
  return choice.other % 3 === 0
    ? {
        type: 'add-part',
        to: 'adjustments',
        part: { ...adjustment, key: `fresh${choice.part % 50}`, when } as never,
        before: null,
      }
    : { type: 'change-part', part: `adjustments.${adjustment.key}`, set: { when } };
}

/** A definition after a row of random edits, and what each came to. */
function edited(
  definition: Workflow,
  choices: readonly EditChoice[],
): { readonly after: Workflow; readonly done: readonly Edited[] } {
  let after = definition;
  const done: Edited[] = [];
  for (const choice of choices) {
    const one = tried(after, editOf(after, choice));
    if (one) done.push(one);
    after = one?.definition ?? after;
  }
  return { after, done };
}

describe('laws of edits, over random workflows and random edits', () => {
  test('an edit and its inverse leave the definition as it was, and so do many in turn', () => {
    let made = 0;
    fc.assert(
      fc.property(workflows, fc.array(editChoice, { maxLength: 6 }), (workflow, choices) => {
        const { after, done } = edited(workflow, choices);
        made += done.length;
        let back = after;
        for (const { inverse } of [...done].reverse()) {
          const undone = applyEdit(back, inverse);
          if (!undone.ok) throw new Error(JSON.stringify(undone.diagnostics));
          back = undone.value.definition;
        }
        expect(back).toEqual(workflow);
        expect(writeWorkflow(back)).toBe(writeWorkflow(workflow));
      }),
      RUNS,
    );
    expect(made).toBeGreaterThan(300);
  });

  test('taking back what was taken back makes the edit again', () => {
    fc.assert(
      fc.property(workflows, editChoice, (workflow, choice) => {
        const done = tried(workflow, editOf(workflow, choice));
        const undone = done && applyEdit(done.definition, done.inverse);
        if (!done || !undone?.ok) return;
        const redone = applyEdit(undone.value.definition, undone.value.inverse);
        expect(redone.ok && redone.value.definition).toEqual(done.definition);
      }),
      RUNS,
    );
  });

  test('every edit keeps the definition readable: its form, and that every key names something', () => {
    fc.assert(
      fc.property(workflows, fc.array(editChoice, { maxLength: 8 }), (workflow, choices) => {
        const { after } = edited(workflow, choices);
        const read = parseWorkflow(JSON.parse(JSON.stringify(after)));
        expect(read.ok || read.diagnostics).toBe(true);
        expect(read.ok && read.value).toEqual(after);
        expect(checkKeys(after)).toEqual([]);
      }),
      RUNS,
    );
  });

  test('what an edit doesn’t touch keeps its identity, and what changes is touched', () => {
    fc.assert(
      fc.property(workflows, editChoice, (workflow, choice) => {
        const done = tried(workflow, editOf(workflow, choice));
        if (!done) return;
        for (const part of ['roles', 'fields', 'stages', 'adjustments', 'handOffs', 'plan', 'checks'] as const) {
          const isTouched = done.touches.some((path) => path === '' || path === part || path.startsWith(`${part}.`));
          if (!isTouched) expect(done.definition[part]).toBe(workflow[part]);
        }
        if (done.definition !== workflow) expect(done.touches.length > 0 || done.inverse.type !== 'revert').toBe(true);
      }),
      RUNS,
    );
  });

  test('renaming a key changes no decision', () => {
    const worker = person('wim', 'worker');
    const renamed = fc.constantFrom(
      'amount',
      'size',
      'shade',
      'flag',
      'remark',
      'rows',
      'twice',
      'rows.fields.amount',
      'rows.fields.flag',
    );
    fc.assert(
      fc.property(
        randomWorkflow,
        randomValues,
        renamed,
        fc.constantFrom('worth', 'r', 'shade2'),
        (workflow, values, field, key) => {
          const part = `fields.${field}`;
          const done = tried(workflow, { type: 'rename-key', part, key });
          if (!done) return;
          const [own = '', , sub] = field.split('.');
          const rename = (name: string): string => (name === own && sub === undefined ? key : name);
          const after = Object.fromEntries(
            Object.entries(values).map(([name, value]) => [rename(name), name === 'rows' ? renameCells(value, sub, key) : value]),
          );
          const before = decided(workflow, values);
          // A result names fields by key in three places: the record's values, the changed fields and the dropped fields. Each must
          // have the new key.
          const expected = 'record' in before && {
            ...before,
            record: { ...before.record, values: renameValues(before.record.values, rename, sub, key) },
            events: before.events.map((event) => sortedKeys(event, rename)),
          };
          expect(decided(done.definition, after)).toEqual(expected || before);
        },
      ),
      { numRuns: 300 },
    );

    function decided(
      workflow: Workflow,
      values: Readonly<Record<string, unknown>>,
    ): HandedOn | { readonly refused: readonly string[] } {
      const compiled = compileWorkflow(workflow);
      const record = {
        ...openRecord(compiled, 'ask', 'r1', 1, person('asker'), OUTSIDE),
        stage: 'work',
        values: values as never,
      };
      const result = handOn(compiled, record, 'pass', {}, worker, OUTSIDE);
      if (result.ok) {
        return { ...result.value, events: result.value.events.map((event) => sortedKeys(event, (key) => key)) };
      }
      return { refused: result.diagnostics.map(({ code }) => code) };
    }
  });

  test('a renaming made first by somebody else and an edit that follows it give what the edit and then the renaming would give', () => {
    let compared = 0;
    const kinds = new Set<string>();
    fc.assert(
      fc.property(workflows, fc.array(editChoice, { minLength: 1, maxLength: 3 }), editChoice, (workflow, choices, choice) => {
        const rename = editOf(workflow, { ...choice, kind: 3 });
        const first = tried(workflow, rename);
        if (!first || rename.type !== 'rename-key') return;
        // Where the renaming can't be made, because an edit has taken the key that it gives, the two can't both be made.
        const isRenamable = (at: Workflow, same: RenameKey): boolean =>
          findPart(at, same.part) === null || tried(at, same) !== null;
        const edits: Edit[] = [];
        // The same renaming, when an edit has given another key to a part around it.
        let last = rename;
        const passed = (one: RenameKey, edit: Edit): RenameKey =>
          renamesIn([edit]).reduce(
            (same, own) =>
              own.part === same.part ? same : { type: 'rename-key', part: pathAfter(same.part, own), key: same.key },
            one,
          );
        let plain = workflow;
        for (const one of choices) {
          const edit = changing(plain, one, last.part);
          const done = tried(plain, edit);
          if (!done || !isRenamable(done.definition, passed(last, edit))) continue;
          // Half of them are taken back, as undo would.
          const undone = one.other % 2 ? null : tried(done.definition, done.inverse);
          edits.push(...(undone ? [edit, done.inverse] : [edit]));
          if (!undone) last = passed(last, edit);
          plain = (undone ?? done).definition;
        }
        const followed = followRenames({ definition: workflow, edits }, [rename], { findWorkflow: () => null });
        expect(followed.definition).toEqual(first.definition);
        let after = first.definition;
        for (const edit of followed.edits) {
          const done = tried(after, edit);
          if (!done) throw new Error(`refused: ${JSON.stringify(edit)}`);
          kinds.add(edit.type);
          after = done.definition;
        }
        expect(after).toEqual(findPart(plain, last.part) ? tried(plain, last)?.definition : plain);
        compared += 1;
      }),
      RUNS,
    );
    expect(compared).toBeGreaterThan(150);
    expect(kinds.size).toBeGreaterThan(8);
  });

  test('differences, made, give the second definition; none of them is overtaken', () => {
    fc.assert(
      fc.property(workflows, fc.array(editChoice, { maxLength: 8 }), (workflow, choices) => {
        const { after } = edited(workflow, choices);
        const applied = applyDifferences(workflow, differencesBetween(workflow, after));
        expect(applied.definition).toEqual(after);
        expect(applied.overtaken).toEqual([]);
        expect(differencesBetween(after, applied.definition)).toEqual([]);
      }),
      RUNS,
    );
  });

  test('the walk meets every part, and a mapping that changes nothing gives the same object', () => {
    const rich = richWorkflow();
    expect(placesOf(rich).parts.length).toBeGreaterThan(65);
    expect(mapDefinition(rich, { part: ({ part }) => part, key: ({ key }) => key, text: ({ text }) => text })).toBe(rich);
  });
});

function renameCells(rows: unknown, sub: string | undefined, key: string): unknown {
  if (sub === undefined) return rows;
  return (rows as { id: string; values: Record<string, unknown> }[]).map((row) => ({
    ...row,
    values: Object.fromEntries(Object.entries(row.values).map(([name, value]) => [name === sub ? key : name, value])),
  }));
}

function renameValues(
  values: Readonly<Record<string, unknown>>,
  rename: (name: string) => string,
  sub: string | undefined,
  key: string,
) {
  return Object.fromEntries(
    Object.entries(values).map(([name, value]) => [rename(name), name === 'rows' ? renameCells(value, sub, key) : value]),
  );
}
