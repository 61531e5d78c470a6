import { findStage } from '../model/lookup.ts';
import type { Workflow } from '../model/workflow.ts';
import type { RecordEvent } from './events.ts';

type Stage = Workflow['stages'][number];

/** The way a record came and, where that is certain, the stage it goes to next. */
export type Route = {
  /** Stage keys in the order in which it was there, the present one last; a stage it came back to comes again. */
  readonly path: readonly string[];
  readonly next: string | null;
};

/** Where a record has been, by its events, and where it goes from here. */
export function routeOf(
  workflow: Workflow,
  record: { readonly intake: string | null; readonly stage: string },
  events: readonly RecordEvent[],
): Route {
  const begin = record.intake === null ? [] : [record.intake];
  const path = [...begin, ...events.flatMap((event) => ('to' in event ? [event.to] : []))];
  return { path: path.length > 0 ? path : [record.stage], next: certainNext(workflow, record.stage) };
}

/** The only stage that a stage's hand-offs can lead to, through junctions; null where there are several, or none. */
export function certainNext(workflow: Workflow, from: string): string | null {
  const seen = new Set<string>([from]);
  let stage: Stage | null = findStage(workflow, from);
  while (stage) {
    const { key } = stage;
    const ways = workflow.handOffs
      .filter((handOff) => handOff.from === key)
      .flatMap(({ branches, otherwise }) => [...branches.map(({ to }) => to), ...(otherwise ? [otherwise.to] : [])]);
    const [to, ...others] = new Set(ways);
    if (to === undefined || others.length > 0 || seen.has(to)) return null;
    seen.add(to);
    stage = findStage(workflow, to);
    if (stage && stage.kind !== 'junction') return stage.key;
  }
  return null;
}
