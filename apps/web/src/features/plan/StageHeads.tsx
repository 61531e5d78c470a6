import { TextInput, UnstyledButton } from '@mantine/core';
import type { Workflow } from '@ypomet/core';
import { type KeyboardEvent, memo, type PointerEvent, useRef, useState } from 'react';
import type { MapGeometry } from '../map/geometry.ts';
import type { PlanLayout } from './layout.ts';
import classes from './StageHeads.module.css';

type Props = {
  readonly stages: Workflow['stages'];
  readonly tracks: Workflow['tracks'];
  readonly roles: Workflow['roles'];
  readonly layout: PlanLayout;
  readonly geometry: MapGeometry;
  readonly selected: string | null;
  /** What is looked for among the fields. */
  readonly find: string;
  readonly onFind: (text: string) => void;
  readonly onAdd: () => void;
  readonly onSelect: (stage: string) => void;
  readonly onPlace: (stage: string, before: string | null) => void;
  readonly onTrack: (stage: string, track: string) => void;
  readonly onStep: (stage: string, by: -1 | 1) => void;
};

/** Where a dragged stage would go: before a column, or onto a track. */
type Target = { readonly kind: 'column'; readonly index: number } | { readonly kind: 'track'; readonly track: string };

const SLACK = 6;
const TRACK_REACH = 20;

/**
 * The names of the stages over their columns. A name is dragged to another place among the columns, or up onto a track's line;
 * with the keyboard, Alt and an arrow.
 */
export const StageHeads = memo(function StageHeads(props: Props) {
  const { stages, tracks, roles, layout, geometry, selected, find, onFind, onAdd, onSelect, onPlace, onTrack, onStep } = props;
  const [target, setTarget] = useState<Target | null>(null);
  const head = useRef<HTMLDivElement>(null);
  const begun = useRef<{ readonly stage: string; readonly x: number; readonly y: number } | null>(null);
  const isDragged = useRef(false);
  const targetAt = (event: PointerEvent): Target | null => {
    const box = head.current?.getBoundingClientRect();
    if (!box) return null;
    // The map stands right above the names, so a track's line is that far from their top.
    const y = event.clientY - box.top + geometry.height;
    const track = tracks.find(({ key }) => Math.abs(geometry.yOf(key) - y) <= TRACK_REACH);
    if (track) return { kind: 'track', track: track.key };
    const at = Math.round((event.clientX - box.left - layout.labelWidth) / layout.columnWidth);
    return { kind: 'column', index: Math.max(0, Math.min(stages.length, at)) };
  };
  const end = (isDone: boolean): void => {
    const stage = begun.current?.stage;
    begun.current = null;
    setTarget(null);
    if (!isDone || stage === undefined || !isDragged.current || !target) return;
    if (target.kind === 'track') onTrack(stage, target.track);
    else onPlace(stage, stages[target.index]?.key ?? null);
  };
  const onKey = (event: KeyboardEvent, stage: string): void => {
    if (!event.altKey || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight')) return;
    onStep(stage, event.key === 'ArrowLeft' ? -1 : 1);
    event.preventDefault();
  };
  return (
    <div
      className={classes.stages}
      ref={head}
      data-narrow={layout.isNarrow || undefined}
      style={{ gridTemplateColumns: `${layout.labelWidth}px repeat(${layout.columns}, ${layout.columnWidth}px)` }}
    >
      <div className={classes.corner}>
        <TextInput
          size="xs"
          type="search"
          placeholder="Find a field"
          aria-label="Find a field"
          data-find=""
          value={find}
          onChange={(event) => onFind(event.currentTarget.value)}
          onKeyDown={(event) => event.key === 'Escape' && onFind('')}
        />
        <UnstyledButton className={classes.add} onClick={onAdd}>
          + Stage
        </UnstyledButton>
      </div>
      {stages.map((stage) => (
        <UnstyledButton
          key={stage.key}
          className={classes.stage}
          data-stage-name={stage.key}
          title={layout.isNarrow ? stage.name : undefined}
          data-selected={selected === stage.key || undefined}
          onClick={() => {
            if (!isDragged.current) onSelect(stage.key);
            isDragged.current = false;
          }}
          onKeyDown={(event) => onKey(event, stage.key)}
          onPointerDown={(event) => {
            if (event.button !== 0) return;
            begun.current = { stage: stage.key, x: event.clientX, y: event.clientY };
            isDragged.current = false;
            event.currentTarget.setPointerCapture(event.pointerId);
          }}
          onPointerMove={(event) => {
            const start = begun.current;
            if (!start) return;
            if (!isDragged.current && Math.hypot(event.clientX - start.x, event.clientY - start.y) < SLACK) return;
            isDragged.current = true;
            setTarget(targetAt(event));
          }}
          onPointerUp={() => end(true)}
          onPointerCancel={() => end(false)}
        >
          <span className={classes.name}>{stage.name}</span>
          {!layout.isNarrow && <span className={classes.roles}>{whoActs(stage, roles)}</span>}
        </UnstyledButton>
      ))}
      <span className={classes.stage} data-submitter="">
        <span className={classes.name}>Submitter</span>
      </span>
      {target?.kind === 'column' && (
        <span className={classes.place} style={{ left: layout.labelWidth + target.index * layout.columnWidth - 1 }} />
      )}
      {target?.kind === 'track' && (
        <span
          className={classes.onTrack}
          style={{ top: geometry.yOf(target.track) - geometry.height - 12, left: layout.labelWidth }}
        />
      )}
    </div>
  );
});

/** Who acts at a stage, in a word or two. */
export function whoActs({ kind, roles }: Workflow['stages'][number], all: Workflow['roles']): string {
  if (kind === 'end' || kind === 'junction') return '';
  const [first, ...more] = roles.map((role) => all.find(({ key }) => key === role)?.name ?? role);
  if (first === undefined) return kind === 'intake' ? 'Anybody' : 'Submitter';
  return more.length === 0 ? first : `${first} +${more.length}`;
}
