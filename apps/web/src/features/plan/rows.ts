import { type Edit, isComputed, joinPath, plannedTreatment, type SingleEdit, splitFieldPath, type Workflow } from '@ypomet/core';

export type PlanRow =
  | { readonly kind: 'section'; readonly key: string; readonly name: string; readonly fields: number }
  | { readonly kind: 'field'; readonly path: string; readonly name: string; readonly type: string; readonly isSub: boolean };

/** What of the rows is shown: not the fields of closed sections; while something is looked for, what is called so. */
export type Showing = { readonly closed: ReadonlySet<string>; readonly find: string };
const EVERYTHING: Showing = { closed: new Set(), find: '' };

const fieldRows = (field: Workflow['fields'][number]): readonly Extract<PlanRow, { kind: 'field' }>[] => [
  { kind: 'field', path: field.key, name: field.name, type: isComputed(field) ? 'computed' : field.type, isSub: false },
  ...(field.type === 'table'
    ? field.fields.map((sub) => ({
        kind: 'field' as const,
        path: `${field.key}.${sub.key}`,
        name: sub.name,
        type: sub.type as string,
        isSub: true,
      }))
    : []),
];

/** The plan's rows: sections with their fields, table fields with their sub-fields. */
export function planRows(
  workflow: Pick<Workflow, 'sections' | 'fields'>,
  { closed, find }: Showing = EVERYTHING,
): readonly PlanRow[] {
  const wanted = find.trim().toLowerCase();
  const isWanted = ({ name, path }: { readonly name: string; readonly path: string }): boolean =>
    name.toLowerCase().includes(wanted) || path.toLowerCase().includes(wanted);
  return workflow.sections.flatMap((section): readonly PlanRow[] => {
    const fields = workflow.fields.filter((field) => field.section === section.key);
    const own = fields.flatMap(fieldRows);
    const shown = wanted !== '' ? own.filter(isWanted) : closed.has(section.key) ? [] : own;
    if (wanted !== '' && shown.length === 0) return [];
    return [{ kind: 'section', key: section.key, name: section.name, fields: fields.length }, ...shown];
  });
}

/** Whether the submitter sees a field of a record that others have: as the column says, else as an intake plans it. */
export function submitterSees(workflow: Workflow, path: string): boolean {
  const said = Object.hasOwn(workflow.submitterSees, path) ? workflow.submitterSees[path] : undefined;
  if (said) return said === 'shown';
  const intakes = workflow.stages.filter((stage) => stage.kind === 'intake');
  return intakes.some((stage) => plannedTreatment(workflow, path, stage.key) !== 'hidden');
}

type Adjustments = Workflow['adjustments'];
const covering = new WeakMap<Adjustments, Map<string, Adjustments>>();

/** Adjustments that cover a field or its section, at whatever stage: worked out once for each row. */
function adjustmentsOf({ adjustments, fields }: Workflow, path: string): Adjustments {
  const section = fields.find((field) => field.key === path)?.section;
  const known = covering.get(adjustments) ?? new Map<string, Adjustments>();
  covering.set(adjustments, known);
  const key = `${path} ${section ?? ''}`;
  const found =
    known.get(key) ??
    adjustments.filter((one) => one.fields.includes(path) || (section !== undefined && one.sections.includes(section)));
  known.set(key, found);
  return found;
}

/** Adjustments that cover a cell, by name. */
export const adjustmentsAt = (workflow: Workflow, path: string, stage: string): Adjustments =>
  adjustmentsOf(workflow, path).filter(({ stages }) => stages.length === 0 || stages.includes(stage));

/** The edit that moves a field one place up or down within its section, or a sub-field within its table; null at the end. */
export function moveWithin(workflow: Workflow, path: string, by: -1 | 1): Edit | null {
  const { field: key, sub } = splitFieldPath(path);
  const field = workflow.fields.find((own) => own.key === key);
  if (!field) return null;
  const columns = field.type === 'table' ? field.fields : [];
  const list = sub === null ? workflow.fields.filter(({ section }) => section === field.section) : columns;
  const at = list.findIndex((own) => own.key === (sub ?? key));
  if (!list[at + by]) return null;
  // Before the one above, or before the one after the next; behind the last of a section is before whatever follows it.
  const all = sub === null ? workflow.fields : columns;
  const behind = (one: string | undefined): string | null => all[all.findIndex((own) => own.key === one) + 1]?.key ?? null;
  const before = by < 0 ? (list[at - 1]?.key ?? null) : behind(list[at + 1]?.key);
  const part = sub === null ? joinPath('fields', key) : joinPath('fields', key, 'fields', sub);
  return { type: 'move-part', part, before };
}

