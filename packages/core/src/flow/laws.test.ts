import { describe, expect, test } from '@jest/globals';
import { CELLS, ENTERED, fieldOf, randomValues, randomWorkflow } from '@ypomet/testkit/random-workflow';
import { OUTSIDE, person } from '@ypomet/testkit/sample-workflow';
import fc from 'fast-check';
import { canBeShown } from '../forms/compiled-forms.ts';
import { decidedOf, enterValue, evaluateForm, type Form } from '../forms/evaluate-form.ts';
import { readFieldValue } from '../model/field-value.ts';
import { isEnterable, type Treatment } from '../model/treatment.ts';
import type { Workflow } from '../model/workflow.ts';
import { isFault } from '../shared/codes.ts';
import type { Json } from '../shared/json.ts';
import { compileWorkflow } from './compile-workflow.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { enterInput } from './enter-input.ts';
import { explainHandOffs } from './explain-record.ts';
import { handOn, offeredHandOffs } from './hand-on.ts';
import { openRecord } from './open-record.ts';
import { mayRead } from './permissions.ts';
import { projectForm } from './project-form.ts';
import type { Actor, WorkflowRecord } from './record.ts';

type Values = Readonly<Record<string, Json>>;

const worker = person('wim', 'worker');
const auditor = person('audrey', 'worker', 'auditor');
/** What is sent with a hand-off: so few fields that often all of them may be entered. */
const fewFields = fc.subarray(
  ENTERED.filter((key) => key !== 'rows'),
  { maxLength: 2 },
);
const actors = fc.constantFrom(worker, auditor);

function compiledOf(workflow: Workflow): CompiledWorkflow {
  const compiled = compileWorkflow(workflow);
  expect(compiled.diagnostics.filter(isFault)).toEqual([]);
  return compiled;
}

/** A record at the stage "work", with values. */
const recordOf = (compiled: CompiledWorkflow, values: Values): WorkflowRecord => ({
  ...openRecord(compiled, 'ask', 'r1', 1, person('asker'), OUTSIDE),
  stage: 'work',
  values,
});

function formOf(compiled: CompiledWorkflow, record: WorkflowRecord, actor: Actor, input: Values = {}): Form {
  const entered = enterInput(compiled, record, input, actor, OUTSIDE);
  if (!entered.ok) throw new Error(JSON.stringify(entered.diagnostics));
  return entered.value;
}

const compiledField = (form: Form, key: string) => {
  const field = form.forms.fieldByKey.get(key);
  if (!field) throw new Error(key);
  return field;
};
const treatmentOf = (form: Form, key: string): Treatment => decidedOf(form, compiledField(form, key)).treatment;

const enter = (form: Form, key: string, json: Json): Form => {
  const field = compiledField(form, key);
  const read = readFieldValue(field.field, json, OUTSIDE);
  if (!read.ok) throw new Error(key);
  return enterValue(form, field, read.value);
};

/** The treatments of a column, row by row; none where the table is hidden. */
function cellsOf(form: Form, column: string): readonly Treatment[] {
  const table = compiledField(form, 'rows');
  const index = table.subFields.find(({ field }) => field.key === column)?.index ?? -1;
  if (treatmentOf(form, 'rows') === 'hidden') return [];
  return [...(form.rows.get(table.slot)?.values() ?? [])].map((cells) => cells[index]?.treatment ?? 'hidden');
}

/** What a form decided: values, treatments of fields and of cells. */
const decisionsOf = (form: Form): unknown => ({
  values: form.forms.fields.map(({ field, slot }) => [field.key, form.frame.slots[slot]]).sort(),
  treatments: form.forms.fields.map(({ field }) => [field.key, treatmentOf(form, field.key)]).sort(),
  cells: [...form.rows.values()].flatMap((rows) => [...rows].map(([id, cells]) => [id, cells.map((one) => one.treatment)])),
});

const NOT_HERE: readonly string[] = ['hand-off/not-here', 'hand-off/not-allowed', 'hand-off/not-offered'];

