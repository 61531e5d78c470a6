import { ActionIcon, Menu, MultiSelect, NumberInput, Select, TagsInput, TextInput } from '@mantine/core';
import { IconSwitchHorizontal } from '@tabler/icons-react';
import {
  type Comparison,
  makeLiteral,
  type Node,
  OPERANDS,
  parseExpression,
  pathOf,
  printExpression,
  type Type,
  writePath,
} from '@ypomet/core';
import { useEffect, useState } from 'react';
import { readLocalNumber, writeLocalNumber } from '../../shared/local-numbers.ts';
import { DateField } from '../forms/DateField.tsx';
import classes from './Outline.module.css';
import type { ConditionPlace } from './place.ts';
import { subjectOptions, typeAt } from './subjects.ts';

/** What operands are chosen from, and how they are written. */
export type OperandPlace = Pick<ConditionPlace, 'workflow' | 'findWorkflow' | 'scope' | 'style' | 'members' | 'rows' | 'wording'>;

type Props = {
  readonly comparison: Comparison;
  readonly type: Type | null;
  /** What is compared: members are chosen by name, amounts have a currency. */
  readonly subject: readonly string[] | null;
  readonly values: readonly Node[];
  readonly place: OperandPlace;
  readonly onChange: (values: readonly Node[]) => void;
};

const text = (value: string): Node => makeLiteral(value) as Node;
const parsedOr = (written: string): Node | null => {
  const parsed = parseExpression(written);
  return parsed.ok ? parsed.value : null;
};
const temporal = (value: string): Node | null => parsedOr(`@"${value}"`);
const textsIn = (values: readonly Node[]): string[] => values.flatMap((value) => (value.kind === 'text' ? [value.value] : []));

/** The operands of a clause, each with the input that fits the type: a value, another field, a day counted from today, or text. */
export function OperandInput({ comparison, type, subject, values, place, onChange }: Props) {
  const item = type?.kind === 'list' ? type.of.type : type;
  if (OPERANDS[comparison] === null)
    return <Several type={item} subject={subject} values={values} place={place} onChange={onChange} />;
  const count = OPERANDS[comparison] ?? 1;
  const set = (index: number, node: Node | null): void => {
    const next = Array.from({ length: count }, (_, own) => (own === index ? node : (values[own] ?? null)));
    onChange(next.filter((own) => own !== null));
  };
  const label = (index: number): string => (count === 2 ? (index === 0 ? 'From' : 'To') : 'Value');
  if (comparison === 'last-days' || comparison === 'next-days')
    return <Days value={values[0]} onChange={(node) => set(0, node)} />;
  return Array.from({ length: count }, (_, index) => (
    <Operand
      key={String(index)}
      label={label(index)}
      type={item}
      subject={subject}
      value={values[index]}
      place={place}
      onChange={(node) => set(index, node)}
    />
  ));
}

type SeveralProps = Omit<Props, 'comparison'>;

function Several({ type, subject, values, place, onChange }: SeveralProps) {
  const chosen = textsIn(values);
  const data = codesOf(type, subject, place);
  const common = { size: 'xs' as const, 'aria-label': 'Values', className: classes.operand ?? '', value: chosen };
  const change = (next: string[]): void => onChange(next.map(text));
  if (data) return <MultiSelect {...common} data={withUnknown(data, chosen)} searchable={data.length > 8} onChange={change} />;
  return <TagsInput {...common} placeholder="values, one after another" splitChars={[',', ';', '\n']} onChange={change} />;
}

type Code = { readonly value: string; readonly label: string };

/** What can be chosen from: options by label, members by name; null where values are written. */
function codesOf(
  type: Type | null,
  subject: readonly string[] | null,
  { members, wording }: OperandPlace,
): readonly Code[] | null {
  if (type?.kind === 'choice') return type.options.map(({ code, label }) => ({ value: code, label }));
  if (subject && wording.fieldAt(subject)?.type === 'member') return members.map(({ id, name }) => ({ value: id, label: name }));
  return null;
}

/** A code that is no longer there stays to be seen. */
const withUnknown = (data: readonly Code[], chosen: readonly string[]): Code[] => [
  ...data,
  ...chosen
    .filter((code) => !data.some(({ value }) => value === code))
    .map((code) => ({ value: code, label: `${code} (not there)` })),
];

function Days({ value, onChange }: { readonly value: Node | undefined; readonly onChange: (node: Node | null) => void }) {
  const days = value?.kind === 'temporal' ? (/^P(\d+)D$/.exec(value.text)?.[1] ?? '') : '';
  return (
    <NumberInput
      size="xs"
      aria-label="Value"
      className={classes.operand ?? ''}
      hideControls
      allowDecimal={false}
      allowNegative={false}
      max={99_999}
      clampBehavior="strict"
      value={days}
      rightSection={<span className={classes.small}>days</span>}
      rightSectionWidth={40}
      onChange={(entered) => onChange(entered === '' ? null : temporal(`P${entered}D`))}
    />
  );
}

