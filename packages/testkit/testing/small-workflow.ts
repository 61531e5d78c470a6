import {
  type Actor,
  type CompiledWorkflow,
  compileWorkflow,
  type ExaminedWorkflow,
  type HandedOn,
  type HandOffInput,
  handOn,
  type Outside,
  openRecord,
  parseWorkflow,
  type Workflow,
  type WorkflowRecord,
} from '@ypomet/core';
import { OUTSIDE, person } from './sample-workflow.ts';

type Part = Readonly<Record<string, unknown>>;

/** Parts of a small workflow; whatever isn't given is the smallest that works. */
export type SmallParts = {
  readonly fields?: readonly Part[];
  /** What is added to the stage by the key: `ask` (intake), `work` (role `clerk`), `done` (end). */
  readonly stages?: Readonly<Record<string, Part>>;
  /** Stages besides. */
  readonly moreStages?: readonly Part[];
  /** What is added to the hand-off by the key: `send` from `ask` to `work`, `finish` from `work` to `done`. */
  readonly handOffs?: Readonly<Record<string, Part>>;
  readonly moreHandOffs?: readonly Part[];
  readonly plan?: Part;
  readonly [other: string]: unknown;
};

/** A workflow of two roles, `clerk` and `chief`, whose fields may be entered everywhere. Its shape is read, not more. */
export function smallWorkflow({
  fields = [],
  stages = {},
  moreStages = [],
  handOffs = {},
  moreHandOffs = [],
  ...more
}: SmallParts): Workflow {
  const read = parseWorkflow({
    format: 'ypomet.workflow/1',
    key: 'small',
    name: 'Small',
    roles: [
      { key: 'clerk', name: 'Clerk' },
      { key: 'chief', name: 'Chief' },
    ],
    sections: [{ key: 'all', name: 'All' }],
    fields: fields.map((field) => ({ section: 'all', name: field.key, treatment: 'optional', ...field })),
    tracks: [{ key: 'main', name: 'Main' }],
    stages: [
      { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], ...stages.ask },
      { key: 'work', name: 'Work', kind: 'work', tracks: ['main'], roles: ['clerk'], ...stages.work },
      ...moreStages.map((stage) => ({ tracks: ['main'], name: stage.key, ...stage })),
      { key: 'done', name: 'Done', kind: 'end', tracks: ['main'], ...stages.done },
    ],
    handOffs: [
      { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'work' }, ...handOffs.send },
      { key: 'finish', name: 'Finish', from: 'work', otherwise: { to: 'done' }, ...handOffs.finish },
      ...moreHandOffs.map((handOff) => ({ name: handOff.key, ...handOff })),
    ],
    ...more,
  });
  if (!read.ok) throw new Error(JSON.stringify(read.diagnostics));
  return read.value;
}

export const ASKER = person('asker');
export const CLERK = person('clara', 'clerk');
export const CHIEF = person('charles', 'clerk', 'chief');

export const smallCompiled = (
  parts: SmallParts,
  findWorkflow: ((key: string) => Workflow | null) | null = null,
): ExaminedWorkflow => compileWorkflow(smallWorkflow(parts), findWorkflow);

/** What is wrong with it, as `path: code`. */
export const faultsIn = (parts: SmallParts, findWorkflow: ((key: string) => Workflow | null) | null = null): readonly string[] =>
  smallCompiled(parts, findWorkflow).diagnostics.map(({ path, code }) => `${path}: ${code}`);

/** A record of it, at a stage, with values stored. */
export function recordOf(
  workflow: CompiledWorkflow,
  values: WorkflowRecord['values'] = {},
  stage = 'ask',
  outside: Outside = OUTSIDE,
): WorkflowRecord {
  return { ...openRecord(workflow, 'ask', 'r1', 1, ASKER, outside), stage, values };
}

/** Hands on, or throws what is wrong. */
export function handedOn(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  handOff: string,
  input: HandOffInput = {},
  actor: Actor = record.stage === 'ask' ? ASKER : CLERK,
  outside: Outside = OUTSIDE,
): HandedOn {
  const result = handOn(workflow, record, handOff, input, actor, outside);
  if (!result.ok) throw new Error(result.diagnostics.map(({ path, code }) => `${path}: ${code}`).join());
  return result.value;
}

/** The codes of why it is refused; empty when it isn't. */
export function refusalsOf(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  handOff: string,
  input: HandOffInput = {},
  actor: Actor = record.stage === 'ask' ? ASKER : CLERK,
  outside: Outside = OUTSIDE,
): readonly string[] {
  const result = handOn(workflow, record, handOff, input, actor, outside);
  return result.ok ? [] : result.diagnostics.map(({ path, code }) => `${path}: ${code}`);
}