describe('handing on, in random workflows', () => {
  test('never changes a field that the actor may not enter, except to clear what an adjustment hid and to set what the hand-off sets', () => {
    let changedSome = 0;
    fc.assert(
      fc.property(randomWorkflow, randomValues, randomValues, fewFields, actors, (workflow, stored, values, few, actor) => {
        const compiled = compiledOf(workflow);
        const record = recordOf(compiled, stored);
        const sent = Object.fromEntries(Object.entries(values).filter(([key]) => (few as readonly string[]).includes(key)));
        const result = handOn(compiled, record, 'pass', sent, actor, OUTSIDE);
        if (!result.ok) return;
        // Whether a field may be entered depends on what is entered with it.
        const form = formOf(compiled, record, actor, sent);
        for (const key of ENTERED) {
          const [before, after] = [stored[key], result.value.record.values[key]];
          if (key === 'rows' || JSON.stringify(before) === JSON.stringify(after)) continue;
          changedSome += 1;
          const { treatment, by } = decidedOf(form, compiledField(form, key));
          const isEntered = key in sent && isEnterable(treatment) && mayRead(compiled.forms, key, actor);
          const isCleared = after === undefined && treatment === 'hidden' && by !== null;
          const isSet = compiled.handOffs.get('pass')?.sets.some(({ set }) => set.field === key) === true;
          expect([key, isEntered || isCleared || isSet]).toEqual([key, true]);
        }
      }),
      { numRuns: 400 },
    );
    expect(changedSome).toBeGreaterThan(10);
  });

  test('what is offered is what pressing doesn’t refuse as not offered or not allowed', () => {
    const seen = { offered: 0, not: 0 };
    fc.assert(
      fc.property(randomWorkflow, randomValues, actors, (workflow, stored, actor) => {
        const compiled = compiledOf(workflow);
        const record = recordOf(compiled, stored);
        const offered = offeredHandOffs(compiled, record, actor, OUTSIDE).map(({ key }) => key);
        for (const key of compiled.handOffs.keys()) {
          const result = handOn(compiled, record, key, {}, actor, OUTSIDE);
          const isRefused = !result.ok && result.diagnostics.some(({ code }) => NOT_HERE.includes(code));
          expect([key, offered.includes(key)]).toEqual([key, !isRefused]);
          seen[isRefused ? 'not' : 'offered'] += 1;
        }
      }),
      { numRuns: 200 },
    );
    expect(seen.offered).toBeGreaterThan(10);
    expect(seen.not).toBeGreaterThan(10);
  });

  test('refuses, each by its name, exactly what may not be entered', () => {
    const seen = { refused: 0, unknown: 0, taken: 0 };
    fc.assert(
      fc.property(randomWorkflow, randomValues, randomValues, actors, (workflow, stored, values, actor) => {
        const compiled = compiledOf(workflow);
        const record = recordOf(compiled, stored);
        // One field at a time as often as all: so that what may be entered is seen to be taken, too.
        const { rows: _, ...all } = values;
        const [key0] = Object.keys(all);
        const sent: Values = Object.keys(all).length % 2 === 0 && key0 !== undefined ? { [key0]: all[key0] ?? null } : all;
        const result = enterInput(compiled, record, sent, actor, OUTSIDE);
        const refused = result.ok ? [] : result.diagnostics.map(({ path, code }) => [path, code]);
        const read = new Map(
          Object.entries(sent).map(([key, json]) => {
            const value = readFieldValue(fieldOf(workflow, key), json, OUTSIDE);
            return [compiled.forms.fieldByKey.get(key)?.slot ?? -1, value.ok ? value.value : null] as const;
          }),
        );
        const form = evaluateForm(compiled.forms, 'work', { ...formOf(compiled, record, actor).given, input: read });
        // What this actor is never shown here is refused as if there were none.
        const isKnown = (key: string): boolean => {
          const step = form.stageForm.fieldSteps.get(key);
          return step !== undefined && canBeShown(step.placement) && mayRead(compiled.forms, key, actor);
        };
        const expected = Object.keys(sent)
          .filter((key) => !isEnterable(treatmentOf(form, key)) || !mayRead(compiled.forms, key, actor))
          .map((key) => [key, isKnown(key) ? 'hand-off/may-not-enter' : 'hand-off/unknown-field']);
        expect(refused.sort()).toEqual(expected.sort());
        seen.refused += expected.filter(([, code]) => code === 'hand-off/may-not-enter').length;
        seen.unknown += expected.filter(([, code]) => code === 'hand-off/unknown-field').length;
        if (result.ok && Object.keys(sent).length > 0) seen.taken += 1;
      }),
      { numRuns: 150 },
    );
    expect(Math.min(seen.refused, seen.unknown, seen.taken)).toBeGreaterThan(10);
  });

  test('is the same each time, and leaves the record it was given alone', () => {
    fc.assert(
      fc.property(randomWorkflow, randomValues, (workflow, stored) => {
        const compiled = compiledOf(workflow);
        const record = recordOf(compiled, stored);
        const before = JSON.stringify(record);
        const [first, second] = [1, 2].map(() => handOn(compiled, record, 'pass', {}, worker, OUTSIDE));
        expect(first).toEqual(second);
        expect(JSON.stringify(record)).toBe(before);
      }),
      { numRuns: 300 },
    );
  });
});

