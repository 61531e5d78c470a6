import { ActionIcon, Menu, MultiSelect, Select, TagsInput } from '@mantine/core';
import { IconSwitchHorizontal } from '@tabler/icons-react';
import {
  type Comparison,
  type Exact,
  makeLiteral,
  type Node,
  negateExact,
  OPERANDS,
  parseExpression,
  pathOf,
  printExpression,
  type Reading,
  readExact,
  readLocalClock,
  readLocalDay,
  readLocalNumber,
  readLocalTime,
  type Type,
  writeLocalNumber,
  writePath,
} from '@ypomet/core';
import { useState } from 'react';
import { CountInput } from '../../shared/reading/CountInput.tsx';
import { ReadInput } from '../../shared/reading/ReadInput.tsx';
import { todayIn } from '../../shared/reading/today.ts';
import { showTemporal } from '../expressions/temporal-text.ts';
import { DayButton } from '../forms/DayButton.tsx';
import { useSession } from '../session/queries.ts';
import classes from './Outline.module.css';
import type { ConditionPlace } from './place.ts';
import { subjectOptions, typeAt } from './subjects.ts';
import { TypedOperand } from './TypedOperand.tsx';

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
  const { locale } = useSession().workspace;
  const days = value?.kind === 'temporal' ? /^P(\d+)D$/.exec(value.text)?.[1] : undefined;
  return (
    <CountInput
      size="xs"
      aria-label="Value"
      className={classes.operand ?? ''}
      locale={locale}
      max={99_999}
      value={days === undefined ? null : Number(days)}
      rightSection={<span className={classes.small}>days</span>}
      rightSectionWidth={40}
      onKeep={(entered) => {
        onChange(entered === null ? null : temporal(`P${entered}D`));
        return null;
      }}
      onUnread={() => onChange(null)}
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
  if (type?.kind === 'date' || type?.kind === 'time' || type?.kind === 'date-time')
    return <TemporalOperand label={label} kind={type.kind} value={value} place={place} onChange={onChange} />;
  if (type?.kind === 'number') return <NumberOperand {...{ label, type, subject, value, place, onChange }} />;
  if (type?.kind === 'text')
    return <TypedOperand {...common} shown={value?.kind === 'text' ? value.value : ''} read={text} onChange={onChange} />;
  return <ExpressionOperand label={label} type={type} subject={subject} value={value} place={place} onChange={onChange} />;
}

type Temporal = 'date' | 'time' | 'date-time';

const TEMPORAL_EXAMPLES = { date: '2027-03-12', time: '09:30', 'date-time': '2027-03-12T09:30' } as const;

/** A day, a time or a moment, kept as a literal when its input is left. */
function TemporalOperand({
  label,
  kind,
  value,
  place,
  onChange,
}: Omit<OperandProps, 'type' | 'subject'> & { readonly kind: Temporal }) {
  const { locale, zone } = place.style;
  const write = (text: string): string => showTemporal(text, kind, { locale, zone }) ?? text;
  const read = (text: string): Reading<string> => {
    const style = { locale, today: todayIn(zone) };
    if (kind === 'time') return readLocalTime(text, locale);
    return kind === 'date' ? readLocalDay(text, style) : readLocalClock(text, style);
  };
  const keep = (entered: string | null): null => {
    onChange(entered === null ? null : temporal(entered));
    return null;
  };
  const stored = value?.kind === 'temporal' ? value.text : '';
  return (
    <ReadInput<string>
      size="xs"
      aria-label={label}
      when="left"
      shown={write(stored)}
      read={read}
      write={write}
      example={write(TEMPORAL_EXAMPLES[kind])}
      placeholder={`such as ${write(TEMPORAL_EXAMPLES[kind])}`}
      onKeep={keep}
      onUnread={() => onChange(null)}
      {...(kind === 'time'
        ? {}
        : {
            rightSection: (
              <DayButton
                label={`Choose a day: ${label}`}
                kind="date"
                value={stored.slice(0, 10)}
                locale={locale}
                zone={zone}
                onChoose={(day) => keep(kind === 'date' ? day : `${day}${stored.slice(10) || 'T09:00'}`)}
              />
            ),
          })}
    />
  );
}

/** A number or an amount, kept as a literal when its input is left. */
function NumberOperand({
  label,
  type,
  subject,
  value,
  place,
  onChange,
}: OperandProps & { readonly type: Extract<Type, { kind: 'number' }> }) {
  const { locale } = place.style;
  const { currency } = type;
  const unit = currency ?? unitAt(place, subject);
  const write = (number: Exact): string => writeLocalNumber(number, locale);
  return (
    <ReadInput<Exact>
      size="xs"
      aria-label={label}
      when="left"
      inputMode="decimal"
      placeholder="value"
      shown={value ? (literalNumber(value, write) ?? printExpression(value)) : ''}
      read={(text) => readLocalNumber(text, { locale, currency, unit: currency === undefined ? unit : undefined })}
      write={write}
      example={write(readExact('1250.5') as Exact)}
      onKeep={(number) => {
        onChange(number === null ? null : (makeLiteral(number) as Node));
        return null;
      }}
      onUnread={() => onChange(null)}
      {...(unit ? { rightSection: <span className={classes.small}>{unit}</span>, rightSectionWidth: 42 } : {})}
    />
  );
}

/** A literal number, also below zero, as it is written; null for every other expression. */
function literalNumber(node: Node, write: (number: Exact) => string): string | null {
  if (node.kind === 'number') return write(node.value);
  return node.kind === 'negate' && node.of.kind === 'number' ? write(negateExact(node.of.value)) : null;
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
  const { locale } = useSession().workspace;
  const [isBefore, setBefore] = useState(days !== null && days < 0);
  return (
    <div className={classes.operand}>
      <CountInput
        size="xs"
        aria-label={`${label}: days`}
        locale={locale}
        max={99_999}
        value={days === null ? null : Math.abs(days)}
        placeholder="days"
        onKeep={(entered) => {
          onChange(entered === null ? null : writeRelative(entered * (isBefore ? -1 : 1)));
          return null;
        }}
        onUnread={() => onChange(null)}
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
    <TypedOperand
      size="xs"
      aria-label={`${label}: expression`}
      isCode
      shown={value ? printExpression(value) : ''}
      read={parsedOr}
      onChange={onChange}
    />
  );
}
