/** The later half of the demo's loans: insured, agreed, lent, brought back. */

/** What a loan is insured as, and at which rate of its value. */
export const INSURANCE = {
  key: 'insuring',
  name: 'Insurance',
  hitPolicy: 'F',
  inputs: [
    { key: 'value', name: 'Total value', expression: 'totalValue' },
    { key: 'venue', name: 'Venue country', expression: 'venue' },
    { key: 'fragile', name: 'Any fragile', expression: 'anyFragile' },
  ],
  outputs: [
    { key: 'class', name: 'Class', type: 'text', values: ['basic', 'standard', 'special'] },
    { key: 'rate', name: 'Rate', type: 'number' },
  ],
  rules: [
    { key: 'dear', when: { value: '> 100000' }, then: { class: '"special"', rate: '0.0035' } },
    { key: 'farAndFragile', when: { venue: '"overseas"', fragile: 'true' }, then: { class: '"special"', rate: '0.0030' } },
    { key: 'far', when: { venue: '"overseas"' }, then: { class: '"standard"', rate: '0.0022' } },
    { key: 'fragile', when: { fragile: 'true' }, then: { class: '"standard"', rate: '0.0018' } },
    { key: 'rest', when: {}, then: { class: '"basic"', rate: '0.0012' } },
  ],
};

export const LATER_FIELDS = [
  {
    type: 'choice',
    key: 'insuranceClass',
    name: 'Insurance class',
    short: 'Class',
    section: 'insurance',
    treatment: 'hidden',
    options: [
      { code: 'basic', label: 'Basic' },
      { code: 'standard', label: 'Standard' },
      { code: 'special', label: 'Special' },
    ],
    expression: 'insuring.class',
  },
  {
    type: 'money',
    key: 'premium',
    name: 'Premium',
    section: 'insurance',
    treatment: 'hidden',
    currency: 'EUR',
    expression: 'decimal(totalValue * insuring.rate, 2)',
  },
  {
    type: 'text',
    key: 'policyNumber',
    name: 'Number of the policy',
    short: 'Policy',
    section: 'insurance',
    treatment: 'hidden',
    maxLength: 40,
  },
  { type: 'sign-off', key: 'agreed', name: 'Terms agreed', section: 'insurance', treatment: 'hidden' },
  { type: 'date', key: 'leftOn', name: 'Left the house on', section: 'insurance', treatment: 'hidden', default: 'fromDate' },
  { type: 'date', key: 'returnedOn', name: 'Brought back on', section: 'broughtBack', treatment: 'hidden', default: 'today()' },
  { type: 'yes-no', key: 'damaged', name: 'Something is damaged', section: 'broughtBack', treatment: 'hidden' },
  { type: 'long-text', key: 'damage', name: 'What is damaged', section: 'broughtBack', treatment: 'hidden', maxLength: 4000 },
];

export const LATER_STAGES = [
  { key: 'insurance', name: 'Insurance', kind: 'work', tracks: ['exhibition'], roles: ['registrar'] },
  {
    key: 'agreement',
    name: 'Agreement',
    kind: 'work',
    tracks: ['exhibition'],
    notes: 'The borrower signs; without roles the stage is theirs.',
  },
  { key: 'onLoan', name: 'On loan', kind: 'work', tracks: ['exhibition'], roles: ['registrar'] },
  { key: 'returnCheck', name: 'Return check', kind: 'work', tracks: ['exhibition'], roles: ['conservator'] },
];

export const LATER_PLAN = {
  insuranceClass: { insurance: 'read-only', agreement: 'read-only', onLoan: 'read-only' },
  premium: { insurance: 'read-only', agreement: 'read-only' },
  policyNumber: { insurance: 'required', agreement: 'read-only', onLoan: 'read-only' },
  agreed: { agreement: 'required', onLoan: 'read-only', closed: 'read-only' },
  leftOn: { onLoan: 'required', returnCheck: 'read-only', closed: 'read-only' },
  returnedOn: { returnCheck: 'required', closed: 'read-only' },
  damaged: { returnCheck: 'required', closed: 'read-only' },
  damage: { returnCheck: 'optional', closed: 'hidden' },
};

export const LATER_HAND_OFFS = [
  { key: 'insured', name: 'Insured', from: 'insurance', otherwise: { to: 'agreement' } },
  { key: 'sign', name: 'Agree to the terms', from: 'agreement', otherwise: { to: 'onLoan' } },
  { key: 'withdraw', name: 'Withdraw the request', from: 'agreement', checking: 'none', otherwise: { to: 'closed' } },
  { key: 'returned', name: 'It is back', from: 'onLoan', otherwise: { to: 'returnCheck' } },
  { key: 'settled', name: 'All is well', from: 'returnCheck', offeredWhen: 'damaged != true', otherwise: { to: 'closed' } },
  {
    key: 'claim',
    name: 'Report the damage',
    from: 'returnCheck',
    offeredWhen: 'damaged = true',
    otherwise: { to: 'closed' },
    deliveries: [
      {
        kind: 'mail',
        key: 'claim',
        name: 'Damage to the director',
        to: [{ kind: 'role', role: 'director' }],
        subject: 'Damage after loan {{record.number}}',
        body: 'Policy {{policyNumber}}, insured value {{totalValue}}.\n\n{{damage}}\n',
      },
    ],
  },
];