describe('what explains is what decides, in random workflows', () => {
  test('a hand-off goes where its reasons say, with what they say, and is refused for what they say', () => {
    const outcomes = new Map<string, number>();
    fc.assert(
      fc.property(randomWorkflow, randomValues, fewFields, actors, (workflow, values, keys, actor) => {
        const compiled = compiledOf(workflow);
        const record = recordOf(compiled, values);
        const input = Object.fromEntries(keys.map((key) => [key, values[key] ?? null]));
        const entered = enterInput(compiled, record, input, actor, OUTSIDE);
        if (!entered.ok) return;
        const reasons = explainHandOffs(compiled, entered.value, record, actor, OUTSIDE);
        for (const { handOff } of compiled.stages.get('work')?.handOffs ?? []) {
          const reason = reasons.find(({ key }) => key === handOff.key);
          const result = handOn(compiled, record, handOff.key, input, actor, OUTSIDE);
          outcomes.set(String(result.ok), (outcomes.get(String(result.ok)) ?? 0) + 1);
          if (!result.ok) {
            const isOffered = reason?.offered.truth === true;
            expect(isOffered ? reason?.refusals : result.diagnostics).toEqual(result.diagnostics);
            continue;
          }
          const decided = result.value;
          expect(reason?.handedOn).toEqual(decided);
          expect(reason?.leadsTo).toBe(decided.record.stage);
          const trace = [...(reason?.ways ?? []).flatMap(({ branches }) => branches), ...(reason?.consequences ?? [])];
          const branches = (reason?.ways ?? []).flatMap((way) => way.branches);
          const taken = branches.filter(({ outcome }) => outcome === 'taken').map(({ key }) => key);
          expect(taken).toEqual(decided.events.flatMap((event) => ('branch' in event ? (event.branch ?? []) : [])));
          for (const step of trace) if (step.outcome === 'taken' && step.explanation) expect(step.explanation.value).toBe(true);
        }
      }),
      { numRuns: 300 },
    );
    expect([...outcomes.values()].reduce((a, b) => a + b, 0)).toBeGreaterThan(30);
  });
});

describe('forms of random workflows', () => {
  const changes = fc.array(
    randomValues.chain((values) => {
      const entries = Object.entries(values);
      return fc.constantFrom<readonly [string, Json]>(...(entries.length > 0 ? entries : ([['flag', null]] as const)));
    }),
    { maxLength: 6 },
  );

  test('evaluating after each change is evaluating the whole', () => {
    fc.assert(
      fc.property(randomWorkflow, randomValues, changes, (workflow, stored, list) => {
        const compiled = compiledOf(workflow);
        let form = formOf(compiled, recordOf(compiled, stored), auditor);
        for (const [key, value] of list) form = enter(form, key, value);
        expect(decisionsOf(form)).toEqual(decisionsOf(evaluateForm(compiled.forms, 'work', form.given)));
      }),
      { numRuns: 150 },
    );
  });

  test('a treatment falls back by itself when what brought it about is undone', () => {
    fc.assert(
      fc.property(randomWorkflow, randomValues, changes, (workflow, stored, list) => {
        const compiled = compiledOf(workflow);
        const form = formOf(compiled, recordOf(compiled, stored), auditor);
        const there = list.reduce((at, [key, value]) => enter(at, key, value), form);
        const back = [...new Set(list.map(([key]) => key))].reduce((at, key) => enter(at, key, stored[key] ?? null), there);
        expect(decisionsOf(back)).toEqual(decisionsOf(form));
      }),
      { numRuns: 150 },
    );
  });

  test('the order in which fields are listed decides nothing', () => {
    fc.assert(
      fc.property(randomWorkflow, randomValues, fc.nat(), (workflow, stored, turn) => {
        const cut = turn % workflow.fields.length;
        const turned = { ...workflow, fields: [...workflow.fields.slice(cut), ...workflow.fields.slice(0, cut)] };
        const [one, other] = [workflow, turned].map((own) => {
          const compiled = compiledOf(own);
          return decisionsOf(formOf(compiled, recordOf(compiled, stored), auditor));
        });
        expect(one).toEqual(other);
      }),
      { numRuns: 300 },
    );
  });

  test('an adjustment without a condition that holds leaves the plan as it is', () => {
    fc.assert(
      fc.property(randomWorkflow, randomValues, (workflow, stored) => {
        const never = { ...workflow, adjustments: workflow.adjustments.map((one) => ({ ...one, when: 'false' })) };
        const bare = { ...workflow, adjustments: [] };
        const [one, other] = [never, bare].map((own) => {
          const compiled = compiledOf(own);
          return decisionsOf(formOf(compiled, recordOf(compiled, stored), auditor));
        });
        expect(one).toEqual(other);
      }),
      { numRuns: 200 },
    );
  });
});

