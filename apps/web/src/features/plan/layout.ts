/** Where the plan's columns stand: those of the stages, and the submitter's at the right. The map's stations stand over them. */
export type PlanLayout = {
  readonly labelWidth: number;
  readonly columnWidth: number;
  /** Columns, the submitter's included. */
  readonly columns: number;
  readonly width: number;
  /** Whether columns are too narrow for the names of stages in lines: they are written upwards then. */
  readonly isNarrow: boolean;
};

const LABEL_WIDTH = 218;
const EDGE = 12;
const NARROW = 64;
/** Widths of columns that one zooms through. */
const WIDTHS = [11, 16, 24, 36, 48, 64, 80, 100, 120, 140] as const;
const [LEAST, MOST] = [11, 140];
const LEAST_READABLE = 80;

/** How wide columns are: as the room there is suggests, so that all fit in, or as chosen. */
export type Zoom = 'readable' | 'fit' | number;

/** Lays the columns out in the room there is, within reason. */
export function makePlanLayout(stages: number, available: number, zoom: Zoom = 'readable'): PlanLayout {
  const columns = Math.max(1, stages) + 1;
  const fitting = Math.floor((available - LABEL_WIDTH - EDGE) / columns);
  const least = zoom === 'fit' ? LEAST : LEAST_READABLE;
  const columnWidth = typeof zoom === 'number' ? zoom : Math.min(MOST, Math.max(least, fitting));
  const width = LABEL_WIDTH + columns * columnWidth;
  return { labelWidth: LABEL_WIDTH, columnWidth, columns, width, isNarrow: columnWidth < NARROW };
}

/** The next wider, or narrower, columns; null where there are none. */
export const zoomBy = (width: number, by: 1 | -1): number | null =>
  (by > 0 ? WIDTHS.find((one) => one > width) : WIDTHS.findLast((one) => one < width)) ?? null;

/** Columns that are drawn: the first, and the first past them. */
export type ColumnWindow = { readonly from: number; readonly to: number };
const STEP = 4;

/** The first column of which something is in view, and the first past them. */
const inView = ({ labelWidth, columnWidth }: PlanLayout, left: number, width: number): readonly [number, number] => [
  Math.floor(left / columnWidth),
  Math.ceil((left + Math.max(0, width - labelWidth)) / columnWidth),
];

/** The columns in view, and some beside them; in steps, so that a little scrolling draws nothing anew. */
export function columnsInView(layout: PlanLayout, left: number, width: number): ColumnWindow {
  const { columns } = layout;
  const [first, last] = inView(layout, left, width);
  const from = Math.max(0, (Math.floor(first / STEP) - 1) * STEP);
  return { from, to: Math.min(columns, (Math.ceil(last / STEP) + 1) * STEP) };
}

/** Whether all that is in view is among the columns that are drawn. */
export function isDrawnFor(layout: PlanLayout, drawn: ColumnWindow, left: number, width: number): boolean {
  const [first, last] = inView(layout, left, width);
  return drawn.from <= first && Math.min(last, layout.columns) <= drawn.to;
}
