/**
 * Keys of parts that people don't name: set-values, recipients, inputs and rules of decision tables. A file may leave them
 * out, and files of before these parts had keys do. They are filled in before anything looks at the definition, from what
 * the part is about or its position, and are kept from then on: whatever names such a part names it by its key.
 */

type Loose = Readonly<Record<string, unknown>>;

const isObject = (value: unknown): value is Loose => typeof value === 'object' && value !== null && !Array.isArray(value);

/** Gives each item of a list that has no key one that no other has. The same list when nothing is missing. */
function keyed(list: unknown, nameOf: (item: Loose) => unknown, fallback: string): unknown {
  if (!Array.isArray(list)) return list;
  if (list.every((item) => !isObject(item) || item.key !== undefined)) return list;
  const taken = new Set(list.flatMap((item) => (isObject(item) && typeof item.key === 'string' ? [item.key] : [])));
  return list.map((item: unknown, index) => {
    if (!isObject(item) || item.key !== undefined) return item;
    const name = nameOf(item);
    const base = typeof name === 'string' && name !== '' ? name : `${fallback}${index + 1}`;
    let key = base;
    for (let number = 2; taken.has(key); number++) key = `${base}_${number}`;
    taken.add(key);
    return { ...item, key };
  });
}

/** An object with some properties changed; the same object when none is. */
function changed(object: unknown, changes: Readonly<Record<string, (value: unknown) => unknown>>): unknown {
  if (!isObject(object)) return object;
  let result: Loose = object;
  for (const [name, change] of Object.entries(changes)) {
    if (!Object.hasOwn(object, name)) continue;
    const value = change(object[name]);
    if (value !== object[name]) result = { ...result, [name]: value };
  }
  return result;
}

/** Each item of a list changed; the same list when none is. */
function each(list: unknown, change: (item: unknown) => unknown): unknown {
  if (!Array.isArray(list)) return list;
  const items = list.map(change);
  return items.every((item, index) => item === list[index]) ? list : items;
}

const keySets = (list: unknown): unknown => keyed(list, (set) => set.field, 'set');
const numbered =
  (fallback: string) =>
  (list: unknown): unknown =>
    keyed(list, () => null, fallback);
const keyDeliveries = (list: unknown): unknown =>
  each(list, (one) =>
    changed(one, {
      to: numbered('to'),
      cc: numbered('cc'),
      bcc: numbered('bcc'),
      replyTo: numbered('replyTo'),
      headers: numbered('header'),
      properties: numbered('property'),
      answers: numbered('answer'),
    }),
  );

/** Cells of a rule once stood in a list, in the order of the table's columns. */
const cellsByColumn =
  (columns: readonly unknown[]) =>
  (cells: unknown): unknown => {
    if (!Array.isArray(cells)) return cells;
    const entries = cells.map((cell: unknown, index): [string, unknown] => {
      const column = columns[index];
      return [isObject(column) && typeof column.key === 'string' ? column.key : `column${index + 1}`, cell];
    });
    return Object.fromEntries(entries.filter(([, cell]) => cell !== '-'));
  };

/** A decision table in which every column and rule has a key, and rules name their cells by these. */
export function fillTableKeys(table: unknown): unknown {
  const named = changed(table, {
    inputs: (inputs) => keyed(inputs, () => null, 'input'),
    rules: (rules) => keyed(rules, () => null, 'rule'),
  });
  if (!isObject(named)) return named;
  const [inputs, outputs] = [named.inputs, named.outputs].map((list) => (Array.isArray(list) ? (list as unknown[]) : []));
  const cells = { when: cellsByColumn(inputs ?? []), then: cellsByColumn(outputs ?? []) };
  return changed(named, { rules: (rules) => each(rules, (rule) => changed(rule, cells)) });
}

/** A definition in which every part has a key. Anything else is left as it is: its shape is looked at after this. */
export const fillGivenKeys = (definition: unknown): unknown =>
  changed(definition, {
    stages: (stages) =>
      each(stages, (stage) =>
        changed(stage, {
          onArrival: (own) => changed(own, { sets: keySets, deliveries: keyDeliveries }),
          reminders: (list) => each(list, (one) => changed(one, { deliveries: keyDeliveries })),
        }),
      ),
    decisionTables: (tables) => each(tables, fillTableKeys),
    tests: (tests) => each(tests, (test) => changed(test, { steps: (steps) => keyed(steps, () => null, 'step') })),
    handOffs: (handOffs) =>
      each(handOffs, (handOff) =>
        changed(handOff, {
          sets: keySets,
          deliveries: keyDeliveries,
          followUps: (list) => each(list, (one) => changed(one, { carried: keySets })),
        }),
      ),
  });