describe('what a browser gets, in random workflows', () => {
  /** Values that are nowhere else, so that a text that holds one gives it away. */
  const SECRETS: Values = {
    amount: '70001.25',
    size: '80002.50',
    remark: 'SECRET-remark',
    extra: 'SECRET-extra',
    rows: [{ id: 'r0', values: { amount: '90003.75', size: '60004.00', shade: null, flag: true } }],
  };

  test('a hidden or confidential value is in no part of it', () => {
    fc.assert(
      fc.property(randomWorkflow, actors, (workflow, actor) => {
        const compiled = compiledOf(workflow);
        const record = recordOf(compiled, SECRETS);
        const form = formOf(compiled, record, actor);
        const text = JSON.stringify(projectForm(compiled, form, record, actor));
        const isOpen = (key: string): boolean => treatmentOf(form, key) !== 'hidden' && mayRead(compiled.forms, key, actor);
        for (const [key, secret] of [
          ['amount', '70001'],
          ['size', '80002'],
          ['remark', 'SECRET-remark'],
          ['extra', 'SECRET-extra'],
          ['twice', '140002'],
        ] as const) {
          if (!isOpen(key)) expect([key, text.includes(secret)]).toEqual([key, false]);
        }
        const cells = form.rows.get(compiledField(form, 'rows').slot)?.get('r0');
        for (const [index, secret] of ['90003', '60004'].entries()) {
          const isShown = isOpen('rows') && cells?.[index]?.treatment !== 'hidden';
          if (!isShown) expect([CELLS[index], text.includes(secret)]).toEqual([CELLS[index], false]);
        }
      }),
      { numRuns: 400 },
    );
  });

  test('the browser treats what it shows as the server does, also after changes that need not be asked about', () => {
    let compared = 0;
    fc.assert(
      fc.property(randomWorkflow, randomValues, randomValues, actors, (workflow, stored, values, actor) => {
        const compiled = compiledOf(workflow);
        const record = recordOf(compiled, stored);
        const form = formOf(compiled, record, actor);
        const projected = projectForm(compiled, form, record, actor);
        const browser = compileWorkflow(projected.definition);
        expect(browser.diagnostics.filter(({ code }) => code !== 'workflow/no-intake')).toEqual([]);
        const sent = projected.definition.fields.map((field) => field.key);
        const table = projected.definition.fields.find((field) => field.key === 'rows');
        const columns = table?.type === 'table' ? table.fields.map((column) => column.key) : [];
        const changes = Object.entries(values).filter(
          ([key]) =>
            sent.includes(key) && key !== 'rows' && isEnterable(treatmentOf(form, key)) && !projected.askAgainFor.includes(key),
        );
        let [own, elsewhere] = [form, formOf(browser, { ...record, values: projected.values }, actor)];
        for (const [key, value] of [['', null] as const, ...changes]) {
          if (key !== '') [own, elsewhere] = [enter(own, key, value), enter(elsewhere, key, value)];
          for (const shown of sent) {
            if (!mayRead(compiled.forms, shown, actor)) continue;
            compared += 1;
            expect([shown, treatmentOf(elsewhere, shown)]).toEqual([shown, treatmentOf(own, shown)]);
          }
          for (const column of columns) {
            const expected = column.startsWith('answer__')
              ? cellsOf(elsewhere, column).map(() => 'hidden')
              : cellsOf(own, column);
            expect([column, cellsOf(elsewhere, column)]).toEqual([column, expected]);
          }
        }
      }),
      { numRuns: 400 },
    );
    expect(compared).toBeGreaterThan(2000);
  });
});
