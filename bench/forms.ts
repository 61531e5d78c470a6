import {
  type Actor,
  compileWorkflow,
  enterValue,
  evaluateForm,
  type FormInput,
  handOn,
  isComputed,
  isEnterable,
  type Json,
  makeOutside,
  ORDINARY_CALENDAR,
  openRecord,
  plannedTreatment,
  readExact,
  readStoredValues,
  systemValues,
  type Value,
} from '@ypomet/core';
import { realSizeWorkflow } from '@ypomet/testkit/real-size';
import { makeLargeValues, makeLargeWorkflow } from './large-workflow.ts';
import { type Runner, rate, rates } from './measure.ts';
import type { Figure } from './report.ts';

const OUTSIDE = makeOutside({ now: Date.UTC(2027, 0, 1), zone: 'UTC', locale: 'en', calendar: ORDINARY_CALENDAR });
const ACTOR: Actor = { id: 'somebody', name: 'Somebody', email: null, roles: [] };

/** What is measured of a workflow of some size: compiling it, its whole form, one change of its form. */
type Sized = { readonly compile: Runner; readonly whole: Runner; readonly change: Runner };

function makeSized(times: number): Sized {
  const definition = makeLargeWorkflow(times);
  const workflow = compileWorkflow(definition);
  if (workflow.diagnostics.length > 0) throw new Error(JSON.stringify(workflow.diagnostics.slice(0, 3)));
  const { forms } = workflow;
  const values = makeLargeValues(definition);
  const record = { ...openRecord(workflow, 'ask', 'r1', 1, ACTOR, OUTSIDE), values };
  const given: FormInput = {
    stored: readStoredValues(forms, values, OUTSIDE),
    input: new Map(),
    due: new Set<number>(),
    system: systemValues(forms, record, ACTOR, OUTSIDE),
    environment: OUTSIDE,
  };
  const form = evaluateForm(forms, 'ask', given);
  const entered = forms.fields.filter((field) => field.computes === null);
  const amounts = [readExact('12.50'), readExact('99.99')] as readonly Value[];
  const whole = () => {
    for (let index = 0; index < 200; index++) evaluateForm(forms, 'ask', given);
  };
  const change = () => {
    for (let index = 0; index < 1000; index++) {
      const field = entered[(index * 7) % entered.length];
      if (field) enterValue(form, field, amounts[index % 2] ?? null);
    }
  };
  return {
    compile: { count: 1, run: () => void compileWorkflow(definition) },
    whole: { count: 200, run: whole },
    change: { count: 1000, run: change },
  };
}

type Measured = { readonly [key in keyof Sized]: number };

/** Milliseconds of each, for each size. All run in turn: growth is a ratio. */
function measureSizes(sizes: readonly number[]): readonly Measured[] {
  const sized = sizes.map(makeSized);
  const found = rates(sized.flatMap(({ compile, whole, change }) => [compile, whole, change])).map(
    (perSecond) => 1000 / perSecond,
  );
  return sizes.map((_, index) => {
    const [compile, whole, change] = found.slice(index * 3) as [number, number, number];
    return { compile, whole, change };
  });
}

/** Hand-offs a second of a record of 40 fields, with 40 conditions of four clauses to try. */
function handOffRate(): number {
  const definition = makeLargeWorkflow();
  const workflow = compileWorkflow({ ...definition, adjustments: [], fields: definition.fields.slice(0, 40) });
  const values = Object.fromEntries(Object.entries(makeLargeValues(definition)).filter(([key]) => Number(key.slice(1)) < 40));
  const record = { ...openRecord(workflow, 'ask', 'r1', 1, ACTOR, OUTSIDE), values };
  return rate(2000, () => {
    for (let index = 0; index < 2000; index++) {
      const result = handOn(workflow, record, 'send', {}, ACTOR, OUTSIDE);
      if (!result.ok) throw new Error(JSON.stringify(result.diagnostics.slice(0, 3)));
    }
  });
}

const SAMPLES: Readonly<Record<string, Json>> = {
  number: '7.00',
  money: '5.00',
  text: 'a',
  choice: 'o1',
  'yes-no': true,
  date: '2027-03-01',
};

