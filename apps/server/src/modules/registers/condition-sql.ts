import {
  type CheckedExpression,
  type Field,
  failure,
  type Node,
  type Result,
  readDate,
  readDateTime,
  readTime,
  type Span,
  type SubField,
  success,
  type UnaryTest,
  writeDate,
  writeExact,
  writeInstant,
} from '@ypomet/core';

/** A part of a condition that the database can't decide as the core does. */
export type NotSearchable = { readonly span: Span };

/** What values of a scalar type are in SQL; each kind is compared with its own only. */
type Kind = 'number' | 'text' | 'boolean' | 'date' | 'time' | 'date-time';
/** A value in SQL: an expression that is null where the value is. */
type Scalar = { readonly kind: Kind; readonly sql: string; readonly isFilled: boolean };

type Fields = readonly (Field | SubField)[];

/** What a name stands for within the rows of a table: the row's JSON, and the columns of the table. */
type Row = { readonly sql: string; readonly fields: Fields };

class Unsearchable extends Error {
  constructor(readonly span: Span) {
    super('not searchable');
  }
}

/** Collects the parameters of a statement. */
export class Parameters {
  readonly values: unknown[] = [];
  /** Fields of the record that values are compared with, as SQL: what an index would serve. */
  readonly compared = new Set<string>();
  /** Nested loops of the statement: lists of tables whose rows it goes through within each other, the outermost first, as SQL. */
  readonly loops = new Map<string, readonly string[]>();

  /** The placeholder of a value. */
  add(value: unknown, type: string): string {
    this.values.push(value);
    return `$${this.values.length}::${type}`;
  }
}

/**
 * A condition over a record as a condition over the row `r` of its table: true exactly for the records for which the core
 * finds it true. A condition is three-valued in both; rather than its value, two statements are written of each part: that it
 * holds, and that it fails. Only true and not true are told apart in them, so that an equality can stand as one, which an
 * index serves.
 *
 * The tree has been typed, and what doesn't depend on the record has been folded. Arithmetic on fields, patterns and reading
 * through references are not searched by.
 */
export function conditionSql(
  checked: CheckedExpression,
  fields: readonly Field[],
  parameters: Parameters,
): Result<string, NotSearchable> {
  try {
    return success(new Writer(checked, fields, parameters).holds(checked.node));
  } catch (error) {
    if (error instanceof Unsearchable) return failure({ span: error.span });
    throw error;
  }
}

/** The value of a field in a record, or in the row of one, by which the register also orders and totals. */
export function fieldSql({ key, type }: Field | SubField, values: string): { readonly kind: Kind; readonly sql: string } | null {
  // Keys are of letters, digits and underscores.
  const text = `${values} ->> '${key}'`;
  switch (type) {
    case 'text':
    case 'long-text':
    case 'choice':
    case 'member':
      return { kind: 'text', sql: `(${text})` };
    case 'number':
    case 'money':
      return { kind: 'number', sql: `ypomet_number(${text})` };
    case 'yes-no':
      return { kind: 'boolean', sql: `(case ${text} when 'true' then true when 'false' then false end)` };
    case 'date':
      return { kind: 'date', sql: `ypomet_date(${text})` };
    case 'time':
      return { kind: 'time', sql: `ypomet_time(${text})` };
    case 'date-time':
      return { kind: 'date-time', sql: `ypomet_instant(${text})` };
    case 'multi-choice':
    case 'file':
    case 'reference':
    case 'sign-off':
    case 'note':
    case 'table':
      return null;
    default:
      return type satisfies never;
  }
}

/** The facts of a record that conditions read as `record.…`. */
export const FACTS: Readonly<Record<string, { readonly kind: Kind; readonly sql: string }>> = {
  id: { kind: 'text', sql: '(r.id::text)' },
  number: { kind: 'text', sql: 'r.number' },
  stage: { kind: 'text', sql: 'r.stage' },
  track: { kind: 'text', sql: 'r.track' },
  version: { kind: 'number', sql: 'r.version::numeric' },
  createdAt: { kind: 'date-time', sql: 'r.created_at' },
  arrivedAt: { kind: 'date-time', sql: 'r.arrived_at' },
  due: { kind: 'date-time', sql: 'r.due_at' },
};

