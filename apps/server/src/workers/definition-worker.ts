import { type DefinitionTasks, definitionTasks } from './definition-tasks.ts';

/** One task, by its name. */
export type Job = { readonly task: keyof DefinitionTasks; readonly given: readonly unknown[] };

/** Runs a task; called by the pool, in a thread of its own. */
export default function run({ task, given }: Job): unknown {
  return (definitionTasks[task] as (...all: readonly unknown[]) => unknown)(...given);
}
