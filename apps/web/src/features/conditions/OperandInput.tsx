import { MultiSelect, Select, TextInput } from '@mantine/core';
import {
  type Comparison,
  makeLiteral,
  type Node,
  OPERANDS,
  parseExpression,
  printExpression,
  readExact,
  type Type,
  writeExact,
} from '@ypomet/core';
import { useEffect, useState } from 'react';

type Props = {
  readonly comparison: Comparison;
  readonly type: Type | null;
  readonly values: readonly Node[];
  readonly onChange: (values: readonly Node[]) => void;
};

const text = (value: string): Node => makeLiteral(value) as Node;
const temporal = (value: string): Node | null => {
  const parsed = parseExpression(`@"${value}"`);
  return parsed.ok ? parsed.value : null;
};

/** The operands of a clause, with the input that fits the type. An operand that is no literal is shown as text. */
export function OperandInput({ comparison, type, values, onChange }: Props) {
  const item = type?.kind === 'list' ? type.of.type : type;
  if (item?.kind === 'choice') {
    const data = item.options.map((option) => ({ value: option.code, label: option.label }));
    const codes = values.flatMap((value) => (value.kind === 'text' ? [value.value] : []));
    if (OPERANDS[comparison] === null)
      return (
        <MultiSelect
          size="xs"
          aria-label="Values"
          data={data}
          value={codes}
          onChange={(chosen) => onChange(chosen.map(text))}
          style={{ flex: '1 1 140px' }}
        />
      );
    if (values.length === 0 || codes.length > 0) {
      return (
        <Select
          size="xs"
          aria-label="Value"
          placeholder="Choose"
          data={data}
          value={codes[0] ?? null}
          searchable={data.length > 8}
          onChange={(chosen) => onChange(chosen === null ? [] : [text(chosen)])}
          style={{ flex: '1 1 100px' }}
        />
      );
    }
  }
  if (item?.kind === 'boolean' && (values.length === 0 || values[0]?.kind === 'boolean')) {
    const value = values[0]?.kind === 'boolean' ? (values[0].value ? 'yes' : 'no') : null;
    return (
      <Select
        size="xs"
        aria-label="Value"
        placeholder="Choose"
        data={['yes', 'no']}
        value={value}
        onChange={(chosen) => onChange(chosen === null ? [] : [makeLiteral(chosen === 'yes') as Node])}
        style={{ flex: '1 1 64px' }}
      />
    );
  }
  if (OPERANDS[comparison] === null) {
    const texts = values.flatMap((value) => (value.kind === 'text' ? [value.value] : []));
    return (
      <Operand
        label="Values, separated by commas"
        shown={texts.join(', ')}
        read={(entered) => makeLiteral(entered) as Node}
        onChange={(node) =>
          onChange(
            node?.kind === 'text'
              ? node.value
                  .split(',')
                  .map((part) => text(part.trim()))
                  .filter((part) => printExpression(part) !== '""')
              : [],
          )
        }
      />
    );
  }
  const count = OPERANDS[comparison] ?? 1;
  const set = (index: number, node: Node | null): void => {
    const next = Array.from({ length: count }, (_, own) => (own === index ? node : (values[own] ?? null)));
    onChange(next.includes(null) ? (next.filter((own) => own !== null) as readonly Node[]) : (next as readonly Node[]));
  };
  return Array.from({ length: count }, (_, index) => (
    <Operand
      key={String(index)}
      label={count === 2 ? (index === 0 ? 'From' : 'To') : 'Value'}
      {...operandOf(comparison, item, values[index])}
      onChange={(node) => set(index, node)}
    />
  ));
}

/** How an operand is shown and read for a type. */
function operandOf(
  comparison: Comparison,
  type: Type | null,
  value: Node | undefined,
): { readonly shown: string; readonly input?: string; readonly unit?: string; readonly read: (entered: string) => Node | null } {
  const asExpression = (entered: string): Node | null => {
    const parsed = parseExpression(entered);
    return parsed.ok ? parsed.value : null;
  };
  if (comparison === 'last-days' || comparison === 'next-days') {
    return {
      shown: value?.kind === 'temporal' ? (/^P(\d+)D$/.exec(value.text)?.[1] ?? '') : '',
      unit: 'days',
      read: (entered) => (/^\d{1,5}$/.test(entered) ? temporal(`P${entered}D`) : null),
    };
  }
  if (type?.kind === 'number') {
    return {
      shown: value?.kind === 'number' ? writeExact(value.value) : value ? printExpression(value) : '',
      read: (entered) => {
        const exact = readExact(entered.replace(/[\s’']/g, '').replace(/,(?=\d{3}\b)/g, ''));
        return exact ? makeLiteral(exact) : asExpression(entered);
      },
    };
  }
  if (type?.kind === 'date' && (!value || value.kind === 'temporal'))
    return { shown: value?.text ?? '', input: 'date', read: temporal };
  if ((type?.kind === 'text' || type?.kind === 'choice') && (!value || value.kind === 'text'))
    return { shown: value?.value ?? '', read: text };
  return { shown: value ? printExpression(value) : '', read: asExpression };
}

type OperandProps = {
  readonly label: string;
  readonly shown: string;
  readonly input?: string;
  readonly unit?: string;
  readonly read: (entered: string) => Node | null;
  readonly onChange: (node: Node | null) => void;
};

/** Keeps what is typed until it can be read, so that nothing half written is lost or kept wrongly. */
function Operand({ label, shown, input, unit, read, onChange }: OperandProps) {
  const [typed, setTyped] = useState(shown);
  useEffect(() => setTyped(shown), [shown]);
  const isOpen = typed !== '' && read(typed) === null;
  return (
    <TextInput
      size="xs"
      aria-label={label}
      placeholder={label.toLowerCase()}
      type={input ?? 'text'}
      value={typed}
      error={isOpen}
      style={{ flex: '1 1 84px' }}
      rightSection={unit ? <span style={{ fontSize: 12, color: 'var(--ink-soft)' }}>{unit}</span> : null}
      onChange={(event) => {
        const entered = event.currentTarget.value;
        setTyped(entered);
        const node = entered === '' ? null : read(entered);
        if (entered === '' || node) onChange(node);
      }}
    />
  );
}