const OPPOSITES = { '=': '!=', '!=': '=', '<': '>=', '<=': '>', '>': '<=', '>=': '<' } as const;
const TEXT_CALLS: ReadonlySet<string> = new Set(['contains', 'starts with', 'ends with']);
/** Years that both calendars have. */
const isUsual = (day: string): boolean => /^\d{4}-/.test(day) && !day.startsWith('0000');

class Writer {
  private readonly rows = new Map<string, Row>();
  /** The tables over whose rows the part of the condition that is being written is nested, the outermost first. */
  private readonly around: string[] = [];
  private readonly items: Row[] = [];
  private aliases = 0;

  constructor(
    private readonly checked: CheckedExpression,
    private readonly fields: readonly Field[],
    private readonly parameters: Parameters,
  ) {}

  /** True where the condition is true; false or null elsewhere. */
  holds(node: Node): string {
    return this.says(node, true);
  }

  /** True where the condition is false. */
  private fails(node: Node): string {
    return this.says(node, false);
  }

  private says(node: Node, truth: boolean): string {
    switch (node.kind) {
      case 'boolean':
        return String(node.value === truth);
      case 'null':
        return 'false';
      case 'all':
        return join(
          truth ? 'and' : 'or',
          node.of.map((part) => this.says(part, truth)),
        );
      case 'any':
        return join(
          truth ? 'or' : 'and',
          node.of.map((part) => this.says(part, truth)),
        );
      case 'if':
        return `(case when ${this.holds(node.test)} then ${this.says(node.then, truth)} else ${this.says(node.otherwise, truth)} end)`;
      case 'compare':
        return this.compares(node.left, truth ? node.operator : OPPOSITES[node.operator], node.right);
      case 'between': {
        const ends = [
          this.compares(node.value, truth ? '>=' : '<', node.low),
          this.compares(node.value, truth ? '<=' : '>', node.high),
        ];
        return join(truth ? 'and' : 'or', ends);
      }
      case 'in':
        return join(
          truth ? 'or' : 'and',
          node.tests.map((test) => this.test(node.value, test, truth)),
        );
      case 'quantified':
        return this.quantified(node, truth);
      case 'call':
        return this.call(node, truth);
      case 'name':
      case 'path': {
        const value = this.scalar(node);
        if (value.kind !== 'boolean') throw new Unsearchable(node.span);
        return truth ? value.sql : `not ${value.sql}`;
      }
      default:
        throw new Unsearchable(node.span);
    }
  }

  private call(node: Extract<Node, { kind: 'call' }>, truth: boolean): string {
    const [first, second] = node.of;
    if (node.name === 'not' && first) return truth ? this.fails(first) : this.holds(first);
    if (node.parameters || !first || !second) throw new Unsearchable(node.span);
    if (TEXT_CALLS.has(node.name) && node.of.length === 2) {
      const [text, part] = [this.text(first), this.text(second)];
      const found = {
        contains: `(strpos(${text}, ${part}) > 0)`,
        'starts with': `(starts_with(${text}, ${part}))`,
        'ends with': `(right(${text}, length(${part})) = ${part})`,
      }[node.name as 'contains'];
      return truth ? found : `(not ${found})`;
    }
    if (node.name === 'list contains' && second.kind === 'text') {
      const list = this.json(first, ['multi-choice']);
      return `(case when jsonb_typeof(${list}) = 'array' and ${list} <> '[]' then ${truth ? '' : 'not '}${list} ? ${this.parameters.add(second.value, 'text')} end)`;
    }
    throw new Unsearchable(node.span);
  }

