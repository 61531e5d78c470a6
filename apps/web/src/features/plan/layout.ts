import type { Workflow } from '@ypomet/core';

/** Where the columns of the plan and the stations of the map stand: the same numbers for both. */
export type PlanLayout = {
  readonly labelWidth: number;
  readonly columnWidth: number;
  readonly width: number;
  readonly mapHeight: number;
  readonly xOf: (stage: string) => number;
  readonly yOf: (track: string) => number;
  /** The line a stage's station stands on: that of its first track. */
  readonly stationY: (stage: string) => number;
};

const LABEL_WIDTH = 218;
const FIRST_TRACK_Y = 74;
const TRACK_GAP = 58;

export function makePlanLayout(workflow: Workflow, available: number): PlanLayout {
  // The column *Submitter* stands right of the stages.
  const count = Math.max(1, workflow.stages.length) + 1;
  const columnWidth = Math.min(140, Math.max(80, Math.floor((available - LABEL_WIDTH - 12) / count)));
  const columns = new Map(workflow.stages.map((stage, index) => [stage.key, index]));
  const tracks = new Map(workflow.tracks.map((track, index) => [track.key, index]));
  const xOf = (stage: string): number => LABEL_WIDTH + ((columns.get(stage) ?? 0) + 0.5) * columnWidth;
  const yOf = (track: string): number => FIRST_TRACK_Y + (tracks.get(track) ?? 0) * TRACK_GAP;
  const firstTrack = new Map(workflow.stages.map((stage) => [stage.key, stage.tracks[0] ?? '']));
  return {
    labelWidth: LABEL_WIDTH,
    columnWidth,
    width: LABEL_WIDTH + count * columnWidth,
    mapHeight: FIRST_TRACK_Y + (workflow.tracks.length - 1) * TRACK_GAP + 34,
    xOf,
    yOf,
    stationY: (stage) => yOf(firstTrack.get(stage) ?? ''),
  };
}

export const TRACK_COLOURS = ['var(--teal)', 'var(--plum)', 'var(--slate)', 'var(--amber)'] as const;
export const colourOfTrack = (workflow: Workflow, track: string): string =>
  TRACK_COLOURS[
    Math.max(
      0,
      workflow.tracks.findIndex((own) => own.key === track),
    ) % TRACK_COLOURS.length
  ] ?? TRACK_COLOURS[0];
