import { Button, Select } from '@mantine/core';
import {
  comparisonsFor,
  describeComparison,
  itemsOf,
  OPERANDS,
  type OutlineClause,
  type OutlineGroup,
  type OutlineItem,
  type OutlinePath,
  type OutlineRows,
  printExpression,
  readOutline,
  TYPES,
} from '@ypomet/core';
import { useEffect, useRef } from 'react';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import { newClause } from './actions.ts';
import { hasItsOwn, itemFor, subjectValue, typeOfSubject } from './editing.ts';
import { OperandInput } from './OperandInput.tsx';
import classes from './Outline.module.css';
import { type ConditionPlace, placeWithin } from './place.ts';
import { subjectOptions } from './subjects.ts';

type Props<T extends OutlineItem> = {
  readonly item: T;
  readonly place: ConditionPlace;
  /** `opens`: the item within the changed one whose inputs are opened next. */
  readonly onChange: (item: OutlineItem, opens?: OutlinePath) => void;
  readonly onClose: () => void;
};

/** The inputs of a line that is being edited. Enter closes it once it is complete, Escape at any time. */
export function ClauseForm({ item, place, onChange, onClose }: Props<OutlineItem>) {
  const form = useRef<HTMLDivElement>(null);
  useEffect(() => form.current?.querySelector<HTMLElement>('input')?.focus(), []);
  return (
    <div
      ref={form}
      className={classes.form}
      role="group"
      aria-label="Clause"
      onKeyDown={(event) => {
        if (event.key !== 'Enter' || event.defaultPrevented || !hasItsOwn(item)) return;
        if ((event.target as HTMLElement).closest('button, .cm-editor')) return;
        event.preventDefault();
        onClose();
      }}
    >
      {item.kind === 'clause' && <ClauseInputs item={item} place={place} onChange={onChange} onClose={onClose} />}
      {item.kind === 'rows' && <RowsInput item={item} place={place} onChange={onChange} onClose={onClose} />}
      {item.kind === 'text' && (
        <ExpressionField
          label="Clause as text"
          text={printExpression(item.node)}
          scope={place.scope}
          expected={TYPES.boolean}
          onKeep={(_, node) => onChange(readOutline(node))}
        />
      )}
      <span>
        <Button size="compact-xs" variant="default" onClick={onClose}>
          Done
        </Button>
      </span>
    </div>
  );
}

function ClauseInputs({ item, place, onChange }: Props<OutlineClause>) {
  const { workflow, findWorkflow, scope, rows } = place;
  const type = typeOfSubject(item.subject, scope);
  const fitting = type ? comparisonsFor(type) : [];
  const comparisons = fitting.includes(item.comparison) ? fitting : [item.comparison, ...fitting];
  const groups = subjectOptions(workflow, findWorkflow, scope, rows);
  const own = subjectValue(item.subject);
  const isKnown = groups.some(({ items }) => items.some(({ value }) => value === own));
  return (
    <div className={classes.inputs}>
      <Select
        size="xs"
        className={classes.subjectInput}
        aria-label="Field"
        searchable
        onFocus={(event) => event.currentTarget.select()}
        data-first=""
        data={
          isKnown
            ? [...groups]
            : [{ group: 'Not in the list', items: [{ value: own, label: own.replace(/^\w+:/, '') }] }, ...groups]
        }
        value={own}
        allowDeselect={false}
        onChange={(picked) => picked && changeTo(withSubject(item, itemFor(picked, scope)), place, onChange)}
      />
      <Select
        size="xs"
        className={classes.comparisonInput}
        aria-label="Comparison"
        data={comparisons.map((comparison) => ({ value: comparison, label: describeComparison(comparison, type) }))}
        value={item.comparison}
        allowDeselect={false}
        onChange={(picked) => {
          const comparison = picked as typeof item.comparison;
          const wanted = OPERANDS[comparison];
          onChange({ ...item, comparison, values: wanted === null ? item.values : item.values.slice(0, wanted) });
        }}
      />
      {OPERANDS[item.comparison] !== 0 && (
        <OperandInput
          key={`${own} ${item.comparison}`}
          comparison={item.comparison}
          type={type}
          subject={
            item.subject.kind === 'field'
              ? item.subject.path
              : item.subject.kind === 'total'
                ? [...item.subject.table, item.subject.column]
                : null
          }
          values={item.values}
          place={place}
          onChange={(values) => onChange({ ...item, values })}
        />
      )}
    </div>
  );
}

/** Rows that were picked are asked for something: the first clause about them is opened at once. */
function changeTo(next: OutlineItem, place: ConditionPlace, onChange: Props<OutlineItem>['onChange']): void {
  if (next.kind !== 'rows' || itemsOf(next.where).length > 0) {
    onChange(next);
    return;
  }
  const where: OutlineGroup = { kind: 'group', which: 'all', of: [newClause(placeWithin(place, next))] };
  onChange({ ...next, where }, [0, 0]);
}

/** What rows are counted where stays when another thing is counted the same way. */
function withSubject(before: OutlineClause, next: OutlineItem): OutlineItem {
  const isCount = next.kind === 'clause' && next.subject.kind === 'count' && before.subject.kind === 'count';
  if (!isCount || next.subject.table.join('.') !== before.subject.table.join('.')) return next;
  return before;
}

function RowsInput({ item, place, onChange }: Props<OutlineRows>) {
  const { workflow, findWorkflow, scope, rows } = place;
  const table = item.table.join('.');
  return (
    <div className={classes.inputs}>
      <Select
        size="xs"
        className={classes.subjectInput}
        aria-label="Rows"
        searchable
        onFocus={(event) => event.currentTarget.select()}
        data={[...subjectOptions(workflow, findWorkflow, scope, rows)]}
        value={`${item.which}:${table}`}
        allowDeselect={false}
        onChange={(picked) => {
          if (picked === null) return;
          const next = itemFor(picked, scope);
          if (next.kind === 'rows' && next.table.join('.') === table) onChange({ ...item, which: next.which });
          else changeTo(next, place, onChange);
        }}
      />
      <span className={classes.small}>where …</span>
    </div>
  );
}
