import { type Term, term } from '../shared/terms.ts';
import { readDate, readDuration, readTime } from '../values/temporal.ts';

/** One code of a choice and what people read. */
export type TypeOption = { readonly code: string; readonly label: string };

/** Static types. `choice` is text that is one of its codes. */
export type Type =
  | { readonly kind: 'null' | 'any' }
  | { readonly kind: 'boolean' | 'text' }
  /** A money amount has its currency; `MIXED` where amounts of several came together. */
  | { readonly kind: 'number'; readonly currency?: string }
  | { readonly kind: 'date' | 'time' | 'date-time' | 'days-duration' | 'months-duration' }
  | { readonly kind: 'choice'; readonly options: readonly TypeOption[] }
  | { readonly kind: 'list'; readonly of: Typing }
  | { readonly kind: 'range'; readonly of: Type }
  /** `origins`: the names of the tables, references and records whose entries these can be. */
  | {
      readonly kind: 'context';
      readonly entries: Readonly<Record<string, Typing>>;
      readonly origins?: readonly string[];
    };

/** The currency of a list whose items are of several. */
export const MIXED = 'several currencies';

export type TypeKind = Type['kind'];

/** A type and whether the value may be null. */
export type Typing = { readonly type: Type; readonly nullable: boolean };

export const typing = (type: Type, nullable: boolean): Typing => ({ type, nullable });

const simple = <K extends Exclude<TypeKind, 'choice' | 'list' | 'range' | 'context'>>(kind: K): { readonly kind: K } => ({
  kind,
});

export const TYPES = {
  null: simple('null'),
  any: simple('any'),
  boolean: simple('boolean'),
  number: simple('number'),
  text: simple('text'),
  date: simple('date'),
  time: simple('time'),
  dateTime: simple('date-time'),
  daysDuration: simple('days-duration'),
  monthsDuration: simple('months-duration'),
} as const satisfies Record<string, Type>;

export const listOf = (type: Type, nullableItems = false): Type => ({ kind: 'list', of: typing(type, nullableItems) });

/** A type as a term, for messages: its words are those of whoever reads them. */
export function termOfType(type: Type): Term {
  if (type.kind === 'list')
    return type.of.type.kind === 'any' ? term('type/list') : term('type/list-of', { of: termOfType(type.of.type) });
  return type.kind === 'number' && type.currency ? term('type/money', { currency: type.currency }) : term(`type/${type.kind}`);
}

/** The currency two amounts have together; null where they are of two. A plain number takes that of the other. */
export function joinCurrencies(a: Type, b: Type): { readonly currency?: string } | null {
  const [left, right] = [currencyOf(a), currencyOf(b)];
  if (left && right && left !== right) return null;
  const currency = left ?? right;
  return currency ? { currency } : {};
}

export const currencyOf = (type: Type): string | undefined => (type.kind === 'number' ? type.currency : undefined);

/** A typing whose rows, or the record it stands for, are known to come from a name; entries that are records themselves too. */
export function withOrigin(of: Typing, name: string): Typing {
  const { type } = of;
  if (type.kind === 'list') {
    const item = withOrigin(type.of, name);
    return item === type.of ? of : { ...of, type: { ...type, of: item } };
  }
  if (type.kind !== 'context' || type.origins) return of;
  const entries = Object.entries(type.entries).map(([key, entry]) => [key, withOrigin(entry, `${name}.${key}`)] as const);
  return { ...of, type: { ...type, entries: Object.fromEntries(entries), origins: [name] } };
}

/** The names whose entries a value can hold; empty for everything that isn't rows or a record. */
export function originsOf(type: Type): readonly string[] {
  if (type.kind === 'list') return originsOf(type.of.type);
  return type.kind === 'context' ? (type.origins ?? []) : [];
}

const isText = (type: Type): boolean => type.kind === 'text' || type.kind === 'choice';