/**
 * The edit that puts a dragged row where it was dropped: fields among fields, of whatever section; columns among those of their
 * table; sections among sections. Null where it can't go there, or is there.
 */
export function dropRow(workflow: Workflow, rows: readonly PlanRow[], from: number, to: number): Edit | null {
  const row = rows[from];
  if (!row || to === from || to === from + 1) return null;
  if (row.kind === 'section') return dropSection(workflow, rows, row.key, to);
  const { field, sub } = splitFieldPath(row.path);
  return sub === null ? dropField(workflow, rows, field, to) : dropColumn(rows, row.path, to);
}

/**
 * The edit that puts several dragged rows where they were dropped, in their order: fields of whatever sections, or columns of one
 * table. Null where they can't go there.
 */
export function dropRows(workflow: Workflow, rows: readonly PlanRow[], dragged: readonly number[], to: number): Edit | null {
  const fields = dragged.flatMap((index) => {
    const row = rows[index];
    return row?.kind === 'field' && !row.isSub ? [row.path] : [];
  });
  if (dragged.length < 2 || fields.length < 2) return dragged[0] === undefined ? null : dropRow(workflow, rows, dragged[0], to);
  const over = rows.slice(0, to).findLast((own) => own.kind === 'section');
  if (over?.kind !== 'section') return null;
  const moving = new Set(fields);
  // What follows is the first field that stays, in the same section; else whatever follows the section's last.
  const next = rows.slice(to).find((own) => own.kind === 'section' || (!own.isSub && !moving.has(own.path)));
  const staying = workflow.fields.filter(({ key }) => !moving.has(key));
  const last = staying.findLast(({ section }) => section === over.key);
  const behind = last ? (staying[staying.indexOf(last) + 1]?.key ?? null) : null;
  const before = next?.kind === 'field' ? next.path : behind;
  const edits = fields.flatMap((key): readonly SingleEdit[] => {
    const part = joinPath('fields', key);
    const isElsewhere = workflow.fields.find((own) => own.key === key)?.section !== over.key;
    const move: SingleEdit = { type: 'move-part', part, before };
    return isElsewhere ? [{ type: 'change-part', part, set: { section: over.key } }, move] : [move];
  });
  return { type: 'together', edits };
}

function dropSection({ sections }: Workflow, rows: readonly PlanRow[], key: string, to: number): Edit | null {
  const next = rows.slice(to).find((own) => own.kind === 'section');
  const before = next?.kind === 'section' ? next.key : null;
  const at = sections.findIndex((own) => own.key === key);
  const isThere = before === key || (sections[at + 1]?.key ?? null) === before;
  return isThere ? null : { type: 'move-part', part: joinPath('sections', key), before };
}

function dropField({ fields }: Workflow, rows: readonly PlanRow[], key: string, to: number): Edit | null {
  const over = rows.slice(0, to).findLast((own) => own.kind === 'section');
  const moved = fields.find((own) => own.key === key);
  if (over?.kind !== 'section' || !moved) return null;
  const next = rows.slice(to).find((own) => own.kind === 'section' || !own.isSub);
  const follower = next?.kind === 'field' ? next.path : null;
  if (follower === key) return null;
  const part = joinPath('fields', key);
  // Behind the last field of a section is before whatever follows that one.
  const last = fields.findLast((own) => own.section === over.key && own.key !== key);
  const before = follower ?? (last ? (fields[fields.indexOf(last) + 1]?.key ?? null) : null);
  const move: Edit = { type: 'move-part', part, before: before === key ? null : before };
  if (moved.section === over.key) return move;
  return { type: 'together', edits: [{ type: 'change-part', part, set: { section: over.key } }, move] };
}

function dropColumn(rows: readonly PlanRow[], path: string, to: number): Edit | null {
  const { field: table, sub } = splitFieldPath(path);
  const prefix = `${table}.`;
  const own = rows.flatMap((row, index) => (row.kind === 'field' && row.path.startsWith(prefix) ? [index] : []));
  const [first, last] = [own[0] ?? 0, own.at(-1) ?? 0];
  if (to < first || to > last + 1) return null;
  const next = rows[to];
  const before = next?.kind === 'field' && next.path.startsWith(prefix) ? splitFieldPath(next.path).sub : null;
  return { type: 'move-part', part: joinPath('fields', table, 'fields', sub ?? ''), before };
}

/** The edit that moves a section one place up or down; null at the end. */
export function moveSection({ sections }: Workflow, key: string, by: -1 | 1): Edit | null {
  const at = sections.findIndex((own) => own.key === key);
  if (at < 0 || !sections[at + by]) return null;
  return { type: 'move-part', part: joinPath('sections', key), before: sections[by < 0 ? at - 1 : at + 2]?.key ?? null };
}
