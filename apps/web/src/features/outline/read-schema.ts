type Loose = Readonly<Record<string, unknown>>;

const isObject = (value: unknown): value is Loose => typeof value === 'object' && value !== null && !Array.isArray(value);
const MAX_DEPTH = 6;

/** `isLoanApproved` and `is_loan_approved` as people write it: "Is loan approved". */
function inWords(key: string): string {
  const words = key
    .replace(/[_-]+/g, ' ')
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .trim()
    .toLowerCase();
  return words.charAt(0).toUpperCase() + words.slice(1);
}

const listOf = (values: unknown): string =>
  Array.isArray(values) ? values.filter((value) => typeof value === 'string' || typeof value === 'number').join(', ') : '';

/** The type word behind a field's name; null for what is no single field. */
function typeWord(schema: Loose): string | null {
  const type = Array.isArray(schema.type) ? schema.type.find((own) => own !== 'null') : schema.type;
  if (Array.isArray(schema.enum)) return `choice: ${listOf(schema.enum)}`;
  if (type === 'boolean') return 'yes/no';
  if (type === 'integer' || type === 'number') return 'number';
  if (type === 'array') {
    const items = isObject(schema.items) ? schema.items : {};
    return Array.isArray(items.enum) ? `several choices: ${listOf(items.enum)}` : null;
  }
  if (type === 'object') return null;
  const formats: Readonly<Record<string, string>> = { date: 'date', time: 'time', 'date-time': 'date and time' };
  const format = typeof schema.format === 'string' ? formats[schema.format] : undefined;
  return format ?? (typeof schema.maxLength === 'number' && schema.maxLength > 500 ? 'long text' : 'text');
}

/**
 * The properties of a JSON Schema (2020-12, as far as its `type`, `title`, `enum`, `format` and `$ref` within the document go) as
 * lines of names and types, those of objects within it too. What repeats (an array of objects) is a table; what repeats within it is
 * left out, as tables don't hold tables.
 */
export function linesOfSchema(schema: unknown): readonly string[] {
  const root = isObject(schema) ? schema : {};
  const resolve = (own: unknown): Loose => {
    if (!isObject(own)) return {};
    const steps = typeof own.$ref === 'string' && own.$ref.startsWith('#/') ? own.$ref.slice(2).split('/') : null;
    if (!steps) return own;
    const target = steps.reduce<unknown>(
      (at, step) => (isObject(at) ? at[decodeURIComponent(step).replace(/~1/g, '/').replace(/~0/g, '~')] : undefined),
      root,
    );
    return isObject(target) ? { ...target, ...own } : own;
  };
  const rowsOf = (property: Loose): Loose | null => {
    const items = property.type === 'array' ? resolve(property.items) : {};
    return isObject(items.properties) ? items : null;
  };
  const visit = (own: Loose, depth: number, isInRows = false): readonly string[] =>
    Object.entries(isObject(own.properties) ? own.properties : {}).flatMap(([key, inner]) => {
      const property = resolve(inner);
      const name = (typeof property.title === 'string' && property.title.trim()) || inWords(key);
      const word = typeWord(property);
      const line = `${isInRows ? '  ' : ''}${name.replace(/[;:\n\t]/g, ' ')}`;
      if (word !== null) return [`${line}; ${word}`];
      if (depth >= MAX_DEPTH) return [];
      if (isObject(property.properties)) return visit(property, depth + 1, isInRows);
      const columns = isInRows ? [] : visit(rowsOf(property) ?? {}, depth + 1, true);
      return columns.length > 0 ? [`${line}; table`, ...columns] : [];
    });
  return visit(resolve(root), 0);
}