/** What an operand is: a value written out, another field, a day counted from today, or any expression. */
type Kind = 'value' | 'field' | 'relative' | 'expression';

const LITERALS: ReadonlySet<Node['kind']> = new Set(['text', 'number', 'boolean', 'temporal']);

function kindOf(value: Node | undefined): Kind {
  if (!value || LITERALS.has(value.kind) || isNegative(value)) return 'value';
  if (relativeIn(value)) return 'relative';
  return pathOf(value) ? 'field' : 'expression';
}
const isNegative = (node: Node): boolean => node.kind === 'negate' && node.of.kind === 'number';

type OperandProps = {
  readonly label: string;
  readonly type: Type | null;
  readonly subject: readonly string[] | null;
  readonly value: Node | undefined;
  readonly place: OperandPlace;
  readonly onChange: (node: Node | null) => void;
};

const KINDS: Readonly<Record<Kind, string>> = {
  value: 'a value',
  field: 'another field',
  relative: 'a day counted from today',
  expression: 'an expression',
};

function Operand(props: OperandProps) {
  const { type, value, onChange } = props;
  const [kind, setKind] = useState<Kind>(() => kindOf(value));
  const own = kindOf(value);
  // What is changed elsewhere (by undo, by a paste) is shown as what it is.
  if (value && own !== kind && !(kind === 'expression')) setKind(own);
  const kinds = (Object.keys(KINDS) as Kind[]).filter((one) => one !== 'relative' || type?.kind === 'date');
  return (
    <div className={classes.operand}>
      {kind === 'value' && <ValueInput {...props} />}
      {kind === 'field' && <FieldOperand {...props} />}
      {kind === 'relative' && <RelativeDay {...props} />}
      {kind === 'expression' && <ExpressionOperand {...props} />}
      <Menu position="bottom-end" withinPortal>
        <Menu.Target>
          <ActionIcon size="md" variant="subtle" color="gray" aria-label={`${props.label}: compare with something else`}>
            <IconSwitchHorizontal size={13} />
          </ActionIcon>
        </Menu.Target>
        <Menu.Dropdown>
          {kinds.map((one) => (
            <Menu.Item
              key={one}
              disabled={one === kind}
              onClick={() => {
                setKind(one);
                if (one !== 'expression') onChange(null);
              }}
            >
              {KINDS[one]}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
    </div>
  );
}

function ValueInput({ label, type, subject, value, place, onChange }: OperandProps) {
  const { locale } = place.style;
  const codes = codesOf(type, subject, place);
  const common = { size: 'xs' as const, 'aria-label': label };
  if (codes) {
    const chosen = value?.kind === 'text' ? value.value : null;
    return (
      <Select
        {...common}
        placeholder="Choose"
        data={withUnknown(codes, chosen === null ? [] : [chosen])}
        value={chosen}
        searchable={codes.length > 8}
        allowDeselect={false}
        onChange={(next) => onChange(next === null ? null : text(next))}
      />
    );
  }
  if (type?.kind === 'boolean')
    return (
      <Select
        {...common}
        placeholder="Choose"
        data={['yes', 'no']}
        value={value?.kind === 'boolean' ? (value.value ? 'yes' : 'no') : null}
        allowDeselect={false}
        onChange={(next) => onChange(next === null ? null : (makeLiteral(next === 'yes') as Node))}
      />
    );
  if (type?.kind === 'date' || type?.kind === 'time')
    return (
      <DateField
        {...common}
        kind={type.kind}
        locale={locale}
        value={value?.kind === 'temporal' ? value.text : ''}
        error={false}
        onEnter={(entered) => {
          const node = typeof entered === 'string' && /^\d/.test(entered) ? temporal(entered) : null;
          if (entered === null || node) onChange(node);
        }}
      />
    );
  if (type?.kind === 'number') {
    const currency = type.currency;
    return (
      <Typed
        {...common}
        shown={value?.kind === 'number' ? writeLocalNumber(value.value, locale) : value ? printExpression(value) : ''}
        unit={currency ?? unitAt(place, subject)}
        read={(entered) => {
          const number = readLocalNumber(entered, locale);
          return number ? makeLiteral(number) : null;
        }}
        onChange={onChange}
      />
    );
  }
  if (type?.kind === 'text')
    return <Typed {...common} shown={value?.kind === 'text' ? value.value : ''} read={text} onChange={onChange} />;
  return <ExpressionOperand label={label} type={type} subject={subject} value={value} place={place} onChange={onChange} />;
}

function unitAt({ wording }: OperandPlace, subject: readonly string[] | null): string | undefined {
  const field = subject && wording.fieldAt(subject);
  return field?.type === 'number' && field.unit !== '' ? field.unit : undefined;
}

/** Fields that the operand can be: those of the same kind of value. */
function FieldOperand({ label, type, value, place, onChange }: OperandProps) {
  const { workflow, findWorkflow, scope, rows } = place;
  const groups = subjectOptions(workflow, findWorkflow, scope, rows)
    .map(({ group, items }) => ({
      group,
      items: items
        .filter((option) => option.value.startsWith('field:'))
        .map((option) => ({ value: option.value.slice(6), label: option.label }))
        .filter((option) => typeAt(scope, option.value.split('.'))?.kind === type?.kind),
    }))
    .filter(({ items }) => items.length > 0);
  return (
    <Select
      size="xs"
      aria-label={`${label}: field`}
      placeholder="Choose a field"
      searchable
      data={groups}
      value={(value && pathOf(value)?.join('.')) ?? null}
      allowDeselect={false}
      onChange={(next) => onChange(next === null ? null : writePath(next.split('.')))}
    />
  );
}

/** `today()`, `today() + @"P14D"`, `today() - @"P14D"` as days from today; null for every other expression. */
function relativeIn(node: Node): { readonly days: number } | null {
  const isToday = (own: Node): boolean => own.kind === 'call' && own.name === 'today' && own.of.length === 0;
  if (isToday(node)) return { days: 0 };
  if (node.kind !== 'arithmetic' || !isToday(node.left) || node.right.kind !== 'temporal') return null;
  const days = /^P(\d{1,5})D$/.exec(node.right.text)?.[1];
  if (days === undefined || (node.operator !== '+' && node.operator !== '-')) return null;
  return { days: node.operator === '+' ? Number(days) : -Number(days) };
}
const writeRelative = (days: number): Node | null =>
  parsedOr(days === 0 ? 'today()' : `today() ${days > 0 ? '+' : '-'} @"P${Math.abs(days)}D"`);

function RelativeDay({ label, value, onChange }: OperandProps) {
  const days = value ? (relativeIn(value)?.days ?? null) : null;
  const [isBefore, setBefore] = useState(days !== null && days < 0);
  const size = days === null ? '' : Math.abs(days);
  return (
    <div className={classes.operand}>
      <NumberInput
        size="xs"
        aria-label={`${label}: days`}
        hideControls
        allowDecimal={false}
        allowNegative={false}
        max={99_999}
        clampBehavior="strict"
        value={size}
        placeholder="days"
        onChange={(entered) => onChange(entered === '' ? null : writeRelative(Number(entered) * (isBefore ? -1 : 1)))}
      />
      <Select
        size="xs"
        aria-label={`${label}: before or after today`}
        data={['days before today', 'days after today']}
        value={isBefore ? 'days before today' : 'days after today'}
        allowDeselect={false}
        onChange={(next) => {
          const before = next === 'days before today';
          setBefore(before);
          if (days !== null) onChange(writeRelative(Math.abs(days) * (before ? -1 : 1)));
        }}
      />
    </div>
  );
}

function ExpressionOperand({ label, value, onChange }: OperandProps) {
  return (
    <Typed
      size="xs"
      aria-label={`${label}: expression`}
      isCode
      shown={value ? printExpression(value) : ''}
      read={parsedOr}
      onChange={onChange}
    />
  );
}

type TypedProps = {
  readonly size: 'xs';
  readonly 'aria-label': string;
  readonly shown: string;
  readonly unit?: string | undefined;
  readonly isCode?: boolean;
  readonly read: (entered: string) => Node | null;
  readonly onChange: (node: Node | null) => void;
};

/** Keeps what is typed until it can be read, so that nothing half written is lost or kept wrongly. */
function Typed({ shown, unit, isCode = false, read, onChange, ...common }: TypedProps) {
  const [typed, setTyped] = useState(shown);
  const [isActive, setActive] = useState(false);
  useEffect(() => {
    if (!isActive) setTyped(shown);
  }, [shown, isActive]);
  const isOpen = typed !== '' && read(typed) === null;
  return (
    <TextInput
      {...common}
      placeholder="value"
      value={typed}
      error={isOpen}
      {...(isCode ? { classNames: { input: 'mono' } } : {})}
      {...(unit ? { rightSection: <span className={classes.small}>{unit}</span>, rightSectionWidth: 42 } : {})}
      onFocus={() => setActive(true)}
      onBlur={() => setActive(false)}
      onChange={(event) => {
        const entered = event.currentTarget.value;
        setTyped(entered);
        const node = entered === '' ? null : read(entered);
        if (entered === '' || node) onChange(node);
      }}
    />
  );
}