  private text(node: Node): string {
    const value = this.scalar(node);
    if (value.kind !== 'text') throw new Unsearchable(node.span);
    return value.sql;
  }

  private compares(left: Node, operator: '=' | '!=' | '<' | '<=' | '>' | '>=', right: Node): string {
    const isEquality = operator === '=' || operator === '!=';
    if (isEquality && (right.kind === 'null' || left.kind === 'null'))
      return this.isEmpty(right.kind === 'null' ? left : right, operator === '=');
    // An order comparison with null is unknown (semantics, section 2): the condition neither holds nor fails.
    if (left.kind === 'null' || right.kind === 'null') return 'false';
    const codes = isEquality ? this.codes(left, operator === '=', right) : null;
    if (codes !== null) return codes;
    const [a, b] = [this.scalar(left), this.scalar(right)];
    if (a.kind !== b.kind) throw new Unsearchable(left.span);
    // Texts are equal whatever the order they are in; before and after is by code point.
    const [x, y] = isEquality ? [a.sql, b.sql] : [collated(a), collated(b)];
    if (b.isFilled) this.note(a, x);
    if (a.isFilled) this.note(b, y);
    if (operator === '!=') return `(${x} is distinct from ${y})`;
    if (operator === '=') return a.isFilled || b.isFilled ? `(${x} = ${y})` : `(${x} is not distinct from ${y})`;
    // Neither is before the other: booleans have no order.
    if (a.kind === 'boolean') throw new Unsearchable(left.span);
    return `(${x} ${operator} ${y})`;
  }

  /** A field of several options compared with a list of codes, which are equal in the same order; null for other comparisons. */
  private codes(left: Node, isEqual: boolean, right: Node): string | null {
    const [list, other] = left.kind === 'list' ? [left, right] : [right, left];
    if (list.kind !== 'list' || !list.of.every((item) => item.kind === 'text')) return null;
    const json = `coalesce(nullif(${this.json(other, ['multi-choice'])}, '[]'), 'null')`;
    const wanted = this.parameters.add(JSON.stringify(list.of.map((item) => item.value)), 'jsonb');
    return `(${json} ${isEqual ? '=' : '<>'} ${wanted})`;
  }

  /** Notes a field of the record itself, not of its rows. */
  private note({ isFilled, sql }: Scalar, compared: string): void {
    if (!isFilled && sql.includes('r.values ->>')) this.parameters.compared.add(compared);
  }

  private isEmpty(node: Node, truth: boolean): string {
    if (node.kind === 'null') return String(truth);
    const field = this.fieldOf(node);
    if (field && fieldSql(field.field, '') === null) {
      if (field.field.type === 'table') return String(!truth);
      const json = `(${field.values} -> '${field.field.key}')`;
      // Nothing, null, and a list of nothing are one.
      const empty = `coalesce(${json}, 'null') in ('null', '[]')`;
      return truth ? `(${empty})` : `(not ${empty})`;
    }
    return `(${this.scalar(node).sql} is ${truth ? '' : 'not '}null)`;
  }

  private test(value: Node, test: UnaryTest, truth: boolean): string {
    if (test.kind === 'holds') throw new Unsearchable(test.span);
    if (test.kind === 'compares') return this.compares(value, truth ? test.operator : OPPOSITES[test.operator], test.to);
    const { node } = test;
    if (node.kind === 'list')
      return join(
        truth ? 'or' : 'and',
        node.of.map((item) => this.test(value, { kind: 'matches', node: item, span: item.span }, truth)),
      );
    if (node.kind !== 'range') return this.compares(value, truth ? '=' : '!=', node);
    const low = node.includesLow ? '>=' : '>';
    const high = node.includesHigh ? '<=' : '<';
    const ends = [
      this.compares(value, truth ? low : OPPOSITES[low], node.low),
      this.compares(value, truth ? high : OPPOSITES[high], node.high),
    ];
    return join(truth ? 'and' : 'or', ends);
  }

