/**
 * What a definition is made of: which of its properties are lists of parts, which name other parts by key, and which are
 * expressions. This is the only list of that kind. The walk, invariants, where-used, rename, delete and differences go by it;
 * properties that aren't named here are plain values. `shape.test.ts` holds it against the model.
 */

export const PART_KINDS = [
  'workflow',
  'role',
  'section',
  'track',
  'field',
  'sub-field',
  'option',
  'stage',
  'arrival',
  'reminder',
  'adjustment',
  'decision-table',
  'input',
  'output',
  'rule',
  'hand-off',
  'branch',
  'delivery',
  'recipient',
  'header',
  'property',
  'answer',
  'set',
  'acknowledgement',
  'follow-up',
  'carried',
  'check',
  'test',
  'step',
] as const;
export type PartKind = (typeof PART_KINDS)[number];

/** What a key in a definition can name. `field-path`: a field or a table's sub-field. Inputs and outputs are those of a rule's table. */
export type KeyTarget =
  | 'role'
  | 'section'
  | 'track'
  | 'stage'
  | 'hand-off'
  | 'field'
  | 'table-field'
  | 'field-path'
  | 'input'
  | 'output';

/** What happens to a single key when what it names is deleted: the key becomes null, what it stands in does, or the part goes. */
type WhenGone = 'clear' | 'clear-around' | 'delete-part';
/** What an emptied list of keys means: nothing special, that its part goes too, or that the last key can't be taken out. */
type WhenEmptied = 'stays' | 'delete-part' | 'refuse';

/** How an expression's text is to be read. `tests`: a decision table's cell. `template`: text with `{{expressions}}`. */
export type Reading = 'value' | 'condition' | 'template' | 'tests';

export type Property =
  | { readonly is: 'parts'; readonly part: PartKind }
  /** One part within another, named by the property. */
  | { readonly is: 'part'; readonly part: PartKind }
  /** An object, or null, that is no part of its own. */
  | { readonly is: 'nested'; readonly properties: Shape }
  | { readonly is: 'key'; readonly of: KeyTarget; readonly whenGone: WhenGone }
  | { readonly is: 'keys'; readonly of: KeyTarget; readonly whenEmptied: WhenEmptied }
  | { readonly is: 'text'; readonly reads: Reading }
  /** Texts by the key of a column of the same table. */
  | { readonly is: 'texts'; readonly reads: Reading; readonly by: 'input' | 'output' }
  /** Values by field path; with `byStage`, by stage within. */
  | { readonly is: 'cells'; readonly byStage: boolean };

export type Shape = Readonly<Record<string, Property>>;

const parts = (part: PartKind): Property => ({ is: 'parts', part });
const key = (of: KeyTarget, whenGone: WhenGone): Property => ({ is: 'key', of, whenGone });
const keys = (of: KeyTarget, whenEmptied: WhenEmptied): Property => ({ is: 'keys', of, whenEmptied });
const text = (reads: Reading): Property => ({ is: 'text', reads });
const nested = (properties: Shape): Property => ({ is: 'nested', properties });

const ENTERED: Shape = {
  expression: text('value'),
  default: text('value'),
  options: parts('option'),
  role: key('role', 'clear'),
};
const SENT: Shape = { sets: parts('set'), deliveries: parts('delivery') };
const DESTINATION: Shape = { to: key('stage', 'clear-around'), track: key('track', 'clear') };

export const SHAPES: Readonly<Record<PartKind, Shape>> = {
  workflow: {
    roles: parts('role'),
    sections: parts('section'),
    fields: parts('field'),
    tracks: parts('track'),
    stages: parts('stage'),
    plan: { is: 'cells', byStage: true },
    submitterSees: { is: 'cells', byStage: false },
    adjustments: parts('adjustment'),
    decisionTables: parts('decision-table'),
    handOffs: parts('hand-off'),
    checks: parts('check'),
    tests: parts('test'),
  },
  role: {},
  section: {},
  track: {},
  field: {
    ...ENTERED,
    section: key('section', 'delete-part'),
    // Without readers a field is open to all who see the record: the last one is never taken out on the way.
    confidentialTo: keys('role', 'refuse'),
    fields: parts('sub-field'),
  },
  'sub-field': ENTERED,
  option: {},
  stage: {
    tracks: keys('track', 'refuse'),
    roles: keys('role', 'stays'),
    assignment: nested({
      role: key('role', 'clear-around'),
      expression: text('value'),
      otherwise: key('role', 'clear'),
    }),
    onArrival: { is: 'part', part: 'arrival' },
    due: text('value'),
    reminders: parts('reminder'),
  },
  arrival: SENT,
  reminder: { deliveries: parts('delivery') },
  adjustment: {
    when: text('condition'),
    // No stages means all of them.
    stages: keys('stage', 'delete-part'),
    fields: keys('field-path', 'stays'),
    sections: keys('section', 'stays'),
  },
  'decision-table': { inputs: parts('input'), outputs: parts('output'), rules: parts('rule') },
  input: { expression: text('value') },
  output: { default: text('value') },
  rule: { when: { is: 'texts', reads: 'tests', by: 'input' }, then: { is: 'texts', reads: 'value', by: 'output' } },
  'hand-off': {
    ...SENT,
    from: key('stage', 'delete-part'),
    // No roles means whoever may act at the stage.
    roles: keys('role', 'refuse'),
    offeredWhen: text('condition'),
    branches: parts('branch'),
    otherwise: nested(DESTINATION),
    acknowledgements: parts('acknowledgement'),
    followUps: parts('follow-up'),
  },
  branch: { when: text('condition'), to: key('stage', 'delete-part'), track: key('track', 'clear') },
  delivery: {
    when: text('condition'),
    to: parts('recipient'),
    cc: parts('recipient'),
    bcc: parts('recipient'),
    replyTo: parts('recipient'),
    senderName: text('template'),
    subject: text('template'),
    body: text('template'),
    // Fewer readers: it holds less.
    readsAs: keys('role', 'stays'),
    address: text('template'),
    headers: parts('header'),
    properties: parts('property'),
    answers: parts('answer'),
    folder: text('template'),
    fileName: text('template'),
  },
  header: { value: text('template') },
  property: { value: text('value') },
  answer: { field: key('field', 'delete-part') },
  recipient: { role: key('role', 'delete-part'), expression: text('value') },
  set: { field: key('field', 'delete-part'), value: text('value') },
  acknowledgement: { when: text('condition'), text: text('template'), next: text('template') },
  'follow-up': {
    when: text('condition'),
    perRow: key('table-field', 'delete-part'),
    carried: parts('carried'),
    // A role is the target workflow's.
    assignee: nested({ expression: text('value') }),
  },
  // The field is the target workflow's.
  carried: { value: text('value') },
  check: { condition: text('condition'), stages: keys('stage', 'delete-part'), field: key('field', 'clear') },
  test: {
    intake: key('stage', 'delete-part'),
    at: key('stage', 'clear'),
    start: { is: 'cells', byStage: false },
    steps: parts('step'),
  },
  step: {
    handOff: key('hand-off', 'delete-part'),
    role: key('role', 'clear'),
    entered: { is: 'cells', byStage: false },
    to: key('stage', 'clear'),
    treatments: { is: 'cells', byStage: false },
  },
};

/** The property of a part that names it within its list. */
export const keyPropertyOf = (kind: PartKind): 'key' | 'code' => (kind === 'option' ? 'code' : 'key');
