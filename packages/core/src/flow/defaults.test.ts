import { describe, expect, test } from '@jest/globals';
import { begun, OUTSIDE, person, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { collectInput } from '../forms/collect-input.ts';
import { decidedOf, enterValue } from '../forms/evaluate-form.ts';
import { newRowCells, totalOf } from '../forms/rows.ts';
import { writeFieldValue } from '../model/field-value.ts';
import { openStoredWorkflow } from '../model/stored.ts';
import type { Json } from '../shared/json.ts';
import { writeExact } from '../values/exact.ts';
import { compileWorkflow } from './compile-workflow.ts';
import { enterInput } from './enter-input.ts';
import { handOn } from './hand-on.ts';
import { projectOnlook } from './onlook.ts';
import { projectForm } from './project-form.ts';

/** The sample's fields with more said of some of them. */
const withFields = (more: Readonly<Record<string, object>>, plan: object = {}) => {
  const sample = sampleWorkflow();
  return sampleWorkflow({
    fields: sample.fields.map((field) => ({ ...field, ...more[field.key] })),
    plan: { ...sample.plan, ...plan },
    checks: [],
  });
};

const ASKED = { thing: 'Lamp', kind: 'goods', price: '10.00' };
const asker = person('asker');
const buyer = person('bo', 'buyer');

describe('the default of a field', () => {
  test('is what its first form shows, and what is stored when nothing else is entered', () => {
    const { compiled, record } = begun(withFields({ delivery: { default: 'today() + duration("P7D")' } }));
    const entered = enterInput(compiled, record, ASKED, asker, OUTSIDE);
    if (!entered.ok) throw new Error();
    const form = entered.value;
    const delivery = compiled.forms.fieldByKey.get('delivery');
    if (!delivery) throw new Error();
    const shown = writeFieldValue(delivery.field, form.frame.slots[delivery.slot] ?? null);
    expect(collectInput(form, ASKED)).toEqual({ ...ASKED, delivery: shown });
    const result = handOn(compiled, record, 'send', ASKED, asker, OUTSIDE);
    expect(result.ok && result.value.record.values.delivery).toBe(shown);
    expect(result.ok && result.value.record.defaulted).toContain('delivery');
  });

  test('gives way to what is entered, and to being emptied; afterwards it never comes back', () => {
    const { compiled, record } = begun(withFields({ price: { default: '5' }, thing: { default: '"Thing"' } }));
    const first = handOn(compiled, record, 'send', { kind: 'goods', price: '7.00', thing: 'Lamp' }, asker, OUTSIDE);
    if (!first.ok) throw new Error(JSON.stringify(first.diagnostics));
    expect(first.value.record.values).toMatchObject({ price: '7.00', thing: 'Lamp' });
    const emptied = enterInput(compiled, first.value.record, { price: null }, buyer, OUTSIDE);
    if (!emptied.ok) throw new Error();
    const price = compiled.forms.fieldByKey.get('price');
    expect(emptied.value.frame.slots[price?.slot ?? -1]).toBeNull();
    const refused = handOn(compiled, record, 'send', { ...ASKED, price: null }, asker, OUTSIDE);
    expect(refused.ok ? [] : refused.diagnostics.map(({ code, path }) => `${code} ${path}`)).toEqual(['form/required price']);
  });

  test('is set on arrival where the next stage shows the field first, and stays as it was then', () => {
    const design = withFields({ limit: { default: 'price * 2', confidentialTo: [] } });
    const { compiled, record } = begun(design);
    const there = handOn(compiled, record, 'send', ASKED, asker, OUTSIDE);
    if (!there.ok) throw new Error();
    expect(there.value.record).toMatchObject({ stage: 'check', values: { limit: '20' }, defaulted: ['limit'] });
    const later = enterInput(compiled, there.value.record, { price: '400.00' }, buyer, OUTSIDE);
    if (!later.ok) throw new Error();
    const limit = compiled.forms.fieldByKey.get('limit');
    expect(writeFieldValue(limit?.field ?? null, later.value.frame.slots[limit?.slot ?? -1] ?? null)).toBe('20');
  });

  test('waits while an adjustment hides the field, and conditions see it once it is shown', () => {
    const design = withFields({ delivery: { default: 'date("2027-05-01")' } });
    const { compiled, record } = begun(design);
    const service = enterInput(compiled, record, { ...ASKED, kind: 'service' }, asker, OUTSIDE);
    if (!service.ok) throw new Error();
    const delivery = compiled.forms.fieldByKey.get('delivery');
    const kind = compiled.forms.fieldByKey.get('kind');
    if (!delivery || !kind) throw new Error();
    expect(decidedOf(service.value, delivery).treatment).toBe('hidden');
    expect(service.value.frame.slots[delivery.slot]).toBeNull();
    const goods = enterValue(service.value, kind, 'goods');
    expect(writeFieldValue(delivery.field, goods.frame.slots[delivery.slot] ?? null)).toBe('2027-05-01');
    const sent = handOn(compiled, record, 'send', { ...ASKED, kind: 'service' }, asker, OUTSIDE);
    expect(sent.ok && sent.value.record.defaulted).toEqual([]);
  });

  test('reads like an entered value: trimmed, rounded to its scale, nothing where it doesn’t fit', () => {
    const { compiled, record } = begun(
      withFields({ thing: { default: '"  Lamp  "' }, price: { default: '2 / 3' }, delivery: { default: 'null' } }),
    );
    const { ok, ...rest } = enterInput(compiled, record, { kind: 'goods' }, asker, OUTSIDE);
    if (!ok || !('value' in rest)) throw new Error();
    const sent = handOn(compiled, record, 'send', { kind: 'goods' }, asker, OUTSIDE);
    expect(sent.ok && sent.value.record.values).toMatchObject({ thing: 'Lamp', price: '0.67' });
    expect(sent.ok && Object.hasOwn(sent.value.record.values, 'delivery')).toBe(false);
  });

  test.each<[string, object, readonly string[]]>([
    ['outside the limits', { price: { default: '-1' } }, ['default/beyond-limits fields.price.default']],
    ['a retired option', { kind: { default: '"old"' } }, ['default/retired-option fields.kind.default']],
    ['more places than are kept', { price: { default: '10 / 3' } }, ['default/rounded fields.price.default']],
    ['of a computed field', { total: { default: '1' } }, ['default/computed fields.total.default']],
    ['another type', { price: { default: '"dear"' } }, ['expression/wrong-result fields.price.default']],
    ['a name that isn’t there', { price: { default: 'prise' } }, ['expression/unknown-name-near fields.price.default']],
    [
      'in a circle',
      {
        thing: { default: 'if kind = "goods" then "a" else "b"' },
        kind: { default: 'if thing = "a" then "goods" else "service"' },
      },
      [
        'form/cycle stages.ask',
        'form/cycle stages.check',
        'form/cycle stages.sorting',
        'form/cycle stages.sign',
        'form/cycle stages.done',
      ],
    ],
    ['from a confidential value', { outcome: { default: 'string(limit)' } }, ['readers/leak fields.outcome.default']],
  ])('at design: %s', (_, more, expected) => {
    const { diagnostics } = compileWorkflow(withFields(more as Record<string, object>));
    const usual = new Set(compileWorkflow(withFields({})).diagnostics.map(({ path }) => path));
    const found = diagnostics.filter(({ path }) => !usual.has(path));
    expect(found.map(({ code, path }) => `${code} ${path}`)).toEqual(expected);
  });
});

describe('what a participant’s browser gets of defaults', () => {
  test('those that are due and that it may work out; nothing of what is hidden', () => {
    const design = withFields(
      {
        thing: { default: '"Lamp"' },
        outcome: { default: 'string(price)' },
        delivery: { default: 'if outcome = "x" then today() else null' },
      },
      { outcome: { ask: 'hidden' } },
    );
    const { compiled, record } = begun(design);
    const entered = enterInput(compiled, record, {}, asker, OUTSIDE);
    if (!entered.ok) throw new Error();
    const { definition, values } = projectForm(compiled, entered.value, record, asker);
    const defaults = definition.fields.flatMap((field) =>
      'default' in field && field.default ? [[field.key, field.default]] : [],
    );
    expect(defaults).toEqual([['thing', '"Lamp"'], expect.arrayContaining(['delivery'])]);
    expect(JSON.stringify(defaults)).not.toContain('outcome');
    expect(values.thing).toBe('Lamp');
  });

  test('no notes for colleagues, acting or looking in', () => {
    const sample = sampleWorkflow();
    const design = sampleWorkflow({
      stages: sample.stages.map((stage) => ({ ...stage, notes: 'talk to Bo' })),
      tracks: sample.tracks.map((track) => ({ ...track, notes: 'talk to Bo' })),
      fields: sample.fields.map((field) => (field.key === 'thing' ? { ...field, default: '"talk to Bo"' } : field)),
    });
    const { compiled, record } = begun(design);
    const sent = handOn(compiled, record, 'send', ASKED, asker, OUTSIDE);
    if (!sent.ok) throw new Error();
    const entered = enterInput(compiled, sent.value.record, {}, buyer, OUTSIDE);
    if (!entered.ok) throw new Error();
    const acting = projectForm(compiled, entered.value, sent.value.record, buyer);
    const looking = projectOnlook(compiled, sent.value.record, asker, OUTSIDE);
    expect(JSON.stringify([acting, looking])).not.toContain('talk to Bo');
  });
});

describe('rows', () => {
  const design = () => {
    const sample = sampleWorkflow();
    const parts = sample.fields.find(({ key }) => key === 'parts');
    if (parts?.type !== 'table') throw new Error();
    const columns = parts.fields.map((own) =>
      own.key === 'amount' ? { ...own, default: '1', total: true } : own.key === 'name' ? { ...own, default: 'thing' } : own,
    );
    return withFields({ parts: { fields: columns } });
  };

  test('an added row begins with the defaults of its columns', () => {
    const { compiled, record } = begun(design());
    const entered = enterInput(compiled, record, { thing: 'Lamp' }, asker, OUTSIDE);
    const parts = compiled.forms.fieldByKey.get('parts');
    if (!entered.ok || !parts) throw new Error();
    expect(newRowCells(entered.value, parts)).toEqual({ name: 'Lamp', amount: '1.0' });
  });

  test.each<[string, Json, string]>([
    ['no rows', [], '0'],
    [
      'empty cells skipped',
      [
        { id: 'a', values: { amount: '0.1' } },
        { id: 'b', values: {} },
        { id: 'c', values: { amount: '0.2' } },
      ],
      '0.3',
    ],
  ])('the total of a column: %s', (_, rows, expected) => {
    const { compiled, record } = begun(design());
    const entered = enterInput(compiled, record, { parts: rows }, asker, OUTSIDE);
    const parts = compiled.forms.fieldByKey.get('parts');
    if (!entered.ok || !parts) throw new Error();
    const totals = parts.subFields.map((sub) => totalOf(entered.value, parts, sub));
    expect(totals.map((total) => total && writeExact(total))).toEqual([null, expected, null, null]);
  });
});

test('a stored design of before is opened with what came since, and means the same', () => {
  const now = withFields({ thing: { pattern: '[A-Z].*', messages: { pattern: 'Capital first.' } } });
  const before = JSON.parse(JSON.stringify(now)) as { fields: Record<string, unknown>[]; stages: object[]; tracks: object[] };
  const old = (field: Record<string, unknown>): Record<string, unknown> => {
    const { short: _s, messages, default: _d, total: _t, layout: _l, kinds: _k, ...rest } = field;
    const own = field.type === 'text' ? { patternMessage: (messages as { pattern?: string }).pattern ?? '' } : {};
    const columns = Array.isArray(rest.fields) ? { fields: rest.fields.map(old) } : {};
    return { ...rest, ...own, ...columns };
  };
  const stored = {
    ...before,
    fields: before.fields.map(old),
    stages: before.stages.map(({ notes: _, ...stage }: { notes?: string }) => stage),
    tracks: before.tracks.map(({ notes: _, ...track }: { notes?: string }) => track),
  };
  expect(openStoredWorkflow(stored as never)).toEqual(now);
  expect(openStoredWorkflow(now)).toBe(now);
});
