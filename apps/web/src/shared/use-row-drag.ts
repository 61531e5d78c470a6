import { type PointerEvent, useRef, useState } from 'react';

const SLACK = 5;

/** Where a row is dragged to: before the row of that index; `top` is where that is, in pixels from the top of the grid. */
export type RowTarget = {
  readonly index: number;
  readonly top: number;
  /** The row it is held over, and whether over its lower half. */
  readonly over: number;
  readonly isAfter: boolean;
};

/** Drags rows by what is marked `data-drag` in them; the row itself is marked `data-row` with its index. */
export function useRowDrag(onDrop: (from: number, to: number, target: RowTarget) => void) {
  const [target, setTarget] = useState<RowTarget | null>(null);
  const begun = useRef<{ readonly index: number; readonly y: number } | null>(null);
  const isDragged = useRef(false);
  const rowAt = (event: PointerEvent<HTMLElement>): HTMLElement | null =>
    window.document
      .elementsFromPoint(event.clientX, event.clientY)
      .map((element) => element.closest<HTMLElement>('[data-row]'))
      .find((row) => row !== null) ?? null;
  const handlers = {
    onPointerDown: (event: PointerEvent<HTMLElement>): void => {
      isDragged.current = false;
      const handle = (event.target as HTMLElement).closest('[data-drag]');
      const row = handle?.closest<HTMLElement>('[data-row]');
      if (!row || event.button !== 0) return;
      begun.current = { index: Number(row.dataset.row), y: event.clientY };
    },
    onPointerMove: (event: PointerEvent<HTMLElement>): void => {
      const start = begun.current;
      if (!start || (!isDragged.current && Math.abs(event.clientY - start.y) < SLACK)) return;
      if (!isDragged.current) event.currentTarget.setPointerCapture(event.pointerId);
      isDragged.current = true;
      const row = rowAt(event);
      if (!row) {
        setTarget(null);
        return;
      }
      const box = row.getBoundingClientRect();
      const isAfter = event.clientY > box.top + box.height / 2;
      const top = box.top - event.currentTarget.getBoundingClientRect().top + (isAfter ? box.height : 0);
      const over = Number(row.dataset.row);
      setTarget({ index: over + (isAfter ? 1 : 0), top, over, isAfter });
    },
    onPointerUp: (): void => {
      const start = begun.current;
      begun.current = null;
      if (start && isDragged.current && target) onDrop(start.index, target.index, target);
      setTarget(null);
    },
    onPointerCancel: (): void => {
      begun.current = null;
      setTarget(null);
    },
    /** A click follows the end of every drag; it opens nothing. */
    onClickCapture: (event: { readonly stopPropagation: () => void }): void => {
      if (isDragged.current) event.stopPropagation();
      isDragged.current = false;
    },
  };
  return { target, handlers };
}
