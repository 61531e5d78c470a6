import { type ArithmeticOperator, childrenOf, type Node } from './tree.ts';
import { currencyOf, joinCurrencies, MIXED, TYPES, type Type, type Typing } from './types.ts';

/** What an operator yields for two kinds of operand (OMG DMN 1.3, tables 54 to 58). */
const ARITHMETIC_TYPES: Readonly<Record<string, Type>> = {
  'number+number': TYPES.number,
  'number-number': TYPES.number,
  'number*number': TYPES.number,
  'number/number': TYPES.number,
  'number**number': TYPES.number,
  'text+text': TYPES.text,
  'date-date': TYPES.daysDuration,
  'date-time-date-time': TYPES.daysDuration,
  'time-time': TYPES.daysDuration,
  'date+days-duration': TYPES.date,
  'date-days-duration': TYPES.date,
  'days-duration+date': TYPES.date,
  'date+months-duration': TYPES.date,
  'date-months-duration': TYPES.date,
  'months-duration+date': TYPES.date,
  'date-time+days-duration': TYPES.dateTime,
  'date-time-days-duration': TYPES.dateTime,
  'days-duration+date-time': TYPES.dateTime,
  'date-time+months-duration': TYPES.dateTime,
  'date-time-months-duration': TYPES.dateTime,
  'months-duration+date-time': TYPES.dateTime,
  'time+days-duration': TYPES.time,
  'time-days-duration': TYPES.time,
  'days-duration+time': TYPES.time,
  'days-duration+days-duration': TYPES.daysDuration,
  'days-duration-days-duration': TYPES.daysDuration,
  'months-duration+months-duration': TYPES.monthsDuration,
  'months-duration-months-duration': TYPES.monthsDuration,
  'days-duration*number': TYPES.daysDuration,
  'number*days-duration': TYPES.daysDuration,
  'days-duration/number': TYPES.daysDuration,
  'months-duration*number': TYPES.monthsDuration,
  'number*months-duration': TYPES.monthsDuration,
  'months-duration/number': TYPES.monthsDuration,
  'days-duration/days-duration': TYPES.number,
  'months-duration/months-duration': TYPES.number,
};

/** The type of an arithmetic operation; null where the operator isn't defined for the two. A choice counts as text. */
export function arithmeticType(left: Type, operator: ArithmeticOperator, right: Type): Type | null {
  const [a, b] = [left, right].map((type) => (type.kind === 'choice' ? 'text' : type.kind));
  const found = ARITHMETIC_TYPES[`${a}${operator}${b}`] ?? null;
  return found?.kind === 'number' && left.kind === 'number' && right.kind === 'number'
    ? amountType(left, operator, right)
    : found;
}

/** Sums of amounts and amounts times a number stay amounts; a ratio of two amounts is a plain number. */
function amountType(left: Type, operator: ArithmeticOperator, right: Type): Type {
  const [a, b] = [currencyOf(left), currencyOf(right)];
  if (operator === '+' || operator === '-') return { kind: 'number', ...joinCurrencies(left, right) };
  const currency = operator === '*' && !(a && b) ? (a ?? b) : operator === '/' && !b ? a : undefined;
  return currency ? { kind: 'number', currency } : TYPES.number;
}

/** Returns the currencies of all amounts in an expression, each once, in alphabetical order. */
export function currenciesIn(node: Node, typings: ReadonlyMap<Node, Typing>): readonly string[] {
  const currencies = new Set<string>();
  const collect = (inner: Node): void => {
    const type = typings.get(inner)?.type;
    const currency = type && currencyOf(type.kind === 'list' ? type.of.type : type);
    if (currency && currency !== MIXED) currencies.add(currency);
    childrenOf(inner).forEach(collect);
  };
  collect(node);
  return [...currencies].sort();
}
