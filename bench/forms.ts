import {
  type Actor,
  compileWorkflow,
  enterValue,
  evaluateForm,
  type FormInput,
  handOn,
  makeOutside,
  openRecord,
  readExact,
  readStoredValues,
  systemValues,
  type Value,
} from '@ypomet/core';
import { makeLargeValues, makeLargeWorkflow } from './large-workflow.ts';
import { milliseconds, rate } from './measure.ts';
import type { Figure } from './report.ts';

const OUTSIDE = makeOutside({ now: Date.UTC(2027, 0, 1), zone: 'UTC', locale: 'en' });
const ACTOR: Actor = { id: 'somebody', name: 'Somebody', email: null, roles: [] };

type Measured = { readonly whole: number; readonly change: number; readonly compile: number };

function measure(times: number): Measured {
  const definition = makeLargeWorkflow(times);
  const compile = milliseconds(1, () => void compileWorkflow(definition));
  const workflow = compileWorkflow(definition);
  if (workflow.diagnostics.length > 0) throw new Error(JSON.stringify(workflow.diagnostics.slice(0, 3)));
  const { forms } = workflow;
  const values = makeLargeValues(definition);
  const record = { ...openRecord(workflow, 'ask', 'r1', 1, ACTOR, OUTSIDE), values };
  const given: FormInput = {
    stored: readStoredValues(forms, values, OUTSIDE),
    input: new Map(),
    system: systemValues(forms, record, ACTOR, OUTSIDE),
    environment: OUTSIDE,
  };
  const form = evaluateForm(forms, 'ask', given);
  const whole = milliseconds(200, () => {
    for (let index = 0; index < 200; index++) evaluateForm(forms, 'ask', given);
  });
  const entered = forms.fields.filter((field) => field.computes === null);
  const amounts = [readExact('12.50'), readExact('99.99')] as readonly Value[];
  const change = milliseconds(1000, () => {
    for (let index = 0; index < 1000; index++) {
      const field = entered[(index * 7) % entered.length];
      if (field) enterValue(form, field, amounts[index % 2] ?? null);
    }
  });
  return { whole, change, compile };
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
  const one = measure(1);
  const ten = measure(10);
  return [
    { what: 'whole form, 300 fields, 150 adjustments', value: one.whole, unit: 'ms', bar: 'below 0.3' },
    { what: 'one changed value', value: one.change, unit: 'ms', bar: 'below 0.03' },
    { what: 'whole form over one change', value: one.whole / one.change, unit: 'times', bar: '' },
    { what: 'hand-offs, 40 fields, 40 conditions', value: handOffRate(), unit: 'a second', bar: 'above 20,000' },
    { what: 'compile the workflow', value: one.compile, unit: 'ms', bar: '' },
    { what: 'memory of the compiled workflow', value: memoryOfWorkflow(), unit: 'kB', bar: '' },
    { what: 'ten times as large: whole form', value: ten.whole / one.whole, unit: 'times', bar: 'about 10' },
    { what: 'ten times as large: one changed value', value: ten.change / one.change, unit: 'times', bar: 'about 10 or less' },
    { what: 'ten times as large: compile', value: ten.compile / one.compile, unit: 'times', bar: 'about 10' },
  ];
}