/** Whether a value of one type can ever equal one of the other. */
export function areComparable(a: Type, b: Type): boolean {
  if (a.kind === 'any' || b.kind === 'any' || a.kind === 'null' || b.kind === 'null') return true;
  if (a.kind === 'choice' && b.kind === 'choice') {
    return a.options.some((option) => b.options.some((other) => other.code === option.code));
  }
  if (isText(a) && isText(b)) return true;
  if (a.kind === 'list' && b.kind === 'list') return areComparable(a.of.type, b.of.type);
  return a.kind === b.kind;
}

const ORDERED: ReadonlySet<TypeKind> = new Set([
  'number',
  'text',
  'choice',
  'date',
  'time',
  'date-time',
  'days-duration',
  'months-duration',
  'any',
  'null',
]);

/** Whether `<` and its kin are defined between the two. */
export const areOrdered = (a: Type, b: Type): boolean => ORDERED.has(a.kind) && ORDERED.has(b.kind) && areComparable(a, b);

/** Whether a value of type `from` may stand where `to` is wanted. */
export function isAssignable(from: Type, to: Type): boolean {
  if (to.kind === 'any' || from.kind === 'any' || from.kind === 'null') return true;
  if (to.kind === 'text') return isText(from);
  if (to.kind === 'choice') {
    return (
      from.kind === 'text' ||
      (from.kind === 'choice' && from.options.every((option) => to.options.some((own) => own.code === option.code)))
    );
  }
  if (to.kind === 'number') return from.kind === 'number' && joinCurrencies(from, to) !== null;
  if (to.kind === 'list') return from.kind === 'list' && isAssignable(from.of.type, to.of.type);
  if (to.kind === 'range') return from.kind === 'range' && isAssignable(from.of, to.of);
  if (to.kind === 'context') {
    return (
      from.kind === 'context' &&
      Object.entries(to.entries).every(([name, entry]) => {
        const own = from.entries[name];
        return own !== undefined && isAssignable(own.type, entry.type);
      })
    );
  }
  return from.kind === to.kind;
}

/** The narrowest type that holds both; null when there is none but `any`. */
export function joinTypes(a: Type, b: Type): Type | null {
  if (a.kind === 'null' || b.kind === 'any') return b;
  if (b.kind === 'null' || a.kind === 'any') return a;
  if (a.kind === 'choice' && b.kind === 'choice') {
    const added = b.options.filter((option) => !a.options.some((own) => own.code === option.code));
    return added.length === 0 ? a : { kind: 'choice', options: [...a.options, ...added] };
  }
  if (isText(a) && isText(b)) return TYPES.text;
  if (a.kind === 'list' && b.kind === 'list') {
    const of = joinTypes(a.of.type, b.of.type);
    return of && { kind: 'list', of: typing(of, a.of.nullable || b.of.nullable) };
  }
  if (a.kind === 'number' && b.kind === 'number') return { kind: 'number', ...(joinCurrencies(a, b) ?? { currency: MIXED }) };
  if (a.kind === 'context' && b.kind === 'context') return joinContexts(a, b);
  if (isAssignable(a, b)) return b;
  return isAssignable(b, a) ? a : null;
}

type ContextType = Extract<Type, { kind: 'context' }>;

/** Rows of two tables are of the wider one's type, and may come from either. */
function joinContexts(a: ContextType, b: ContextType): Type | null {
  const wider = isAssignable(a, b) ? b : isAssignable(b, a) ? a : null;
  const origins = [...new Set([...originsOf(a), ...originsOf(b)])];
  return wider && (origins.length > 0 ? { ...wider, origins } : wider);
}

/** The options of a choice, or of a list of choices; null for other types. */
export const optionsOf = (type: Type): readonly TypeOption[] | null =>
  type.kind === 'choice' ? type.options : type.kind === 'list' && type.of.type.kind === 'choice' ? type.of.type.options : null;

/** The type of `@"…"`. */
export function typeOfTemporalLiteral(text: string): Type {
  if (readDate(text)) return TYPES.date;
  if (readTime(text)) return TYPES.time;
  return { kind: readDuration(text)?.kind ?? 'date-time' };
}
