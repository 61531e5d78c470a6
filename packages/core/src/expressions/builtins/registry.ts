import { equalValues, notTruth, type Value } from '../../values/value.ts';
import { TYPES } from '../types.ts';
import { type Builtin, parameter } from './builtin.ts';
import { listBuiltins } from './lists.ts';
import { numberBuiltins } from './numbers.ts';
import { rangeBuiltins } from './ranges.ts';
import { temporalBuiltins } from './temporal.ts';
import { textBuiltins } from './text.ts';
import { workingBuiltins } from './working.ts';

const truthBuiltins: readonly Builtin[] = [
  {
    name: 'not',
    clause: '10.3.4.2',
    takesNull: true,
    signatures: [{ parameters: [parameter('negand', TYPES.boolean)], result: TYPES.boolean }],
    call: ([value]) => notTruth(value as Value),
  },
  {
    name: 'is',
    clause: '10.3.4.7',
    takesNull: true,
    signatures: [{ parameters: [parameter('value1', TYPES.any), parameter('value2', TYPES.any)], result: TYPES.boolean }],
    call: ([a, b]) => equalValues(a as Value, b as Value) === true,
  },
];

const BUILTINS: ReadonlyMap<string, Builtin> = new Map(
  [
    ...truthBuiltins,
    ...textBuiltins,
    ...numberBuiltins,
    ...listBuiltins,
    ...temporalBuiltins,
    ...workingBuiltins,
    ...rangeBuiltins,
  ].map((builtin) => [builtin.name, builtin]),
);

export const findBuiltin = (name: string): Builtin | null => BUILTINS.get(name) ?? null;
export const listBuiltinNames = (): readonly string[] => [...BUILTINS.keys()];
export const listAllBuiltins = (): readonly Builtin[] => [...BUILTINS.values()];
