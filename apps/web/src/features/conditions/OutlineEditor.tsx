import { ActionIcon, Button, Menu, Select } from '@mantine/core';
import { IconDots } from '@tabler/icons-react';
import {
  checkExpression,
  comparisonsFor,
  describeComparison,
  explainExpression,
  type Form,
  makeFrame,
  OPERANDS,
  type OutlineGroup,
  type OutlineItem,
  parseExpression,
  printExpression,
  type Scope,
  type Truth,
  TYPES,
  type Workflow,
  writeOutline,
} from '@ypomet/core';
import { Fragment } from 'react';
import { clauseFor, isComplete, itemFor, scopeWithin, subjectValue, typeOfSubject } from './editing.ts';
import { OperandInput } from './OperandInput.tsx';
import classes from './OutlineEditor.module.css';
import { subjectOptions } from './wording.ts';

type Context = {
  readonly workflow: Workflow;
  readonly scope: Scope;
  /** The rehearsal's form: each clause shows whether it holds there. Null inside rows. */
  readonly form: Form | null;
  readonly item: { readonly name: string; readonly table: string } | null;
};

type ItemProps<T extends OutlineItem> = {
  readonly value: T;
  readonly context: Context;
  readonly depth: number;
  readonly onChange: (value: OutlineItem) => void;
  readonly onRemove: (() => void) | null;
};

/** A condition as an outline of groups and clauses. Every change is passed on, complete or not. */
export function OutlineEditor({
  value,
  context,
  onChange,
}: {
  readonly value: OutlineGroup;
  readonly context: Context;
  readonly onChange: (value: OutlineGroup) => void;
}) {
  return (
    <Group
      value={value}
      context={context}
      depth={0}
      onChange={(next) => onChange(next.kind === 'group' ? next : { kind: 'group', which: 'all', of: [next] })}
      onRemove={null}
    />
  );
}

function Item(props: ItemProps<OutlineItem>) {
  const { value } = props;
  switch (value.kind) {
    case 'group':
      return <Group {...props} value={value} />;
    case 'clause':
      return <Clause {...props} value={value} />;
    case 'rows':
      return <Rows {...props} value={value} />;
    case 'text':
      return (
        <div className={classes.clause}>
          <code className={`${classes.code} mono`}>{printExpression(value.node)}</code>
          <Mark truth={truthOf(value, props.context)} />
          <ItemMenu {...props} />
        </div>
      );
    default:
      return value satisfies never;
  }
}

const WHICH = [
  { value: 'all', label: 'all of' },
  { value: 'any', label: 'any of' },
  { value: 'none', label: 'none of' },
];

function Group({ value, context, depth, onChange, onRemove }: ItemProps<OutlineGroup>) {
  const replace = (index: number, next: OutlineItem | null): void =>
    onChange({ ...value, of: value.of.flatMap((item, own) => (own === index ? (next ? [next] : []) : [item])) });
  const options = subjectOptions(context.workflow, context.item);
  const first = options[0]?.items[0]?.value;
  const addClause = (): void =>
    onChange({
      ...value,
      of: [
        ...value.of,
        first ? itemFor(first, context.scope) : clauseFor({ kind: 'field', path: ['record', 'track'] }, context.scope),
      ],
    });
  const addGroup = (): void =>
    onChange({ ...value, of: [...value.of, { kind: 'group', which: value.which === 'any' ? 'all' : 'any', of: [] }] });
  return (
    <div className={classes.group} data-which={value.which} role="group" aria-label={`${value.which} of`}>
      <div className={classes.head}>
        <Select
          className={classes.which}
          size="xs"
          variant="unstyled"
          aria-label="Group"
          data={WHICH}
          value={value.which}
          onChange={(which) => which && onChange({ ...value, which: which as OutlineGroup['which'] })}
        />
        {value.of.length > 1 && <Mark truth={truthOf(value, context)} />}
        {onRemove && (
          <Menu position="bottom-end">
            <Menu.Target>
              <ActionIcon size="sm" variant="subtle" color="gray" aria-label="More about this group">
                <IconDots size={14} />
              </ActionIcon>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Item onClick={onRemove}>Remove the group</Menu.Item>
            </Menu.Dropdown>
          </Menu>
        )}
      </div>
      {value.of.map((item, index) => (
        // An outline has no keys of its own; positions are stable while one clause is edited.
        <Fragment key={String(index)}>
          <Item
            value={item}
            context={context}
            depth={depth + 1}
            onChange={(next) => replace(index, next)}
            onRemove={() => replace(index, null)}
          />
        </Fragment>
      ))}
      <div className={classes.add}>
        <Button size="compact-sm" variant="subtle" onClick={addClause}>
          + clause
        </Button>
        <Button size="compact-sm" variant="subtle" onClick={addGroup}>
          + group
        </Button>
      </div>
    </div>
  );
}