/** Hand-offs a second through 60 stages: with adjustments, sets, mails, and values entered each time. */
function realSizeRate(): number {
  // Its checks are random conditions, which no record keeps all of.
  const workflow = compileWorkflow({ ...realSizeWorkflow(), checks: [] });
  const { definition } = workflow;
  const actor: Actor = { ...ACTOR, roles: definition.roles.map(({ key }) => key) };
  const start = openRecord(workflow, 'stage0', 'r1', 1, actor, OUTSIDE);
  const stages = definition.stages.filter(({ kind }) => kind === 'work').map(({ key }) => key);
  const handOffs = new Map(definition.handOffs.map(({ key, from }) => [from, key]));
  const amounts = ['12.50', '99.99', '7.00'];
  const records = stages.map((stage, index) => {
    const enterable = definition.fields.filter(
      (field) => field.type === 'number' && !isComputed(field) && isEnterable(plannedTreatment(definition, field.key, stage)),
    );
    const values = Object.fromEntries(
      definition.fields.flatMap((field) => (isComputed(field) ? [] : [[field.key, SAMPLES[field.type] ?? []]])),
    );
    const input = Object.fromEntries(enterable.slice(0, 3).map((field, at) => [field.key, amounts[(index + at) % 3] ?? '1']));
    const record = { ...start, stage, track: null, values };
    const handOff = handOffs.get(stage) ?? '';
    // What an adjustment hides or freezes can't be entered: the values are tried once, and left out where they can't be.
    const isTaken = handOn(workflow, record, handOff, input, actor, OUTSIDE).ok;
    return { record, handOff, input: isTaken ? input : {} };
  });
  const able = records.filter(({ record, handOff, input }) => handOn(workflow, record, handOff, input, actor, OUTSIDE).ok);
  const entering = able.filter(({ input }) => Object.keys(input).length > 0).length;
  if (able.length < 30 || entering < 10) throw new Error(`only ${able.length} stages hand on, ${entering} with values`);
  return rate(able.length * 10, () => {
    for (let round = 0; round < 10; round++)
      for (const { record, handOff, input } of able) handOn(workflow, record, handOff, input, actor, OUTSIDE);
  });
}

/** Kilobytes that one compiled workflow of 300 fields holds on to. */
function memoryOfWorkflow(): number {
  const definition = makeLargeWorkflow();
  const kept: unknown[] = [compileWorkflow(definition)];
  const collect = (globalThis as { gc?: () => void }).gc;
  collect?.();
  const before = process.memoryUsage().heapUsed;
  for (let index = 0; index < 20; index++) kept.push(compileWorkflow(definition));
  collect?.();
  const used = process.memoryUsage().heapUsed - before;
  if (kept.length !== 21) throw new Error('not kept');
  return used / 20 / 1024;
}

/** Forms and hand-offs of a workflow of 300 fields and 150 adjustments, and how the times grow with ten times as much. */
export function benchForms(): readonly Figure[] {
  const [one, largest, ten] = measureSizes([1, 10 / 3, 10]) as [Measured, Measured, Measured];
  return [
    { what: 'whole form, 300 fields, 150 adjustments', value: one.whole, unit: 'ms', bar: { below: 0.3 } },
    { what: 'one changed value', value: one.change, unit: 'ms', bar: { below: 0.03 } },
    { what: 'whole form over one change', value: one.whole / one.change, unit: 'times', bar: null },
    { what: 'hand-offs, 40 fields, 40 conditions', value: handOffRate(), unit: 'a second', bar: { above: 20_000 } },
    { what: 'hand-offs, 60 stages, 300 fields, 150 adjustments', value: realSizeRate(), unit: 'a second', bar: null },
    { what: 'whole form, 1,000 fields, 500 adjustments', value: largest.whole, unit: 'ms', bar: null },
    { what: 'one changed value there', value: largest.change, unit: 'ms', bar: null },
    { what: 'compile the workflow', value: one.compile, unit: 'ms', bar: null },
    { what: 'memory of the compiled workflow', value: memoryOfWorkflow(), unit: 'kB', bar: null },
    { what: 'ten times as large: whole form', value: ten.whole / one.whole, unit: 'times', bar: { below: 15 } },
    { what: 'ten times as large: one changed value', value: ten.change / one.change, unit: 'times', bar: { below: 12 } },
    { what: 'ten times as large: compile', value: ten.compile / one.compile, unit: 'times', bar: { below: 15 } },
  ];
}
