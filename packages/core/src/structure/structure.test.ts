import { describe, expect, test } from '@jest/globals';
import { richWorkflow } from '@ypomet/testkit/rich-workflow';
import type { z } from 'zod';
import { joinPath, splitPath } from '../model/path.ts';
import { type Property, SHAPES } from '../model/shape.ts';
import { mapExpressions } from '../model/walk.ts';
import { Workflow } from '../model/workflow.ts';
import { applyDifferences, differencesBetween } from './differences.ts';
import { workflowsNamedBy } from './named-workflows.ts';
import { findList, findPart } from './places.ts';
import { makeReferences } from './references.ts';
import { fieldAt, readAtStages, stagesByPart, usedPartsOf, usersOf } from './used-parts.ts';

const rich = richWorkflow();

describe('paths', () => {
  test.each([[['fields', 'lux']], [['plan', 'objects.material', 'review']], [['fields', 'k', 'options', 'a b"c\\']], [['x']]])(
    '%j there and back',
    (steps) => {
      expect(splitPath(joinPath(...steps))).toEqual(steps);
    },
  );
  test.each(['.a', 'a.', 'a..b', '"a', 'a"b"', 'a b'])('%s is none', (text) => {
    expect(splitPath(text)).toBeNull();
  });
  test('a part, a list, a part within a part, an option by its code', () => {
    expect(findPart(rich, 'fields.kind.options."a b"')?.part.label).toBe('Two words');
    expect(findPart(rich, 'stages.work.onArrival')?.kind).toBe('arrival');
    expect(findList(rich, 'stages.work.onArrival.deliveries')?.list).toHaveLength(1);
    expect([findPart(rich, 'fields.nope'), findPart(rich, 'fields'), findPart(rich, 'constructor')]).toEqual([null, null, null]);
  });
});

describe('the shape of definitions', () => {
  /** Every property of the model that is a list of objects with keys, an expression, or names a key. */
  test('has every list of parts and every expression that the model has', () => {
    const missing: string[] = [];
    const isKeyed = (of: z.ZodType): boolean => {
      const object = options(of)[0];
      return (
        object !== undefined &&
        'shape' in object.def &&
        ('key' in (object.def.shape as object) || 'code' in (object.def.shape as object))
      );
    };
    const visit = (schema: z.ZodType, shape: Readonly<Record<string, Property>>, at: string): void => {
      for (const own of options(schema)) {
        for (const [name, inner] of Object.entries((own.def as unknown as { shape?: Record<string, z.ZodType> }).shape ?? {})) {
          const of = unwrap(inner);
          if (of.def.type === 'array' && isKeyed((of.def as unknown as { element: z.ZodType }).element)) {
            const property = shape[name];
            if (property?.is !== 'parts') missing.push(`${at}.${name}`);
            else visit((of.def as unknown as { element: z.ZodType }).element, SHAPES[property.part], `${at}.${name}`);
          }
          const isText =
            /^(expression|when|condition|value|subject|body|offeredWhen|default)$/.test(name) && of.def.type === 'string';
          if (isText && shape[name]?.is !== 'text' && shape[name]?.is !== 'nested') missing.push(`${at}.${name}`);
        }
      }
    };
    visit(Workflow, SHAPES.workflow, '');
    expect(missing).toEqual([]);
  });
});

const unwrap = (schema: z.ZodType): z.ZodType => {
  const inner = (schema.def as unknown as { innerType?: z.ZodType }).innerType;
  return inner ? unwrap(inner) : schema;
};
const options = (schema: z.ZodType): readonly z.ZodType[] => {
  const of = unwrap(schema);
  return (of.def as unknown as { options?: readonly z.ZodType[] }).options ?? [of];
};

describe('what names a part', () => {
  const references = makeReferences(rich);
  const uses = (path: string): readonly string[] => (references.get(path) ?? []).map((use) => `${use.path} ${use.as}`);

  test.each<[string, readonly string[]]>([
    ['fields.keeper', ['stages.work.assignment.expression expression']],
    [
      'fields.objects.fields.state',
      [
        'plan."objects.state" key',
        'adjustments.cells.fields."objects.state" key',
        'handOffs.send.branches.slow.when expression',
        'handOffs.pass.followUps.report.when expression',
      ],
    ],
    ['fields.kind.options."a b"', ['adjustments.away.when expression']],
    [
      'decisionTables.fee.outputs.days',
      [
        'decisionTables.fee.rules.first.then.days key',
        'decisionTables.fee.rules.rest.then.days key',
        'handOffs.pass.sets.again.value expression',
      ],
    ],
    [
      'tracks.short',
      [
        'stages.ask.tracks.short key',
        'stages.look.tracks.short key',
        'stages.done.tracks.short key',
        'handOffs.send.branches.quick.track key',
        'handOffs.pass.offeredWhen expression',
      ],
    ],
    [
      'sections.loose',
      [
        'fields.tags.section key',
        'fields.reserve.section key',
        'fields.day.section key',
        'fields.hint.section key',
        'adjustments.away.sections.loose key',
      ],
    ],
  ])('%s', (path, expected) => {
    expect(uses(path)).toEqual(expected);
  });
});

