import type { Field } from '../model/field.ts';
import type { Adjustment } from '../model/flow.ts';

type Covering = { readonly adjustment: Adjustment };

/** The adjustments of a stage by what they cover, each list in listed order. */
export type Coverage<T> = {
  /** By field key, or `table.subField`. */
  readonly byPath: ReadonlyMap<string, readonly T[]>;
  readonly bySection: ReadonlyMap<string, readonly T[]>;
  readonly places: ReadonlyMap<T, number>;
};

/** The coverage of one stage. */
export function coverageAt<T extends Covering>(compiledAdjustments: readonly T[], stage: string): Coverage<T> {
  const byPath = new Map<string, T[]>();
  const bySection = new Map<string, T[]>();
  const places = new Map<T, number>();
  const put = (map: Map<string, T[]>, key: string, adjustment: T): void => {
    const list = map.get(key);
    if (list) list.push(adjustment);
    else map.set(key, [adjustment]);
  };
  compiledAdjustments.forEach((compiled, place) => {
    const { adjustment } = compiled;
    if (adjustment.stages.length > 0 && !adjustment.stages.includes(stage)) return;
    places.set(compiled, place);
    for (const path of new Set(adjustment.fields)) put(byPath, path, compiled);
    for (const section of new Set(adjustment.sections)) put(bySection, section, compiled);
  });
  return { byPath, bySection, places };
}

/** Those of a field and those of its section that don't hide it, each once, in listed order. */
export function coveringOf<T extends Covering>(field: Field, { byPath, bySection, places }: Coverage<T>): readonly T[] {
  const ofSection = (bySection.get(field.section) ?? []).filter(({ adjustment }) => adjustment.treatment !== 'hidden');
  const all = new Set([...(byPath.get(field.key) ?? []), ...ofSection]);
  return [...all].sort((a, b) => (places.get(a) ?? 0) - (places.get(b) ?? 0));
}
