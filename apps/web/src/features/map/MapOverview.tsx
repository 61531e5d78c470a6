import { type KeyboardEvent, memo, type PointerEvent, type RefObject, useEffect, useState } from 'react';
import classes from './MapOverview.module.css';
import { colourOfTrack } from './track-colours.ts';
import type { Mapped } from './ways.ts';

const ROW = 7;
const EDGE = 8;

type Window = { readonly start: number; readonly end: number };

/** The part of what scrolls that is in view, from 0 to 1. */
function useWindow(scroller: RefObject<HTMLElement | null>, width: number): Window {
  const [window, setWindow] = useState<Window>({ start: 0, end: 1 });
  useEffect(() => {
    const element = scroller.current;
    if (!element || width === 0) return;
    const read = (): void => {
      const { scrollLeft, clientWidth } = element;
      setWindow({ start: scrollLeft / width, end: Math.min(1, (scrollLeft + clientWidth) / width) });
    };
    read();
    element.addEventListener('scroll', read, { passive: true });
    const observer = new ResizeObserver(read);
    observer.observe(element);
    return () => {
      element.removeEventListener('scroll', read);
      observer.disconnect();
    };
  }, [scroller, width]);
  return window;
}

/**
 * The whole of a wide map in a strip: a line for each track, a dot for each stage, and a window over what is in view, which is
 * dragged, clicked to, or moved with the arrow keys.
 */
export const MapOverview = memo(function MapOverview({
  workflow,
  scroller,
  width,
}: {
  readonly workflow: Mapped;
  readonly scroller: RefObject<HTMLElement | null>;
  /** Pixels of all that scrolls. */
  readonly width: number;
}) {
  const { start, end } = useWindow(scroller, width);
  const { stages, tracks } = workflow;
  const xOf = (index: number): number => ((index + 0.5) / stages.length) * 100;
  const scrollTo = (middle: number): void => {
    const element = scroller.current;
    if (element) element.scrollLeft = middle * width - element.clientWidth / 2;
  };
  const follow = (event: PointerEvent<HTMLDivElement>): void => {
    const { left, width: own } = event.currentTarget.getBoundingClientRect();
    scrollTo((event.clientX - left) / own);
  };
  const onKey = (event: KeyboardEvent): void => {
    const by = { ArrowLeft: -0.1, ArrowRight: 0.1, PageUp: start - end, PageDown: end - start, Home: -1, End: 1 }[event.key];
    if (by === undefined) return;
    scrollTo((start + end) / 2 + by);
    event.preventDefault();
  };
  const height = tracks.length * ROW + EDGE;
  return (
    <div
      className={classes.overview}
      role="scrollbar"
      aria-orientation="horizontal"
      aria-label="Overview of all stages"
      aria-controls="field-plan"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(start * 100)}
      tabIndex={0}
      style={{ height }}
      onKeyDown={onKey}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        follow(event);
      }}
      onPointerMove={(event) => event.buttons === 1 && follow(event)}
    >
      <svg width="100%" height={height} aria-hidden="true">
        {tracks.map((track, row) => {
          const own = stages.flatMap((stage, index) => (stage.tracks.includes(track.key) ? [index] : []));
          const y = EDGE / 2 + (row + 0.5) * ROW;
          const colour = colourOfTrack(workflow, track.key);
          return (
            <g key={track.key}>
              <line x1={`${xOf(own[0] ?? 0)}%`} x2={`${xOf(own.at(-1) ?? 0)}%`} y1={y} y2={y} stroke={colour} strokeWidth={1.5} />
              {own.map((index) => (
                <circle key={index} cx={`${xOf(index)}%`} cy={y} r={2} fill={colour} />
              ))}
            </g>
          );
        })}
      </svg>
      <div className={classes.window} style={{ left: `${start * 100}%`, width: `${(end - start) * 100}%` }} />
    </div>
  );
});
