import { type Edit, joinPath, makeKey, type Workflow } from '@ypomet/core';

type Stage = Workflow['stages'][number];
type HandOff = Workflow['handOffs'][number];
/** An edit that adds something, and the key of what it adds. */
export type Added = { readonly key: string; readonly edit: Edit };

const keysOf = (list: readonly { readonly key: string }[]): ReadonlySet<string> => new Set(list.map(({ key }) => key));

/** A name that none of a list has: "New stage", "New stage 2". */
export function freshName(base: string, list: readonly { readonly name: string }[]): string {
  const names = new Set(list.map(({ name }) => name));
  for (let number = 1; ; number++) {
    const name = number === 1 ? base : `${base} ${number}`;
    if (!names.has(name)) return name;
  }
}

/** The stage that follows on a stage's first track; null at its end. */
function nextOnTrack({ stages }: Workflow, stage: Stage): Stage | null {
  const track = stage.tracks[0] ?? '';
  const at = stages.findIndex(({ key }) => key === stage.key);
  return stages.slice(at + 1).find(({ tracks }) => tracks.includes(track)) ?? null;
}

/** A hand-off of a stage, with one way and no condition: to a stage, or to the next one of its track. */
export function newHandOff(workflow: Workflow, stage: Stage, target: Stage | null = null): Added {
  const to = target ?? nextOnTrack(workflow, stage) ?? workflow.stages.find(({ key }) => key !== stage.key) ?? stage;
  const name = freshName('Hand on', workflow.handOffs);
  // The first hand-off of a stage gets the filled button, each later one an outlined button.
  const isFirst = !workflow.handOffs.some(({ from }) => from === stage.key);
  const key = makeKey(name, keysOf(workflow.handOffs), 'handOff');
  return {
    key,
    edit: {
      type: 'add-part',
      to: 'handOffs',
      part: { key, name, from: stage.key, emphasis: isFirst ? 'primary' : 'plain', otherwise: { to: to.key } },
      before: null,
    },
  };
}

/**
 * A stage put into the line behind another: on its track, before the next column. Hand-offs that led on to the next stage of the
 * track now lead to the new one, which hands on to where they led.
 */
export function stageAfter(workflow: Workflow, stage: Stage): Added {
  const track = stage.tracks[0] ?? '';
  const name = freshName('New stage', workflow.stages);
  const key = makeKey(name, keysOf(workflow.stages), 'stage');
  const at = workflow.stages.findIndex((own) => own.key === stage.key);
  const before = workflow.stages[at + 1]?.key ?? null;
  const next = nextOnTrack(workflow, stage);
  const edits: Edit[] = [
    {
      type: 'add-part',
      to: 'stages',
      part: { key, name, kind: 'work', tracks: [track], roles: workflow.roles.slice(0, 1).map((role) => role.key) },
      before,
    },
  ];
  if (next) {
    const handOff = makeKey(`To ${next.name}`, keysOf(workflow.handOffs), 'handOff');
    edits.push({
      type: 'add-part',
      to: 'handOffs',
      part: { key: handOff, name: 'Hand on', from: key, emphasis: 'primary', otherwise: { to: next.key } },
      before: null,
    });
    for (const own of workflow.handOffs.filter(({ from }) => from === stage.key)) edits.push(...redirected(own, next.key, key));
  }
  return { key, edit: { type: 'together', edits } };
}

/** The edits that let what leads to one stage lead to another. */
function redirected({ key, branches, otherwise }: HandOff, from: string, to: string): readonly Edit[] {
  const part = joinPath('handOffs', key);
  const ofBranches = branches
    .filter((branch) => branch.to === from)
    .map((branch): Edit => ({ type: 'change-part', part: joinPath('handOffs', key, 'branches', branch.key), set: { to } }));
  const ofOtherwise: readonly Edit[] =
    otherwise?.to === from ? [{ type: 'change-part', part, set: { otherwise: { ...otherwise, to } } }] : [];
  return [...ofBranches, ...ofOtherwise];
}

/** A branch of a hand-off, last in order, that holds for no record until it is given a condition; to a stage, or to the next one. */
export function newBranch(workflow: Workflow, handOff: HandOff, target: Stage | null = null): Added {
  const from = workflow.stages.find(({ key }) => key === handOff.from);
  const to = target?.key ?? (from && nextOnTrack(workflow, from)?.key) ?? handOff.otherwise?.to ?? handOff.from;
  const name = freshName(target ? `To ${target.name}` : 'New branch', handOff.branches);
  const key = makeKey(name, keysOf(handOff.branches), 'branch');
  return {
    key,
    edit: {
      type: 'add-part',
      to: joinPath('handOffs', handOff.key, 'branches'),
      part: { key, name, when: 'false', to },
      before: null,
    },
  };
}

/** An adjustment of some fields at some stages, that holds for no record until it is given a condition. */
export function newAdjustment(workflow: Workflow, fields: readonly string[], stages: readonly string[]): Added {
  const name = freshName('New adjustment', workflow.adjustments);
  const key = makeKey(name, keysOf(workflow.adjustments), 'adjustment');
  const part = { key, name, when: 'false', fields: [...fields], stages: [...stages], treatment: 'required' };
  return { key, edit: { type: 'add-part', to: 'adjustments', part, before: null } };
}

/** A named part of one of the definition's own lists. */
export function newNamed(workflow: Workflow, list: 'roles' | 'tracks' | 'sections', base: string): Added {
  const name = freshName(base, workflow[list]);
  const key = makeKey(name, keysOf(workflow[list]), 'part');
  return { key, edit: { type: 'add-part', to: list, part: { key, name }, before: null } };
}

/** The edit that puts a stage before another column, or last. Null where it stands there. */
export function moveStage({ stages }: Workflow, key: string, before: string | null): Edit | null {
  const at = stages.findIndex((stage) => stage.key === key);
  const isThere = before === key || (stages[at + 1]?.key ?? null) === before;
  return at < 0 || isThere ? null : { type: 'move-part', part: joinPath('stages', key), before };
}

/** The edit that moves a stage one column on or back; null at the end. */
export function moveStageBy(workflow: Workflow, key: string, by: -1 | 1): Edit | null {
  const at = workflow.stages.findIndex((stage) => stage.key === key);
  if (at < 0 || !workflow.stages[at + by]) return null;
  return moveStage(workflow, key, workflow.stages[by < 0 ? at - 1 : at + 2]?.key ?? null);
}

/** The edit that lays a stage on a track as its own; it leaves the one that was its own. Null where it lies there. */
export function moveToTrack({ stages }: Workflow, key: string, track: string): Edit | null {
  const stage = stages.find((own) => own.key === key);
  if (!stage || stage.tracks[0] === track) return null;
  const others = stage.tracks.slice(1).filter((own) => own !== track);
  return { type: 'change-part', part: joinPath('stages', key), set: { tracks: [track, ...others] } };
}