  /** `some` holds where it holds for a row, and fails where it fails for each; `every` the other way about. */
  private quantified(node: Extract<Node, { kind: 'quantified' }>, truth: boolean): string {
    const [binding, ...more] = node.bindings;
    if (!binding || more.length > 0) throw new Unsearchable(node.span);
    const table = this.tableOf(binding.source);
    const { alias, from } = this.rowsOf(table);
    const before = this.rows.get(binding.name);
    this.rows.set(binding.name, { sql: `${alias}.value -> 'values'`, fields: table.fields });
    const isSome = node.which === 'some';
    this.around.push(table.json);
    const says = this.says(node.satisfies, truth);
    this.around.pop();
    const said = isSome === truth ? says : `(${says}) is not true`;
    if (before) this.rows.set(binding.name, before);
    else this.rows.delete(binding.name);
    const exists = `exists (select 1 from ${from} where ${said})`;
    return isSome === truth ? `(${exists})` : `(not ${exists})`;
  }

  /** The rows of a table, as a list of JSON values. */
  private rowsOf(table: { readonly json: string }): { readonly alias: string; readonly from: string } {
    this.aliases += 1;
    const loop = [...this.around, table.json];
    if (loop.length > 1) this.parameters.loops.set(loop.join(), loop);
    const alias = `t${this.aliases}`;
    return {
      alias,
      from: `jsonb_array_elements(case jsonb_typeof(${table.json}) when 'array' then ${table.json} else '[]' end) ${alias}`,
    };
  }

  private tableOf(node: Node): { readonly json: string; readonly fields: Fields } {
    const found = this.fieldOf(node);
    if (found?.field.type !== 'table') throw new Unsearchable(node.span);
    return { json: `(${found.values} -> '${found.field.key}')`, fields: found.field.fields };
  }

  private json(node: Node, types: readonly Field['type'][]): string {
    const found = this.fieldOf(node);
    if (!found || !types.includes(found.field.type)) throw new Unsearchable(node.span);
    return `(${found.values} -> '${found.field.key}')`;
  }

  /** The field that a node names, and where its value stands; null where it names none. */
  private fieldOf(node: Node): { readonly field: Field | SubField; readonly values: string } | null {
    if (node.kind === 'name') {
      const reference = this.checked.references.get(node);
      const row = reference?.kind === 'entry' ? this.items.at(-1) : null;
      const field = (row?.fields ?? this.fields).find(({ key }) => key === node.name);
      if (reference?.kind === 'local' || !field) return null;
      return { field, values: row?.sql ?? 'r.values' };
    }
    if (node.kind !== 'path' || node.of.kind !== 'name') return null;
    const row = this.rows.get(node.of.name) ?? (node.of.name === 'item' ? this.items.at(-1) : undefined);
    const field = row?.fields.find(({ key }) => key === node.name);
    return row && field ? { field, values: row.sql } : null;
  }

  private scalar(node: Node): Scalar {
    const filled = (kind: Kind, sql: string): Scalar => ({ kind, sql, isFilled: true });
    switch (node.kind) {
      case 'number':
        return filled('number', this.parameters.add(writeExact(node.value), 'numeric'));
      case 'text':
        return filled('text', this.parameters.add(node.value, 'text'));
      case 'boolean':
        return filled('boolean', String(node.value));
      case 'negate': {
        if (node.of.kind !== 'number') break;
        return filled('number', `(- ${this.scalar(node.of).sql})`);
      }
      case 'temporal':
        return this.temporal(node);
      case 'call':
        return this.number(node);
      case 'path':
      case 'name': {
        const found = this.fieldOf(node);
        if (found) {
          const value = fieldSql(found.field, found.values);
          if (!value) break;
          return { ...value, isFilled: false };
        }
        const fact = node.kind === 'path' && node.of.kind === 'name' && node.of.name === 'record' ? FACTS[node.name] : undefined;
        if (!fact || this.rows.has('record')) break;
        return { ...fact, isFilled: node.name !== 'track' && node.name !== 'due' };
      }
      default:
    }
    throw new Unsearchable(node.span);
  }

