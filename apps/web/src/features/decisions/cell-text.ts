import {
  type Diagnostic,
  diagnostic,
  makeLiteral,
  type Node,
  numberMarks,
  onlyValue,
  parseExpression,
  parseUnaryTests,
  printExpression,
  readLocalClock,
  readLocalDay,
  readLocalNumber,
  readLocalTime,
  type Scope,
  type Type,
  type UnaryTest,
  writeLocalNumber,
} from '@ypomet/core';
import { todayIn } from '../../shared/reading/today.ts';
import { faultsOfTests, readText } from '../expressions/faults.ts';
import { showTemporal } from '../expressions/temporal-text.ts';

/** What a column of a decision table holds: the type of its values, and the labels of codes (members by name). */
export type ColumnType = {
  readonly type: Type | null;
  readonly labels: ReadonlyMap<string, string>;
  readonly locale: string;
  readonly zone: string;
  readonly scope: Scope;
};

const printed = (value: Parameters<typeof makeLiteral>[0]): string => printExpression(makeLiteral(value) as Node);

/** A literal as people write it; null for what is none. */
function showLiteral(node: Node, { type, labels, locale, zone, scope }: ColumnType): string | null {
  switch (node.kind) {
    case 'number':
      return writeLocalNumber(node.value, locale);
    case 'boolean':
      return node.value ? 'yes' : 'no';
    case 'temporal':
      return showTemporal(node.text, type?.kind, { locale, zone });
    case 'text': {
      const label = labels.get(node.value);
      if (label !== undefined) return label;
      // A word that could as well be the name of a field keeps its quotes, and so does what would be read as something else.
      const isPlain =
        /^[^",;<>=()[\]@]+$/.test(node.value) && !/^(-|any|not\b.*)$/i.test(node.value) && node.value.trim() === node.value;
      return isPlain && !scope.entries.has(node.value) ? node.value : printed(node.value);
    }
    case 'negate':
      return node.of.kind === 'number' ? `-${writeLocalNumber(node.of.value, locale)}` : null;
    default:
      return null;
  }
}

/** A literal that somebody wrote; null for what is none of the column's type. */
function readLiteral(text: string, { type, labels, locale, zone, scope }: ColumnType): string | null {
  const written = text.trim();
  if (written === '' || type === null) return null;
  const style = { locale, today: todayIn(zone) };
  switch (type.kind) {
    case 'number': {
      const number = onlyValue(readLocalNumber(written, { locale, ...(type.currency ? { currency: type.currency } : {}) }));
      return number && printed(number);
    }
    case 'boolean':
      if (/^(yes|true)$/i.test(written)) return 'true';
      return /^(no|false)$/i.test(written) ? 'false' : null;
    case 'date': {
      const day = onlyValue(readLocalDay(written, style));
      return day && `@"${day}"`;
    }
    case 'time': {
      const time = onlyValue(readLocalTime(written, locale));
      return time && `@"${time}"`;
    }
    case 'date-time': {
      const clock = onlyValue(readLocalClock(written, style));
      return clock && `@"${clock}"`;
    }
    case 'choice':
    case 'text': {
      for (const [code, label] of labels)
        if (label.toLowerCase() === written.toLowerCase() || code === written) return printed(code);
      const isWord = type.kind === 'text' && /^[^",;<>=()[\]@?]+$/.test(written) && !scope.entries.has(written);
      return isWord ? printed(written) : null;
    }
    default:
      return null;
  }
}

const OPERATOR = /^(<=|>=|!=|<|>|=)\s*/;
const NOTHING = /^(-|any)?$/i;

/** The tests of a cell as people write them: "Paper, Textile", "above" as "> 1,000", "[1..5]"; what is more is its own text. */
export function showTests(text: string | undefined, column: ColumnType): string {
  if (text === undefined) return '';
  const parsed = parseUnaryTests(text.trim());
  if (!parsed.ok) return text;
  if (parsed.value === null) return '';
  const { tests, negated } = parsed.value;
  const separator = numberMarks(column.locale).decimal === ',' && column.type?.kind === 'number' ? '; ' : ', ';
  const shown = tests.map((test) => showTest(test, column));
  if (shown.includes(null)) return text;
  return negated ? `not(${shown.join(separator)})` : shown.join(separator);
}

function showTest(test: UnaryTest, column: ColumnType): string | null {
  if (test.kind === 'holds') return null;
  if (test.kind === 'compares') {
    const to = showLiteral(test.to, column);
    return to === null ? null : `${test.operator} ${to}`;
  }
  if (test.node.kind === 'range') {
    const [low, high] = [showLiteral(test.node.low, column), showLiteral(test.node.high, column)];
    if (low === null || high === null) return null;
    return `${test.node.includesLow ? '[' : '('}${low}..${high}${test.node.includesHigh ? ']' : ')'}`;
  }
  return showLiteral(test.node, column);
}

/** What somebody wrote into a cell of tests, as it is stored; null for "takes everything". What can't be made out stays as it is. */
export function readTests(typed: string, column: ColumnType): string | null {
  const written = typed.trim();
  if (NOTHING.test(written)) return null;
  const negated = /^not\((.*)\)$/s.exec(written)?.[1];
  const inner = negated ?? written;
  // Try the whole text first: a label, day or number may contain a comma itself.
  const isOne = readTest(inner.trim(), column) !== null;
  const parts = isOne ? [inner] : splitList(inner, column);
  const read = parts.map((part) => readTest(part.trim(), column));
  if (read.includes(null)) return written;
  return negated === undefined ? read.join(', ') : `not(${read.join(', ')})`;
}

function readTest(part: string, column: ColumnType): string | null {
  const operator = OPERATOR.exec(part);
  if (operator) {
    const literal = readLiteral(part.slice(operator[0].length), column);
    if (literal === null) return null;
    return operator[1] === '=' ? literal : `${operator[1]} ${literal}`;
  }
  const range = /^([[(\]])?\s*(.+?)\s*\.\.\s*(.+?)\s*([\])[])?$/.exec(part);
  if (range) {
    const [low, high] = [readLiteral(range[2] ?? '', column), readLiteral(range[3] ?? '', column)];
    return low === null || high === null ? null : `${range[1] ?? '['}${low}..${high}${range[4] ?? ']'}`;
  }
  return readLiteral(part, column);
}

/** Semicolons part always. Commas do too; beside a number only with a space behind them, as numbers have commas themselves. */
const splitList = (text: string, { type }: ColumnType): readonly string[] =>
  text.includes(';') ? text.split(';') : text.split(type?.kind === 'number' ? /,\s+/ : ',');

/** An output as people write it: a literal plainly, an expression as its text. */
export function showOutput(text: string | undefined, column: ColumnType): string {
  if (text === undefined) return '';
  const parsed = parseExpression(text);
  return (parsed.ok ? showLiteral(parsed.value, column) : null) ?? text;
}

/** What somebody wrote into an output; null for "the default". */
export function readOutput(typed: string, column: ColumnType): string | null {
  const written = typed.trim();
  return written === '' ? null : (readLiteral(written, column) ?? written);
}

/**
 * Whether what is stored in a cell is sound: what is wrong with it otherwise. Digits beside a comma are a number that couldn't
 * be read ("1,25,0", or "1,250" where that can be 1.25 too): as text of an expression they would be several numbers.
 */
export const faultsOfCell = (
  text: string | null,
  side: 'when' | 'then',
  input: string,
  column: ColumnType,
): readonly Diagnostic[] => {
  if (text === null) return [];
  if (side === 'when' && column.type?.kind === 'number' && /\d,\d/.test(text))
    return [diagnostic('decision/unclear-number', input)];
  return side === 'when'
    ? faultsOfTests(text, input, column.scope)
    : readText(text, column.scope, column.type ?? undefined).diagnostics;
};
