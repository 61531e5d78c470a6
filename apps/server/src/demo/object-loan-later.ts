/** What a loan opens once it is agreed. */
export const AGREED_FOLLOW_UPS = [
  {
    key: 'conditionReport',
    name: 'Condition report',
    workflow: 'conditionReport',
    handOff: 'begin',
    perRow: 'objects',
    link: 'loan',
    carried: [
      { field: 'title', value: 'row.title' },
      { field: 'material', value: 'row.material' },
    ],
  },
  {
    key: 'transport',
    name: 'Transport booking',
    when: 'venue != "home" and venue != null',
    workflow: 'transportBooking',
    handOff: 'ask',
    link: 'loan',
    carried: [
      { field: 'to', value: 'borrower' },
      { field: 'courier', value: 'anyFragile' },
    ],
  },
];

/** What is written once a loan is agreed. */
export const AGREEMENT = {
  kind: 'file',
  key: 'agreement',
  name: 'Loan agreement',
  outlet: 'agreements',
  folder: '{{record.createdAt.year}}',
  fileName: '{{borrower}}-{{fromDate}}',
  format: 'pdf',
  body: `# Loan agreement {{record.number}}

Between the **Linden Regional Museum**, which lends, and **{{borrower}}**, which borrows.

## What is lent

{{objects}}

{{count(objects)}} {{#plural count(objects): object | objects}}, insured for {{totalValue}} in all, from {{fromDate}} to {{toDate}}.

## How it is cared for

{{#when luxLimit != null}}
The works are shown in at most {{luxLimit}}.
{{/when}}

{{#when count(precautions) > 0}}
Precautions: {{precautions}}.
{{#else}}
No precautions beyond the usual ones.
{{/when}}

The borrower returns each object in the state in which its condition report found it.
`,
};

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
  {
    type: 'money',
    key: 'quotedPremium',
    name: 'Premium quoted',
    short: 'Quoted',
    section: 'insurance',
    treatment: 'hidden',
    currency: 'EUR',
    help: 'What the insurer answered',
  },
  {
    type: 'text',
    key: 'quote',
    name: 'Number of the quote',
    short: 'Quote',
    section: 'insurance',
    treatment: 'hidden',
    maxLength: 60,
  },
  { type: 'sign-off', key: 'agreed', name: 'Terms agreed', section: 'insurance', treatment: 'hidden' },
  { type: 'date', key: 'leftOn', name: 'Left the house on', section: 'insurance', treatment: 'hidden', default: 'fromDate' },
  { type: 'date', key: 'returnedOn', name: 'Brought back on', section: 'broughtBack', treatment: 'hidden', default: 'today()' },
  { type: 'yes-no', key: 'damaged', name: 'Something is damaged', section: 'broughtBack', treatment: 'hidden' },
  { type: 'long-text', key: 'damage', name: 'What is damaged', section: 'broughtBack', treatment: 'hidden', maxLength: 4000 },
];

