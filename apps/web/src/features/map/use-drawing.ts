import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react';
import type { MapGeometry } from './geometry.ts';
import type { Mapped } from './ways.ts';

export type Point = { readonly x: number; readonly y: number };
/** A way that is being drawn from a station; `to` is the station it would lead to. */
export type Drawing = Point & { readonly from: string; readonly to: string | null };
export type OnDraw = (from: string, to: string, at: Point) => void;

/** How far a pointer goes before it draws, and how near it must come to a station. */
const SLACK = 6;
const REACH = 22;

/** The station near a point; null where there is none. */
export function stationNear({ stages }: Mapped, geometry: MapGeometry, { x, y }: Point): string | null {
  const near = stages.find(
    ({ key }) => Math.abs(geometry.xOf(key) - x) <= REACH && Math.abs(geometry.stationY(key) - y) <= REACH,
  );
  return near?.key ?? null;
}

/**
 * Draws a way from a station to another: by dragging, or by the key H at one station and Enter at the other. Escape gives it
 * up.
 */
export function useDrawing(workflow: Mapped, geometry: MapGeometry, onDraw: OnDraw | undefined) {
  const [drawing, setDrawing] = useState<Drawing | null>(null);
  const begun = useRef<(Point & { readonly from: string }) | null>(null);
  /** A click follows the end of every drag; it selects nothing. */
  const isDragged = useRef(false);
  const pointOf = (event: PointerEvent<SVGGElement>): Point => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
  };
  const finish = (one: Drawing | null): void => {
    setDrawing(null);
    begun.current = null;
    if (one?.to && one.to !== one.from) onDraw?.(one.from, one.to, { x: geometry.xOf(one.to), y: geometry.stationY(one.to) });
  };
  const pointer = (from: string) =>
    onDraw
      ? {
          onPointerDown: (event: PointerEvent<SVGGElement>): void => {
            if (event.button !== 0) return;
            begun.current = { from, ...pointOf(event) };
            isDragged.current = false;
            event.currentTarget.setPointerCapture(event.pointerId);
          },
          onPointerMove: (event: PointerEvent<SVGGElement>): void => {
            const start = begun.current;
            if (!start) return;
            const point = pointOf(event);
            if (!isDragged.current && Math.hypot(point.x - start.x, point.y - start.y) < SLACK) return;
            isDragged.current = true;
            setDrawing({ from, ...point, to: stationNear(workflow, geometry, point) });
          },
          onPointerUp: (): void => finish(isDragged.current ? drawing : null),
          onPointerCancel: (): void => finish(null),
        }
      : {};
  /** Whether a key was about drawing. */
  const onKey = (event: KeyboardEvent, stage: string): boolean => {
    if (!onDraw) return false;
    const here = { x: geometry.xOf(stage), y: geometry.stationY(stage) };
    if (event.key.toLowerCase() === 'h' && !event.ctrlKey && !event.metaKey) setDrawing({ from: stage, to: null, ...here });
    else if (drawing && event.key === 'Escape') setDrawing(null);
    else if (drawing && event.key === 'Enter') finish({ ...drawing, to: stage });
    else return false;
    return true;
  };
  /** The keyboard has come to a station. */
  const onReach = (stage: string): void => {
    if (!drawing || begun.current) return;
    setDrawing({ ...drawing, to: stage === drawing.from ? null : stage, x: geometry.xOf(stage), y: geometry.stationY(stage) });
  };
  const wasDragged = (): boolean => {
    const was = isDragged.current;
    isDragged.current = false;
    return was;
  };
  return { drawing, pointer, onKey, onReach, wasDragged };
}