  private temporal({ text, span }: Extract<Node, { kind: 'temporal' }>): Scalar {
    const given = (kind: Kind, sql: string): Scalar => ({ kind, sql, isFilled: true });
    const date = readDate(text);
    if (date && isUsual(writeDate(date))) return given('date', this.parameters.add(writeDate(date), 'text'));
    const time = readTime(text);
    if (time) return given('time', this.parameters.add(time.ms - (time.offsetMs ?? 0), 'bigint'));
    // Literals of local times were folded to instants in the workspace's zone.
    const instant = readDateTime(text, 'UTC');
    if (!instant || !isUsual(writeInstant(instant.ms))) throw new Unsearchable(span);
    return given('date-time', this.parameters.add(writeInstant(instant.ms), 'timestamptz'));
  }

  /** How many rows a table has, or how many for which something holds; the total of a column as outlines write it. */
  private number(node: Extract<Node, { kind: 'call' }>): Scalar {
    const [of] = node.of;
    if (of && node.of.length === 1 && node.name === 'count') {
      const list = this.fieldOf(of);
      if (list?.field.type === 'multi-choice') {
        const json = `(${list.values} -> '${list.field.key}')`;
        const length = `(case jsonb_typeof(${json}) when 'array' then nullif(jsonb_array_length(${json}), 0)::numeric end)`;
        return { kind: 'number', sql: length, isFilled: false };
      }
      const filter = of.kind === 'filter' ? of : null;
      const table = this.tableOf(filter?.of ?? of);
      const { alias, from } = this.rowsOf(table);
      this.around.push(table.json);
      const where = filter ? this.within({ sql: `${alias}.value -> 'values'`, fields: table.fields }, filter.where) : 'true';
      this.around.pop();
      return { kind: 'number', sql: `(select count(*)::numeric from ${from} where ${where})`, isFilled: true };
    }
    const column = node.name === 'sum' && of?.kind === 'call' && of.name === 'concatenate' ? totalled(of) : null;
    if (!column) throw new Unsearchable(node.span);
    const table = this.tableOf(column.of);
    const field = table.fields.find(({ key }) => key === column.name);
    const { alias, from } = this.rowsOf(table);
    const cell = field && fieldSql(field, `(${alias}.value -> 'values')`);
    if (cell?.kind !== 'number') throw new Unsearchable(node.span);
    return { kind: 'number', sql: `(select coalesce(sum(${cell.sql}), 0) from ${from})`, isFilled: true };
  }

  private within(row: Row, where: Node): string {
    this.items.push(row);
    const said = this.holds(where);
    this.items.pop();
    return said;
  }
}

/** The column of `concatenate([0], table.column[item != null])`, the numbers of which are summed up. */
function totalled({ of }: Extract<Node, { kind: 'call' }>): Extract<Node, { kind: 'path' }> | null {
  const [zero, filter, ...more] = of;
  if (more.length > 0 || zero?.kind !== 'list' || zero.of.length !== 1 || filter?.kind !== 'filter') return null;
  const [only] = zero.of;
  const isZero = only?.kind === 'number' && writeExact(only.value) === '0';
  const { where } = filter;
  const isFilled =
    where.kind === 'compare' &&
    where.operator === '!=' &&
    where.left.kind === 'name' &&
    where.left.name === 'item' &&
    where.right.kind === 'null';
  return isZero && isFilled && filter.of.kind === 'path' ? filter.of : null;
}

/** Text in the order of its code points. */
const collated = ({ kind, sql }: Scalar): string => (kind === 'text' ? `${sql} collate "C"` : sql);

function join(by: 'and' | 'or', parts: readonly string[]): string {
  if (parts.length === 0) return String(by === 'and');
  return `(${parts.join(` ${by} `)})`;
}
