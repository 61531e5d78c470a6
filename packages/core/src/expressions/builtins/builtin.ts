import type { Value } from '../../values/value.ts';
import type { WorkingCalendar } from '../../values/working-calendar.ts';
import type { Type, Typing } from '../types.ts';

/** What comes in from outside with each evaluation: the clock, the workspace's zone, the language for formatting. */
export type Environment = {
  /** Milliseconds since 1970-01-01T00:00Z. */
  readonly now: number;
  /** IANA time zone of the workspace. */
  readonly zone: string;
  /** What working days and hours count in. */
  readonly calendar: WorkingCalendar;
};

export type Parameter = { readonly name: string; readonly type: Type; readonly optional?: true };

/** One way of calling a built-in. */
export type Signature = {
  readonly parameters: readonly Parameter[];
  /** The last parameter may be repeated: its values arrive as one list in its place. */
  readonly variadic?: true;
  readonly result: Type | ((given: readonly Typing[]) => Type);
};

/** A function of the profile. Null arguments give null unless `takesNull`. */
export type Builtin = {
  readonly name: string;
  /** The clause of OMG DMN 1.3 (or later, where named) that defines it; `Ypomet` for what the profile adds. */
  readonly clause: string;
  readonly signatures: readonly Signature[];
  readonly takesNull?: true;
  /** The result can be null although no argument is. */
  readonly partial?: true;
  /**
   * Steps of the work limit that a call costs besides what it is given; 1 unless it says otherwise. A function of the arguments,
   * in the order they are written, where their values decide how much work it is.
   */
  readonly steps?: number | ((given: readonly Value[]) => number);
  /** Steps for each item of a list it is given and for each few characters of a text; 1 unless it says otherwise. */
  readonly stepsPerItem?: number;
  readonly call: (given: readonly Value[], environment: Environment) => Value;
};

export const parameter = (name: string, type: Type): Parameter => ({ name, type });
export const optional = (name: string, type: Type): Parameter => ({ name, type, optional: true });
