import { parseWorkflow, type Workflow } from '@ypomet/core';

/** A small generator of numbers that gives the same row for the same seed (mulberry32, public domain). */
export function makeNumbers(seed: number): (below: number) => number {
  let state = seed;
  return (below) => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return Math.floor((((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32) * below);
  };
}

const list = <T>(count: number, of: (index: number) => T): T[] => Array.from({ length: count }, (_, index) => of(index));

export type Size = { readonly stages: number; readonly fields: number; readonly conditions: number };
export const REAL_SIZE: Size = { stages: 60, fields: 300, conditions: 600 };

/**
 * A workflow of a real office's size: tracks, stages in lines with branches between them, fields of all plain types, tables,
 * computed fields, a decision table, and conditions at adjustments, branches, hand-offs, checks and deliveries.
 */
export function realSizeWorkflow({ stages, fields, conditions }: Size = REAL_SIZE): Workflow {
  const below = makeNumbers(7);
  const pick = <T>(from: readonly T[]): T => from[below(from.length)] as T;
  const options = list(6, (index) => ({ code: `o${index}`, label: `Option ${index}` }));
  const tables = Math.ceil(fields / 60);
  const plain = fields - tables;
  const typeOf = (index: number): string => ['number', 'text', 'choice', 'yes-no', 'date', 'money'][index % 6] as string;
  const isComputed = (index: number): boolean => index % 12 === 6;
  const field = (index: number): object => ({
    type: typeOf(index),
    key: `f${index}`,
    name: `Field number ${index}`,
    section: `s${index % 12}`,
    treatment: index % 4 === 0 ? 'optional' : 'hidden',
    ...(typeOf(index) === 'choice' ? { options } : {}),
    ...(typeOf(index) === 'money' ? { currency: 'EUR' } : {}),
    ...(typeOf(index) === 'number' ? { scale: 2 } : {}),
    ...(isComputed(index) && index > 12 ? { expression: `f${index - 6} * 2 + sum(t0.n0)` } : {}),
  });
  const table = (index: number): object => ({
    type: 'table',
    key: `t${index}`,
    name: `Table ${index}`,
    section: `s${index % 12}`,
    treatment: 'optional',
    fields: list(6, (at) => ({
      type: typeOf(at),
      key: `n${at}`,
      name: `Cell ${at}`,
      ...(typeOf(at) === 'choice' ? { options } : {}),
      ...(typeOf(at) === 'money' ? { currency: 'EUR' } : {}),
      ...(typeOf(at) === 'number' ? { scale: 2 } : {}),
    })),
  });
  const half = Math.floor(plain / 12) * 6;
  const clause = (limit: number): string => {
    const index = below(limit);
    const name = `f${index}`;
    switch (typeOf(index)) {
      case 'number':
      case 'money':
        return `${name} ${pick(['>', '<', '>=', '<='])} ${below(10_000) / 100}`;
      case 'text':
        return `starts with(${name}, "a")`;
      case 'choice':
        return `${name} in ("o${below(6)}", "o${below(6)}")`;
      case 'yes-no':
        return `${name} = true`;
      default:
        return `${name} > @"2027-0${1 + below(9)}-01"`;
    }
  };
  const condition = (limit: number): string =>
    pick([
      () => `(${clause(limit)} or ${clause(limit)}) and ${clause(limit)}`,
      () => `${clause(limit)} and not(${clause(limit)})`,
      () => `some r in t0 satisfies r.n0 > ${below(100)} and ${clause(limit)}`,
      () => clause(limit),
    ])();
  const adjustments = Math.floor(conditions / 4);
  const branches = Math.floor((conditions - adjustments) / (stages - 1));
  const stageKey = (index: number): string => `stage${index}`;
  const read = parseWorkflow({
    format: 'ypomet.workflow/1',
    key: 'realSize',
    name: 'Real size',
    roles: list(8, (index) => ({ key: `role${index}`, name: `Role ${index}` })),
    sections: list(12, (index) => ({ key: `s${index}`, name: `Section ${index}` })),
    fields: [...list(plain, field), ...list(tables, table)],
    tracks: list(4, (index) => ({ key: `track${index}`, name: `Track ${index}` })),
    stages: list(stages, (index) => ({
      key: stageKey(index),
      name: `Stage number ${index}`,
      kind: index === 0 ? 'intake' : index === stages - 1 ? 'end' : 'work',
      tracks: index === 0 || index === stages - 1 ? list(4, (at) => `track${at}`) : [`track${index % 4}`],
      roles: index === 0 || index === stages - 1 ? [] : [`role${index % 8}`],
    })),
    plan: Object.fromEntries(
      list(plain, (index) => [
        `f${index}`,
        Object.fromEntries(
          list(Math.ceil(stages / 4), () => [
            stageKey(below(stages)),
            pick(['hidden', 'read-only', 'optional', 'nudged', 'required']),
          ]),
        ),
      ]),
    ),
    adjustments: list(adjustments, (index) => ({
      key: `a${index}`,
      name: `Adjustment ${index}`,
      when: condition(half),
      // Fields of the second half follow conditions over the first, so that there is no cycle.
      fields: list(2, () => `f${half + below(plain - half)}`),
      stages: index % 3 === 0 ? [] : list(3, () => stageKey(below(stages - 1))),
      treatment: pick(['required', 'hidden', 'read-only', 'nudged']),
    })),
    decisionTables: [
      {
        key: 'level',
        name: 'Level',
        hitPolicy: 'F',
        inputs: [{ key: 'first', name: 'First', expression: 'f0' }],
        outputs: [{ key: 'out', name: 'Out', type: 'number' }],
        rules: list(20, (index) => ({ key: `r${index}`, when: { first: `> ${index * 10}` }, then: { out: `${index}` } })),
      },
    ],
    handOffs: list(stages - 1, (index) => ({
      key: `h${index}`,
      name: `Hand-off ${index}`,
      from: stageKey(index),
      branches: list(branches, (at) => ({
        key: `b${at}`,
        name: `Branch ${at}`,
        when: condition(plain),
        to: stageKey(1 + below(stages - 1)),
      })),
      otherwise: { to: stageKey(Math.min(index + 4, stages - 1)) },
      sets: index % 5 === 0 ? [{ key: 'set', field: 'f1', value: '"set here"' }] : [],
      deliveries:
        index % 4 === 0
          ? [
              {
                kind: 'mail',
                key: 'mail',
                name: 'Mail',
                to: [{ key: 'to', kind: 'role', role: 'role0' }],
                subject: 'At {{destination.name}}',
                body: '{{f0}} {{f2}}',
              },
            ]
          : [],
    })),
    checks: list(10, (index) => ({ key: `c${index}`, name: `Check ${index}`, condition: condition(plain), message: 'No.' })),
  });
  if (!read.ok) throw new Error(JSON.stringify(read.diagnostics.slice(0, 3)));
  return read.value;
}