function Clause({ value, context, depth, onChange, onRemove }: ItemProps<Extract<OutlineItem, { kind: 'clause' }>>) {
  const type = typeOfSubject(value.subject, context.scope);
  const fitting = type ? comparisonsFor(type) : [];
  const comparisons = fitting.includes(value.comparison) ? fitting : [value.comparison, ...fitting];
  const operands = OPERANDS[value.comparison];
  const setValues = (values: typeof value.values): void => onChange({ ...value, values });
  return (
    <div className={classes.clause} data-open={!isComplete(value) || undefined}>
      <div className={classes.parts}>
        <Select
          size="xs"
          className={classes.subject}
          aria-label="Field"
          searchable
          data={subjectOptions(context.workflow, context.item)}
          value={subjectValue(value.subject)}
          onChange={(picked) => picked && onChange(itemFor(picked, context.scope))}
        />
        <Select
          size="xs"
          variant="unstyled"
          className={classes.comparison}
          aria-label="Comparison"
          data={comparisons.map((comparison) => ({ value: comparison, label: describeComparison(comparison, type) }))}
          value={value.comparison}
          onChange={(picked) => {
            const comparison = picked as typeof value.comparison;
            const wanted = OPERANDS[comparison];
            onChange({ ...value, comparison, values: wanted === null ? value.values : value.values.slice(0, wanted) });
          }}
        />
        {operands !== 0 && <OperandInput comparison={value.comparison} type={type} values={value.values} onChange={setValues} />}
      </div>
      <Mark truth={truthOf(value, context)} />
      <ItemMenu value={value} context={context} depth={depth} onChange={onChange} onRemove={onRemove} />
    </div>
  );
}

function Rows({ value, context, depth, onChange, onRemove }: ItemProps<Extract<OutlineItem, { kind: 'rows' }>>) {
  const table = value.table.join('.');
  const inner: Context = {
    ...context,
    scope: scopeWithin(context.scope, value.item, value.table),
    form: null,
    item: { name: value.item, table },
  };
  const where: OutlineGroup = value.where.kind === 'group' ? value.where : { kind: 'group', which: 'all', of: [value.where] };
  const shrink = (group: OutlineItem): OutlineItem =>
    group.kind === 'group' && group.which !== 'none' && group.of.length === 1 ? (group.of[0] as OutlineItem) : group;
  return (
    <div className={classes.rows}>
      <div className={classes.clause}>
        <Select
          size="xs"
          className={classes.subject}
          aria-label="Rows"
          data={subjectOptions(context.workflow, context.item)}
          searchable
          value={`${value.which}:${table}`}
          onChange={(picked) => {
            if (picked === null) return;
            const next = itemFor(picked, context.scope);
            onChange(next.kind === 'rows' && next.table.join('.') === table ? { ...value, which: next.which } : next);
          }}
        />
        <span className={classes.word}>where</span>
        <Mark truth={truthOf(value, context)} />
        <ItemMenu value={value} context={context} depth={depth} onChange={onChange} onRemove={onRemove} />
      </div>
      <Group
        value={where}
        context={inner}
        depth={depth + 1}
        onChange={(next) => onChange({ ...value, where: shrink(next) })}
        onRemove={null}
      />
    </div>
  );
}

function ItemMenu({ value, onChange, onRemove }: ItemProps<OutlineItem>) {
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <ActionIcon size="sm" variant="subtle" color="gray" aria-label="More about this clause">
          <IconDots size={14} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={() => onChange({ kind: 'group', which: 'any', of: [value] })}>Put into an “any of” group</Menu.Item>
        <Menu.Item onClick={() => onChange({ kind: 'group', which: 'all', of: [value] })}>Put into an “all of” group</Menu.Item>
        <Menu.Item onClick={() => onChange({ kind: 'group', which: 'none', of: [value] })}>Put into a “none of” group</Menu.Item>
        {onRemove && <Menu.Item onClick={onRemove}>Remove</Menu.Item>}
      </Menu.Dropdown>
    </Menu>
  );
}

/** Whether an item holds for the rehearsal's record; undefined where that can't be said. */
function truthOf(item: OutlineItem, { form, scope }: Context): Truth | undefined {
  if (!form || !isComplete(item)) return undefined;
  const parsed = parseExpression(printExpression(writeOutline(item)));
  const checked = parsed.ok ? checkExpression(parsed.value, scope, TYPES.boolean) : null;
  if (!checked || checked.diagnostics.length > 0) return undefined;
  const { value } = explainExpression(checked, makeFrame(form.frame.slots, form.frame.environment));
  return value === true ? true : value === false ? false : null;
}

const MARKS = {
  true: ['✓', 'holds for the rehearsal record'],
  false: ['✗', 'does not hold for the rehearsal record'],
  null: ['?', 'is unknown for the rehearsal record'],
} as const;

export function Mark({ truth }: { readonly truth: Truth | undefined }) {
  if (truth === undefined) return null;
  const [sign, words] = MARKS[String(truth) as 'true'];
  return (
    <span className={classes.mark} data-truth={String(truth)} title={words}>
      <span aria-hidden="true">{sign}</span>
      <span className="visually-hidden">{words}</span>
    </span>
  );
}
