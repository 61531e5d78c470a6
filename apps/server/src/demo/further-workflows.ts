import { readWorkflow, type Workflow } from '@ypomet/core';

function read(definition: object): Workflow {
  const result = readWorkflow(definition as never);
  if (!result.ok) throw new Error(`A workflow of the demo is not well formed: ${JSON.stringify(result.diagnostics)}`);
  return result.value;
}

const CONDITION_REPORT = {
  format: 'ypomet.workflow/1',
  key: 'conditionReport',
  name: 'Condition report',
  description: 'One for each object of a loan, before it leaves and when it returns.',
  numbering: 'CR-{year}-{number:4}',
  roles: [
    { key: 'registrar', name: 'Registrar', register: 'shown' },
    { key: 'conservator', name: 'Conservator', register: 'shown' },
  ],
  sections: [
    { key: 'object', name: 'Object' },
    { key: 'condition', name: 'Condition' },
  ],
  fields: [
    { type: 'reference', key: 'loan', name: 'Loan', section: 'object', treatment: 'read-only', workflow: 'objectLoan' },
    { type: 'text', key: 'title', name: 'Title', section: 'object', treatment: 'read-only', maxLength: 200 },
    {
      type: 'choice',
      key: 'material',
      name: 'Material',
      section: 'object',
      treatment: 'read-only',
      options: ['paper', 'textile', 'metal', 'glass', 'wood', 'stone'].map((code) => ({
        code,
        label: `${code.charAt(0).toUpperCase()}${code.slice(1)}`,
      })),
    },
    { type: 'date', key: 'seenOn', name: 'Looked at on', section: 'condition', treatment: 'read-only', default: 'today()' },
    {
      type: 'choice',
      key: 'state',
      name: 'State',
      section: 'condition',
      treatment: 'read-only',
      options: [
        { code: 'good', label: 'Good' },
        { code: 'fair', label: 'Fair' },
        { code: 'poor', label: 'Poor' },
      ],
    },
    {
      type: 'table',
      key: 'marks',
      name: 'Marks and losses',
      section: 'condition',
      treatment: 'read-only',
      layout: 'cards',
      fields: [
        { type: 'text', key: 'where', name: 'Where' },
        { type: 'text', key: 'what', name: 'What' },
        { type: 'number', key: 'millimetres', name: 'Size', unit: 'mm', min: '0' },
      ],
    },
    {
      type: 'file',
      key: 'pictures',
      name: 'Pictures',
      section: 'condition',
      treatment: 'read-only',
      kinds: ['image/*'],
      maxCount: 20,
    },
    {
      type: 'long-text',
      key: 'treatment',
      name: 'Treatment advised',
      section: 'condition',
      treatment: 'hidden',
      maxLength: 4000,
    },
    { type: 'sign-off', key: 'signed', name: 'Signed', section: 'condition', treatment: 'hidden' },
  ],
  tracks: [{ key: 'main', name: 'Report' }],
  stages: [
    { key: 'begun', name: 'Begun', kind: 'intake', tracks: ['main'], roles: ['registrar'] },
    { key: 'lookedAt', name: 'Looked at', kind: 'work', tracks: ['main'], roles: ['conservator'] },
    { key: 'filed', name: 'Filed', kind: 'end', tracks: ['main'], roles: ['registrar', 'conservator'] },
  ],
  plan: {
    loan: { begun: 'required' },
    title: { begun: 'required' },
    material: { begun: 'required' },
    seenOn: { begun: 'hidden', lookedAt: 'required' },
    state: { begun: 'hidden', lookedAt: 'required' },
    marks: { begun: 'hidden', lookedAt: 'optional' },
    pictures: { begun: 'hidden', lookedAt: 'nudged' },
    treatment: { lookedAt: 'optional', filed: 'read-only' },
    signed: { lookedAt: 'required', filed: 'read-only' },
  },
  adjustments: [
    {
      key: 'poor',
      name: 'A poor state needs advice',
      when: 'state = "poor"',
      stages: ['lookedAt'],
      fields: ['treatment'],
      treatment: 'required',
    },
  ],
  handOffs: [
    { key: 'begin', name: 'Ask for the report', from: 'begun', emphasis: 'primary', otherwise: { to: 'lookedAt' } },
    { key: 'file', name: 'File it', from: 'lookedAt', emphasis: 'primary', otherwise: { to: 'filed' } },
  ],
};

