/** Where the plan's columns stand: those of the stages, and the submitter's at the right. The map's stations stand over them. */
export type PlanLayout = {
  readonly labelWidth: number;
  readonly columnWidth: number;
  /** Columns, the submitter's included. */
  readonly columns: number;
  readonly width: number;
};

const LABEL_WIDTH = 218;

/** Lays the columns out in the room there is, within reason. */
export function makePlanLayout(stages: number, available: number): PlanLayout {
  const columns = Math.max(1, stages) + 1;
  const columnWidth = Math.min(140, Math.max(80, Math.floor((available - LABEL_WIDTH - 12) / columns)));
  return { labelWidth: LABEL_WIDTH, columnWidth, columns, width: LABEL_WIDTH + columns * columnWidth };
}