test('the workflows that a definition names: by references, in rows too, and by follow-ups, each once', () => {
  const about = { type: 'reference', name: 'About' } as const;
  const fields = [
    { ...about, key: 'a', workflow: 'crates' },
    { ...about, key: 'b', workflow: 'visits' },
    { type: 'table', key: 'rows', name: 'Rows', fields: [{ ...about, key: 'c', workflow: 'objects' }] },
  ];
  const { handOffs } = richWorkflow();
  const opened = handOffs.flatMap(({ followUps }) => followUps.map(({ workflow }) => workflow));
  expect(opened.length).toBeGreaterThan(0);
  const named = workflowsNamedBy({ fields: [...fields, ...fields] as never, handOffs });
  expect(named).toEqual([...new Set(['crates', 'visits', 'objects', ...opened])]);
});

test('expressions of every kind are met once', () => {
  const texts: string[] = [];
  const same = mapExpressions(rich, ({ text, path, reads }) => {
    texts.push(`${path} ${reads}`);
    return text;
  });
  expect(same).toBe(rich);
  expect(new Set(texts).size).toBe(texts.length);
  for (const one of [
    'handOffs.pass.deliveries.passed.body template',
    'decisionTables.fee.rules.first.when.sort tests',
    'stages.work.onArrival.sets.title.value value',
    'checks.enough.condition condition',
  ])
    expect(texts).toContain(one);
});

test('differences name parts by their keys, wherever they stand', () => {
  const [title, address, ...rest] = rich.fields;
  if (!title || !address) throw new Error('no fields');
  const after = { ...rich, fields: [address, ...rest.filter(({ key }) => key !== 'hint'), { ...title, name: 'Heading' }] };
  const found = differencesBetween(rich, after);
  expect(found.map(({ kind, path }) => `${kind} ${path}`)).toEqual(['removed fields', 'changed fields.title', 'moved fields']);
  expect(applyDifferences(rich, found).definition).toEqual(after);
});

describe('uses', () => {
  const used = usedPartsOf(makeReferences(rich));

  test('name parts, each once, without the plan’s cells', () => {
    const all = new Map(used);
    expect(all.get('fields.keeper')).toEqual(['stages.work']);
    expect(used.flatMap(([, by]) => by)).not.toContain('');
    for (const [target, by] of used) expect(new Set(by).size).toBe(by.filter((part) => part !== target).length);
  });

  test('of a part take in those of what is within it, and not its own', () => {
    const users = usersOf(used, 'fields.objects');
    expect(users).toContain('handOffs.send.branches.slow');
    expect(users).toContain('adjustments.cells');
    expect(users.filter((part) => part.startsWith('fields.objects'))).toEqual([]);
    expect(usersOf(used, 'handOffs.send')).not.toContain('handOffs.send.branches.slow');
  });

  test.each([
    ['stages.work.onArrival.deliveries.x', ['work']],
    ['handOffs.send.branches.slow', [rich.handOffs.find(({ key }) => key === 'send')?.from]],
    ['handOffs.gone', []],
    ['adjustments.gone', []],
    ['checks.gone', []],
    ['fields.total', []],
  ])('%s has its effect at %j', (path, stages) => {
    expect(stagesByPart(rich)(path)).toEqual(stages);
  });

  test.each([
    ['fields.kind', 'kind'],
    ['fields.kind.options."a b"', 'kind'],
    ['fields.objects.fields.state', 'objects.state'],
    ['stages.work', null],
    ['fields', null],
  ])('%s is about the field %j', (path, field) => {
    expect(fieldAt(path)).toBe(field);
  });

  test('are told by field and stage', () => {
    const reads = readAtStages(rich, used);
    const send = rich.handOffs.find(({ key }) => key === 'send');
    expect(reads.get('objects.state')?.get(send?.from ?? '')).toContain('handOffs.send.branches.slow');
    expect(reads.get('keeper')?.get('work')).toEqual(['stages.work']);
    expect(reads.has('reserve.gone')).toBe(false);
  });
});
