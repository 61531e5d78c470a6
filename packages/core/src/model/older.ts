/**
 * Brings what was written when the model had less in it into its present shape, before anything looks at it. A file may lack
 * what came since; a stored definition was read in full once, so what it lacks is filled in here and nothing is looked at twice.
 */

type Loose = Readonly<Record<string, unknown>>;

const isObject = (value: unknown): value is Loose => typeof value === 'object' && value !== null && !Array.isArray(value);

/** Each object of a list changed; the same list when none is. */
function each(list: unknown, change: (item: Loose) => Loose): unknown {
  if (!Array.isArray(list)) return list;
  const items = list.map((item: unknown) => (isObject(item) ? change(item) : item));
  return items.every((item, index) => item === list[index]) ? list : items;
}

/** The message of a pattern was once a property of its own. */
function gatherMessages(field: Loose): Loose {
  const { patternMessage, ...rest } = field;
  if (patternMessage === undefined) return field;
  const messages = isObject(rest.messages) ? rest.messages : {};
  return { ...rest, messages: patternMessage === '' ? messages : { pattern: patternMessage, ...messages } };
}

const withinFields = (definition: Loose, change: (field: Loose, isColumn: boolean) => Loose): Loose => {
  const fields = each(definition.fields, (field) => {
    const own = change(field, false);
    const columns = each(own.fields, (column) => change(column, true));
    return columns === own.fields ? own : { ...own, fields: columns };
  });
  return fields === definition.fields ? definition : { ...definition, fields };
};

/** A definition in which nothing is called by a name of before. Anything else is left as it is: its shape is looked at after this. */
export const renameOlder = (definition: unknown): unknown =>
  isObject(definition) ? withinFields(definition, gatherMessages) : definition;

const NAMED: Loose = { short: '', messages: {} };
const FILLED: Loose = { default: null };
const WITHOUT_DEFAULT: ReadonlySet<unknown> = new Set(['file', 'table', 'sign-off', 'note']);

/** What came to fields since, by their type. */
/** How values of a type were shown before that could be chosen. */
const LAYOUTS: Readonly<Record<string, string>> = { table: 'table', choice: 'list', 'yes-no': 'row' };

function newOfField({ type }: Loose, isColumn: boolean): Loose {
  return {
    ...NAMED,
    ...(WITHOUT_DEFAULT.has(type) ? {} : FILLED),
    ...(type === 'file' ? { kinds: [] } : {}),
    ...(Object.hasOwn(LAYOUTS, String(type)) ? { layout: LAYOUTS[String(type)] } : {}),
    ...(isColumn && (type === 'number' || type === 'money') ? { total: false } : {}),
  };
}

const fill = (object: Loose, since: Loose): Loose =>
  Object.keys(since).every((name) => Object.hasOwn(object, name)) ? object : { ...since, ...object };

const NEW_OF_MAIL: Loose = {
  outlet: 'mail',
  cc: [],
  bcc: [],
  replyTo: [],
  senderName: '',
  attach: 'nothing',
  attachFiles: false,
};

const fillDeliveries = (owner: Loose): Loose => {
  const deliveries = each(owner.deliveries, (one) => (one.kind === 'mail' ? fill(one, NEW_OF_MAIL) : one));
  return deliveries === owner.deliveries ? owner : { ...owner, deliveries };
};

/** What came to a stage since. */
function newOfStage(stage: Loose): Loose {
  const { onArrival, assignment } = stage;
  const arrival = isObject(onArrival) ? fillDeliveries(onArrival) : onArrival;
  const assigned = isObject(assignment)
    ? fill(assignment, { ...(assignment.kind === 'member' ? {} : { share: 'everybody' }), otherwise: null })
    : assignment;
  const own = arrival === onArrival && assigned === assignment ? stage : { ...stage, assignment: assigned, onArrival: arrival };
  return fill(own, { due: null, reminders: [] });
}

/** What came to a hand-off since. */
function newOfHandOff(handOff: Loose): Loose {
  const own = fill(fillDeliveries(handOff), {
    followUpPolicy: 'all',
    refreshesCarried: false,
    byClock: null,
    emphasis: 'plain',
    confirmation: '',
    notYet: '',
  });
  const followUps = each(own.followUps, (one) => fill(one, { carriesFiles: false, assignee: null }));
  const acknowledgements = each(own.acknowledgements, (one) => fill(one, { name: '', next: '', mailed: false }));
  return followUps === own.followUps && acknowledgements === own.acknowledgements ? own : { ...own, followUps, acknowledgements };
}

/** A stored definition with what came to the model since. */
export function fillOlder(stored: Loose): Loose {
  const named = withinFields(renameOlder(stored) as Loose, (field, isColumn) => fill(field, newOfField(field, isColumn)));
  const [noted, tracks] = [named.stages, named.tracks].map((list) => each(list, (part) => fill(part, { notes: '' })));
  const stages = each(noted, newOfStage);
  const handOffs = each(named.handOffs, newOfHandOff);
  const decisionTables = each(named.decisionTables, (table) => {
    const rules = each(table.rules, (rule) => fill(rule, { notes: '' }));
    return rules === table.rules ? table : { ...table, rules };
  });
  const isSame =
    stages === named.stages && tracks === named.tracks && decisionTables === named.decisionTables && handOffs === named.handOffs;
  const filled = isSame ? named : { ...named, stages, tracks, decisionTables, handOffs };
  return fill(filled, { submitterSees: {}, tests: [] });
}
