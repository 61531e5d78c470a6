import { parseWorkflow, type Workflow } from '@ypomet/core';

const plainOptions = [
  { code: 'loan', label: 'Loan' },
  { code: 'a b', label: 'Two words' },
  { code: 'gift', label: 'Gift', retired: true },
];

/** A workflow that has at least one of every kind of part, each named by others wherever that is possible. */
export function richWorkflow(): Workflow {
  const mail = (key: string) => ({
    kind: 'mail',
    key,
    name: `Mail ${key}`,
    when: 'kind = "loan"',
    to: [
      { key: 'staff', kind: 'role', role: 'clerk' },
      { key: 'asker', kind: 'submitter' },
      { key: 'other', kind: 'expression', expression: 'address' },
    ],
    subject: 'About {{title}}',
    body: 'Worth {{total}}, {{for o in objects return o.label}} at {{destination.name}}',
  });
  const read = parseWorkflow({
    format: 'ypomet.workflow/1',
    key: 'rich',
    name: 'Rich',
    roles: [
      { key: 'clerk', name: 'Clerk' },
      { key: 'chief', name: 'Chief' },
      { key: 'guest', name: 'Guest' },
    ],
    sections: [
      { key: 'main', name: 'Main' },
      { key: 'loose', name: 'Loose', page: true },
    ],
    fields: [
      {
        type: 'text',
        key: 'title',
        name: 'Title',
        section: 'main',
        treatment: 'optional',
        maxLength: 80,
        messages: { length: 'Shorter.' },
      },
      { type: 'text', key: 'address', name: 'Address', section: 'main', treatment: 'optional', default: 'actor.email' },
      { type: 'choice', key: 'kind', name: 'Kind', section: 'main', treatment: 'optional', options: plainOptions },
      { type: 'multi-choice', key: 'tags', name: 'Tags', section: 'loose', treatment: 'optional', options: plainOptions },
      {
        type: 'number',
        key: 'amount',
        name: 'Amount',
        section: 'main',
        scale: 2,
        treatment: 'optional',
        default: 'count(objects)',
      },
      { type: 'money', key: 'reserve', name: 'Reserve', section: 'loose', currency: 'EUR', confidentialTo: ['chief', 'clerk'] },
      { type: 'date', key: 'day', name: 'Day', section: 'loose', treatment: 'optional' },
      { type: 'member', key: 'keeper', name: 'Keeper', section: 'main', role: 'clerk', treatment: 'optional' },
      {
        type: 'table',
        key: 'objects',
        name: 'Objects',
        section: 'main',
        treatment: 'optional',
        fields: [
          { type: 'text', key: 'label', name: 'Label' },
          { type: 'number', key: 'worth', name: 'Worth', scale: 2, default: 'amount', total: true },
          { type: 'choice', key: 'state', name: 'State', options: plainOptions },
          { type: 'number', key: 'double', name: 'Double', scale: 2, expression: 'row.worth * 2' },
        ],
      },
      { type: 'number', key: 'total', name: 'Total', section: 'main', scale: 2, expression: 'sum(objects.worth) + amount' },
      { type: 'text', key: 'level', name: 'Level', section: 'main', expression: 'fee.level' },
      { type: 'note', key: 'hint', name: 'Hint', section: 'loose', text: 'Mind the gap.' },
    ],
    tracks: [
      { key: 'long', name: 'Long' },
      { key: 'short', name: 'Short' },
    ],
    stages: [
      { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['long', 'short'] },
      {
        key: 'work',
        name: 'Work',
        kind: 'work',
        tracks: ['long'],
        roles: ['clerk', 'chief'],
        assignment: { kind: 'member', expression: 'keeper' },
        onArrival: { sets: [{ field: 'title', value: 'title + "!"' }], deliveries: [mail('arrived')] },
      },
      {
        key: 'look',
        name: 'Look',
        kind: 'work',
        tracks: ['short'],
        roles: ['chief'],
        assignment: { kind: 'role', role: 'chief' },
      },
      { key: 'sort', name: 'Sort', kind: 'junction', tracks: ['long'] },
      { key: 'done', name: 'Done', kind: 'end', tracks: ['long', 'short'] },
    ],
    plan: {
      title: { ask: 'required', work: 'read-only' },
      kind: { ask: 'required' },
      objects: { ask: 'optional', work: 'optional' },
      'objects.state': { ask: 'hidden' },
      'objects.label': { ask: 'required', look: 'read-only' },
    },
    submitterSees: { title: 'shown', 'objects.worth': 'hidden', reserve: 'hidden' },
    adjustments: [
      { key: 'dear', name: 'Dear', when: 'total > 1000', stages: ['work'], fields: ['day', 'tags'], treatment: 'required' },
      { key: 'cells', name: 'Cells', when: 'row.worth > amount', fields: ['objects.state'], treatment: 'required' },
      {
        key: 'away',
        name: 'Away',
        when: 'kind in ("a b", "loan")',
        stages: ['ask', 'look'],
        sections: ['loose'],
        treatment: 'hidden',
      },
    ],
    decisionTables: [
      {
        key: 'fee',
        name: 'Fee',
        hitPolicy: 'F',
        inputs: [
          { key: 'worth', name: 'Worth', expression: 'total' },
          { key: 'sort', name: 'Sort', expression: 'kind' },
        ],
        outputs: [
          { key: 'level', name: 'Level', type: 'text', values: ['high', 'low'], default: '"low"' },
          { key: 'days', name: 'Days', type: 'number' },
        ],
        rules: [
          { key: 'first', when: { worth: '> amount', sort: '"loan"' }, then: { level: '"high"', days: 'amount' } },
          { key: 'rest', when: {}, then: { days: '2' } },
        ],
      },
    ],
    handOffs: [
      {
        key: 'send',
        name: 'Send',
        from: 'ask',
        branches: [
          { key: 'quick', name: 'Quick', when: 'kind = "gift" and count(objects) = 0', to: 'look', track: 'short' },
          { key: 'slow', name: 'Slow', when: 'some o in objects satisfies o.worth > amount and o.state = "loan"', to: 'work' },
        ],
        otherwise: { to: 'sort', track: 'long' },
        acknowledgements: [{ key: 'thanks', when: 'amount > 1', text: 'Thanks for {{title}}' }],
      },
      {
        key: 'pass',
        name: 'Pass',
        from: 'work',
        roles: ['chief'],
        offeredWhen: 'record.stage = "work" and record.track != "short"',
        sets: [
          { field: 'amount', value: 'amount + 1' },
          { key: 'again', field: 'amount', value: 'fee.days' },
        ],
        deliveries: [mail('passed')],
        otherwise: { to: 'done' },
        followUps: [
          {
            key: 'report',
            name: 'Report',
            workflow: 'rich',
            handOff: 'send',
            perRow: 'objects',
            when: 'row.state = "loan"',
            carried: [{ field: 'title', value: 'row.label' }],
          },
        ],
      },
      { key: 'close', name: 'Close', from: 'look', branches: [{ key: 'end', name: 'End', when: 'true', to: 'done' }] },
      { key: 'sorted', name: 'Sorted', from: 'sort', otherwise: { to: 'work' } },
    ],
    checks: [
      {
        key: 'enough',
        name: 'Enough',
        condition: 'amount > 0 or day = null',
        message: 'More.',
        stages: ['ask'],
        field: 'amount',
      },
    ],
  });
  if (!read.ok) throw new Error(JSON.stringify(read.diagnostics));
  return read.value;
}