export const LATER_STAGES = [
  {
    key: 'insurance',
    name: 'Insurance',
    kind: 'work',
    tracks: ['exhibition'],
    roles: ['registrar'],
    onArrival: {
      deliveries: [
        {
          kind: 'web',
          key: 'askForPremium',
          name: 'Ask for a premium',
          outlet: 'insurer',
          address: '/quotes',
          properties: [
            { name: 'loan', value: 'record.number' },
            { name: 'value', value: 'totalValue' },
            { name: 'class', value: 'insuranceClass' },
            { name: 'from', value: 'fromDate' },
            { name: 'to', value: 'toDate' },
          ],
          answers: [
            { name: 'premium', field: 'quotedPremium' },
            { name: 'quote', field: 'quote' },
          ],
        },
      ],
    },
  },
  {
    key: 'agreement',
    name: 'Agreement',
    kind: 'work',
    tracks: ['exhibition'],
    notes: 'The borrower signs; without roles the stage is theirs.',
    due: 'working days(today(), 20)',
    reminders: [
      {
        key: 'stillOpen',
        name: 'The terms wait for an answer',
        offset: { count: 5, unit: 'working-days', side: 'before' },
        deliveries: [
          {
            kind: 'mail',
            key: 'termsWait',
            name: 'Reminder to the borrower',
            to: [{ kind: 'submitter' }],
            subject: 'Loan {{record.number}}: the terms wait for you',
            body: 'Please agree to the terms of loan {{record.number}} by {{record.due}}.\n\nTen days after that the request is withdrawn by itself.\n',
          },
        ],
      },
    ],
  },
  {
    key: 'onLoan',
    name: 'On loan',
    kind: 'work',
    tracks: ['exhibition'],
    roles: ['registrar'],
    due: 'toDate',
    reminders: [
      {
        key: 'returnSoon',
        name: 'Two weeks before the return',
        offset: { count: 14, unit: 'days', side: 'before' },
        deliveries: [
          {
            kind: 'mail',
            key: 'returnSoon',
            name: 'Return date to the borrower',
            to: [{ kind: 'submitter' }],
            cc: [{ kind: 'role', role: 'registrar' }],
            subject: 'Loan {{record.number}} ends soon',
            body: 'The loan ends on **{{toDate}}**. Please see to its way back.\n\n{{#each objects}}\n- {{row.title}}\n{{/each}}\n',
          },
        ],
      },
      {
        key: 'overdue',
        name: 'It should be back',
        offset: { count: 1, unit: 'working-days', side: 'after' },
        deliveries: [
          {
            kind: 'mail',
            key: 'overdue',
            name: 'Overdue loan to the registrars',
            to: [{ kind: 'role', role: 'registrar' }],
            subject: 'Loan {{record.number}} should be back',
            body: 'It was due on {{toDate}}. Policy {{policyNumber}}.\n',
          },
        ],
      },
    ],
  },
  { key: 'returnCheck', name: 'Return check', kind: 'work', tracks: ['exhibition'], roles: ['conservator'] },
];

export const LATER_PLAN = {
  insuranceClass: { insurance: 'read-only', agreement: 'read-only', onLoan: 'read-only' },
  premium: { insurance: 'read-only', agreement: 'read-only' },
  quotedPremium: { insurance: 'read-only', agreement: 'read-only' },
  quote: { insurance: 'read-only' },
  policyNumber: { insurance: 'required', agreement: 'read-only', onLoan: 'read-only' },
  agreed: { agreement: 'required', onLoan: 'read-only', closed: 'read-only' },
  leftOn: { onLoan: 'required', returnCheck: 'read-only', closed: 'read-only' },
  returnedOn: { returnCheck: 'required', closed: 'read-only' },
  damaged: { returnCheck: 'required', closed: 'read-only' },
  damage: { returnCheck: 'optional', closed: 'hidden' },
};

export const LATER_HAND_OFFS = [
  { key: 'insured', name: 'Insured', from: 'insurance', emphasis: 'primary', otherwise: { to: 'agreement' } },
  {
    key: 'sign',
    name: 'Agree to the terms',
    from: 'agreement',
    // The loan waits for its condition reports, and for the transport.
    offeredWhen: 'followUps.open = 0',
    emphasis: 'primary',
    notYet: 'as soon as the condition reports and the transport are done',
    otherwise: { to: 'onLoan' },
  },
  {
    key: 'withdraw',
    name: 'Withdraw the request',
    from: 'agreement',
    emphasis: 'final',
    confirmation: 'The request is closed, and nothing is lent.',
    checking: 'none',
    otherwise: { to: 'closed' },
    byClock: { offset: { count: 10, unit: 'days', side: 'after' } },
  },
  { key: 'returned', name: 'It is back', from: 'onLoan', emphasis: 'primary', otherwise: { to: 'returnCheck' } },
  {
    key: 'settled',
    name: 'All is well',
    from: 'returnCheck',
    offeredWhen: 'damaged != true',
    emphasis: 'primary',
    otherwise: { to: 'closed' },
  },
  {
    key: 'claim',
    name: 'Report the damage',
    from: 'returnCheck',
    offeredWhen: 'damaged = true',
    emphasis: 'primary',
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