const TRANSPORT_BOOKING = {
  format: 'ypomet.workflow/1',
  key: 'transportBooking',
  name: 'Transport booking',
  description: 'Crates, courier and carrier for one journey.',
  numbering: 'T-{year}-{number:3}',
  roles: [
    { key: 'registrar', name: 'Registrar', register: 'all' },
    { key: 'director', name: 'Director', register: 'all' },
  ],
  sections: [
    { key: 'journey', name: 'Journey' },
    { key: 'freight', name: 'Freight' },
    { key: 'booking', name: 'Booking' },
  ],
  fields: [
    { type: 'reference', key: 'loan', name: 'Loan', section: 'journey', treatment: 'read-only', workflow: 'objectLoan' },
    { type: 'text', key: 'from', name: 'From', section: 'journey', treatment: 'read-only', default: '"Linden Regional Museum"' },
    { type: 'text', key: 'to', name: 'To', section: 'journey', treatment: 'read-only' },
    { type: 'date-time', key: 'pickUp', name: 'Picked up at', section: 'journey', treatment: 'read-only' },
    {
      type: 'table',
      key: 'crates',
      name: 'Crates',
      section: 'freight',
      treatment: 'read-only',
      fields: [
        { type: 'text', key: 'label', name: 'Label' },
        { type: 'number', key: 'weight', name: 'Weight', unit: 'kg', scale: 1, min: '0', total: true },
        { type: 'yes-no', key: 'climate', name: 'Climate crate', short: 'Climate' },
      ],
    },
    {
      type: 'number',
      key: 'weight',
      name: 'Weight in all',
      section: 'freight',
      treatment: 'read-only',
      unit: 'kg',
      scale: 1,
      expression: 'sum(concatenate([0], crates.weight[item != null]))',
    },
    {
      type: 'yes-no',
      key: 'courier',
      name: 'A courier goes along',
      section: 'booking',
      treatment: 'read-only',
      default: 'false',
    },
    { type: 'text', key: 'carrier', name: 'Carrier', section: 'booking', treatment: 'hidden', maxLength: 120 },
    { type: 'money', key: 'price', name: 'Price', section: 'booking', treatment: 'hidden', currency: 'EUR', min: '0' },
  ],
  tracks: [{ key: 'main', name: 'Booking' }],
  stages: [
    { key: 'asked', name: 'Asked for', kind: 'intake', tracks: ['main'], roles: ['registrar'] },
    { key: 'offer', name: 'Offer', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'approval', name: 'Approval', kind: 'work', tracks: ['main'], roles: ['director'] },
    { key: 'booked', name: 'Booked', kind: 'end', tracks: ['main'] },
    { key: 'dropped', name: 'Dropped', kind: 'end', tracks: ['main'] },
  ],
  plan: {
    loan: { asked: 'optional' },
    from: { asked: 'required' },
    to: { asked: 'required' },
    pickUp: { asked: 'optional', offer: 'required' },
    crates: { asked: 'optional', offer: 'required' },
    courier: { asked: 'required', offer: 'optional' },
    carrier: { offer: 'required', approval: 'read-only', booked: 'read-only' },
    price: { offer: 'required', approval: 'read-only', booked: 'read-only' },
  },
  adjustments: [],
  handOffs: [
    { key: 'ask', name: 'Ask for offers', from: 'asked', emphasis: 'primary', otherwise: { to: 'offer' } },
    {
      key: 'book',
      name: 'Book it',
      from: 'offer',
      emphasis: 'primary',
      branches: [
        {
          key: 'dear',
          name: 'Dear, or with a courier',
          when: 'price > 2500 or (courier = true and price > 1000)',
          to: 'approval',
        },
      ],
      otherwise: { to: 'booked' },
    },
    { key: 'approve', name: 'Approve', from: 'approval', emphasis: 'primary', otherwise: { to: 'booked' } },
    { key: 'drop', name: 'Drop it', from: 'approval', checking: 'none', emphasis: 'final', otherwise: { to: 'dropped' } },
  ],
};

/** The demo's workflows beside the loans. */
export const makeFurtherWorkflows = (): readonly Workflow[] => [read(CONDITION_REPORT), read(TRANSPORT_BOOKING)];
