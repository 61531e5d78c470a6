import { readWorkflow, type Workflow } from '@ypomet/core';
import {
  AGREED_FOLLOW_UPS,
  AGREEMENT,
  INSURANCE,
  LATER_FIELDS,
  LATER_HAND_OFFS,
  LATER_PLAN,
  LATER_STAGES,
} from './object-loan-later.ts';

const countries = [
  { code: 'home', label: 'Home' },
  { code: 'neighbour', label: 'Neighbouring country' },
  { code: 'overseas', label: 'Overseas' },
];

const registrarMail = {
  kind: 'mail',
  key: 'tellRegistrar',
  name: 'New request to the registrars',
  to: [{ kind: 'role', role: 'registrar' }],
  subject: 'Loan request {{record.number}}: {{borrower}}, {{count(objects)}} {{#plural count(objects): object | objects}}',
  body: `A new request came in from **{{borrower}}** for {{fromDate}} to {{toDate}}.

{{#when anyFragile}}
Some of the objects are fragile:

{{#each objects[fragile = true or material = "glass"]}}
- {{row.title}}, {{row.material}}
{{/each}}
{{/when}}

{{#fields}}
`,
};

const directorMail = {
  kind: 'mail',
  key: 'tellDirector',
  name: 'Large request',
  when: 'totalValue > 250000',
  to: [{ kind: 'role', role: 'director' }],
  replyTo: [{ kind: 'expression', expression: 'borrowerEmail' }],
  subject: 'Large loan request {{record.number}}: {{totalValue}}',
  body: '{{borrower}} asks for {{count(objects)}} {{#plural count(objects): object | objects}} worth **{{totalValue}}**.\n\n{{objects}}',
};

const borrowerMail = (key: string, name: string, sentence: string) => ({
  kind: 'mail',
  key,
  name,
  to: [{ kind: 'submitter' }, { kind: 'expression', expression: 'borrowerEmail' }],
  subject: 'Your loan request {{record.number}}',
  body: `Dear {{borrower}},\n\n${sentence}\n\nThe registrars\n`,
});

/** The demo's main workflow: a regional museum lends objects. Invented, like everything in the demo. */
export function makeObjectLoan(): Workflow {
  const result = readWorkflow({
    format: 'ypomet.workflow/1',
    key: 'objectLoan',
    name: 'Object loan',
    description: 'Ask to borrow objects for an exhibition, or to study them.',
    numbering: 'L-{year}-{number:4}',
    roles: [
      { key: 'registrar', name: 'Registrar', register: 'shown' },
      { key: 'conservator', name: 'Conservator' },
      { key: 'director', name: 'Director', register: 'all' },
    ],
    sections: [
      { key: 'who', name: 'Borrower' },
      { key: 'period', name: 'Period' },
      { key: 'what', name: 'Objects' },
      { key: 'care', name: 'Care' },
      { key: 'decision', name: 'Decision' },
      { key: 'insurance', name: 'Insurance and agreement' },
      { key: 'broughtBack', name: 'Return' },
    ],
    fields: [
      {
        type: 'text',
        key: 'borrower',
        name: 'Borrower',
        section: 'who',
        treatment: 'read-only',
        maxLength: 120,
        help: 'The institution that borrows',
      },
      {
        type: 'text',
        key: 'borrowerEmail',
        name: 'Borrower e-mail',
        section: 'who',
        treatment: 'read-only',
        maxLength: 200,
        pattern: '[^@\\s]+@[^@\\s]+\\.[^@\\s]+',
        messages: { pattern: 'Write an e-mail address, such as name@place.example.' },
      },
      {
        type: 'choice',
        key: 'kind',
        name: 'Kind of loan',
        section: 'who',
        treatment: 'read-only',
        options: [
          { code: 'exhibition', label: 'Exhibition' },
          { code: 'study', label: 'Study' },
          { code: 'filming', label: 'Filming' },
        ],
      },
      { type: 'choice', key: 'venue', name: 'Venue country', section: 'who', treatment: 'read-only', options: countries },
      { type: 'date', key: 'fromDate', name: 'From', section: 'period', treatment: 'read-only' },
      { type: 'date', key: 'toDate', name: 'To', section: 'period', treatment: 'read-only' },
      {
        type: 'table',
        key: 'objects',
        name: 'Objects',
        section: 'what',
        treatment: 'read-only',
        maxRows: 200,
        fields: [
          { type: 'text', key: 'title', name: 'Title', maxLength: 200 },
          {
            type: 'choice',
            key: 'material',
            name: 'Material',
            options: [
              { code: 'paper', label: 'Paper' },
              { code: 'textile', label: 'Textile' },
              { code: 'metal', label: 'Metal' },
              { code: 'glass', label: 'Glass' },
              { code: 'wood', label: 'Wood' },
              { code: 'stone', label: 'Stone' },
            ],
          },
          { type: 'money', key: 'insuredValue', name: 'Insured value', currency: 'EUR', min: '0' },
          { type: 'yes-no', key: 'fragile', name: 'Fragile' },
        ],
      },
      {
        type: 'money',
        key: 'totalValue',
        name: 'Total value',
        section: 'what',
        currency: 'EUR',
        treatment: 'read-only',
        expression: 'sum(concatenate([0], objects.insuredValue[item != null]))',
      },
      {
        type: 'yes-no',
        key: 'anyFragile',
        name: 'Any fragile',
        section: 'what',
        treatment: 'hidden',
        expression: 'some o in objects satisfies o.fragile = true or o.material = "glass"',
      },
      {
        type: 'number',
        key: 'luxLimit',
        name: 'Lux limit',
        section: 'care',
        treatment: 'hidden',
        unit: 'lx',
        min: '0',
        max: '1000',
        help: 'The most light the works may be shown in',
      },
      {
        type: 'yes-no',
        key: 'climateControl',
        name: 'Climate control',
        section: 'care',
        treatment: 'hidden',
        help: 'The venue keeps temperature and humidity steady',
      },
      {
        type: 'multi-choice',
        key: 'precautions',
        name: 'Precautions',
        section: 'care',
        treatment: 'hidden',
        options: [
          { code: 'crate', label: 'Climate crate' },
          { code: 'courier', label: 'Courier' },
          { code: 'glazing', label: 'Glazing' },
          { code: 'alarm', label: 'Case alarm' },
        ],
      },
      {
        type: 'file',
        key: 'facilityReport',
        name: 'Facility report',
        section: 'care',
        treatment: 'hidden',
        kinds: ['application/pdf', 'image/*'],
        maxCount: 5,
        help: 'Rooms, climate, light and guards of the venue',
        messages: { kinds: 'Send the facility report as a PDF or as pictures.' },
      },
      { type: 'long-text', key: 'careNotes', name: 'Care notes', section: 'care', treatment: 'hidden', maxLength: 4000 },
      {
        type: 'long-text',
        key: 'reason',
        name: 'Reason',
        section: 'decision',
        treatment: 'hidden',
        maxLength: 2000,
        help: 'The borrower reads this',
      },
      {
        type: 'choice',
        key: 'outcome',
        name: 'Outcome',
        section: 'decision',
        treatment: 'hidden',
        options: [
          { code: 'agreed', label: 'Agreed' },
          { code: 'declined', label: 'Declined' },
          { code: 'studied', label: 'Studied' },
        ],
      },
      ...LATER_FIELDS,
    ],
    tracks: [
      {
        key: 'exhibition',
        name: 'Exhibition track',
        notes: 'Works leave the house: insured, agreed, brought back and looked at.',
      },
      { key: 'study', name: 'Study track', notes: 'Works stay in the house; nothing is insured.' },
    ],
    stages: [
      { key: 'request', name: 'Request', kind: 'intake', tracks: ['exhibition', 'study'] },
      { key: 'registrarCheck', name: 'Registrar check', kind: 'work', tracks: ['exhibition', 'study'], roles: ['registrar'] },
      {
        key: 'conservationReview',
        name: 'Conservation review',
        kind: 'work',
        tracks: ['exhibition'],
        roles: ['conservator'],
        due: 'working days(today(), 5)',
      },
      { key: 'studyVisit', name: 'Study visit', kind: 'work', tracks: ['study'], roles: ['registrar', 'conservator'] },
      { key: 'directorSignOff', name: 'Director sign-off', kind: 'work', tracks: ['exhibition'], roles: ['director'] },
      ...LATER_STAGES,
      { key: 'closed', name: 'Closed', kind: 'end', tracks: ['exhibition', 'study'] },
    ],
    decisionTables: [INSURANCE],
    plan: {
      borrower: { request: 'required' },
      borrowerEmail: { request: 'required', closed: 'hidden' },
      kind: { request: 'required' },
      venue: { request: 'required', registrarCheck: 'optional', studyVisit: 'hidden' },
      fromDate: { request: 'required', registrarCheck: 'optional' },
      toDate: { request: 'required', registrarCheck: 'optional' },
      objects: { request: 'required', registrarCheck: 'optional' },
      'objects.title': { request: 'required' },
      'objects.material': { request: 'required', registrarCheck: 'required' },
      'objects.insuredValue': { request: 'optional', registrarCheck: 'required' },
      'objects.fragile': { request: 'hidden', registrarCheck: 'nudged', conservationReview: 'read-only' },
      anyFragile: { conservationReview: 'read-only', directorSignOff: 'read-only' },
      luxLimit: { registrarCheck: 'optional', conservationReview: 'optional', directorSignOff: 'read-only' },
      climateControl: {
        request: 'optional',
        registrarCheck: 'nudged',
        conservationReview: 'required',
        directorSignOff: 'read-only',
      },
      precautions: { conservationReview: 'nudged', directorSignOff: 'read-only', closed: 'read-only' },
      careNotes: { conservationReview: 'optional', directorSignOff: 'read-only' },
      reason: {
        registrarCheck: 'optional',
        conservationReview: 'optional',
        directorSignOff: 'nudged',
        studyVisit: 'optional',
        closed: 'read-only',
      },
      outcome: { closed: 'read-only' },
      facilityReport: {
        request: 'optional',
        registrarCheck: 'nudged',
        conservationReview: 'read-only',
        directorSignOff: 'read-only',
      },
      ...LATER_PLAN,
    },
    adjustments: [
      {
        key: 'lightSensitive',
        name: 'Light-sensitive works',
        treatment: 'required',
        stages: ['registrarCheck', 'conservationReview'],
        fields: ['luxLimit'],
        when: 'some o in objects satisfies o.material in ("paper", "textile")',
      },
      {
        key: 'studyHere',
        name: 'Study happens in the house',
        treatment: 'hidden',
        stages: ['request', 'registrarCheck'],
        fields: ['venue', 'climateControl'],
        when: 'kind = "study"',
      },
      {
        key: 'askedBack',
        name: 'What is asked of the borrower',
        treatment: 'read-only',
        stages: ['request'],
        fields: ['reason'],
        when: 'reason != null',
      },
      {
        key: 'farAway',
        name: 'Overseas needs climate control',
        treatment: 'required',
        stages: ['request', 'registrarCheck'],
        fields: ['climateControl'],
        when: 'venue = "overseas"',
      },
      {
        key: 'glassIsFragile',
        name: 'Glass is fragile anyway',
        treatment: 'hidden',
        stages: ['registrarCheck'],
        fields: ['objects.fragile'],
        when: 'row.material = "glass"',
      },
    ],
    handOffs: [
      {
        key: 'submit',
        name: 'Submit request',
        from: 'request',
        emphasis: 'primary',
        branches: [{ key: 'toStudy', name: 'Study', when: 'kind = "study"', to: 'registrarCheck', track: 'study' }],
        otherwise: { to: 'registrarCheck', track: 'exhibition' },
        deliveries: [registrarMail, directorMail],
        acknowledgements: [
          {
            key: 'large',
            name: 'Big loans take longer',
            when: 'count(objects) > 10',
            text: 'Thank you, {{borrower}}. Your request {{record.number}} lists {{count(objects)}} objects; the registrars answer within 15 working days.',
          },
          {
            key: 'study',
            name: 'Study in the house',
            when: 'kind = "study"',
            text: 'Thank you, {{borrower}}. Your request {{record.number}} is with the registrars. They write to you with **two days to choose from**; bring nothing but a pencil.',
          },
          {
            key: 'thanks',
            name: 'Thank you',
            text: 'Thank you, {{borrower}}. Your request {{record.number}} is with the registrars, who answer within 5 working days.',
          },
        ],
      },
      {
        key: 'accept',
        name: 'Accept',
        from: 'registrarCheck',
        emphasis: 'primary',
        branches: [
          { key: 'studyVisit', name: 'Study visit', when: 'record.track = "study"', to: 'studyVisit' },
          { key: 'conservationReview', name: 'Conservation review', when: 'totalValue > 50000', to: 'conservationReview' },
          { key: 'directSignOff', name: 'Straight to sign-off', when: 'totalValue <= 50000', to: 'directorSignOff' },
        ],
        deliveries: [
          {
            ...borrowerMail(
              'tellBorrower',
              'Progress to the borrower',
              'Your request has passed the registrar check and goes on to {{destination.name}}.',
            ),
          },
          {
            kind: 'mail',
            key: 'tellConservator',
            name: 'Review asked of the conservators',
            when: 'destination.key = "conservationReview"',
            to: [{ kind: 'role', role: 'conservator' }],
            subject: 'Review asked: {{borrower}}, {{count(objects)}} objects',
            body: 'Loan request {{record.number}} waits for your review.\n\n{{objects}}\n',
          },
        ],
        acknowledgements: [{ key: 'done', text: '{{record.number}} went on to {{destination.name}}.' }],
      },
      {
        key: 'askBorrower',
        name: 'Ask borrower',
        from: 'registrarCheck',
        checking: 'none',
        otherwise: { to: 'request' },
        deliveries: [borrowerMail('question', 'Question to the borrower', 'Please complete your request: {{reason}}')],
      },
      {
        key: 'decline',
        name: 'Decline',
        from: 'registrarCheck',
        emphasis: 'final',
        confirmation: 'The borrower is written to that the loan is refused, and the request is closed.',
        checking: 'none',
        otherwise: { to: 'closed' },
        sets: [{ field: 'outcome', value: '"declined"' }],
        deliveries: [
          borrowerMail('declined', 'Refusal to the borrower', 'We are sorry that we can’t lend the objects. {{reason}}'),
        ],
      },
      {
        key: 'reviewed',
        name: 'Pass to director',
        from: 'conservationReview',
        emphasis: 'primary',
        otherwise: { to: 'directorSignOff' },
      },
      {
        key: 'backToRegistrar',
        name: 'Back to registrar',
        from: 'conservationReview',
        checking: 'none',
        otherwise: { to: 'registrarCheck' },
      },
      {
        key: 'agree',
        name: 'Agree',
        from: 'directorSignOff',
        emphasis: 'primary',
        branches: [
          {
            key: 'careful',
            name: 'Insured first',
            when: 'totalValue > 10000 or (anyFragile = true and (venue = "overseas" or not("courier" in precautions)))',
            to: 'insurance',
          },
        ],
        otherwise: { to: 'agreement' },
        sets: [{ field: 'outcome', value: '"agreed"' }],
        deliveries: [
          borrowerMail(
            'agreed',
            'Agreement to the borrower',
            'We are glad to lend you the objects from {{fromDate}} to {{toDate}}.',
          ),
          AGREEMENT,
        ],
        followUps: AGREED_FOLLOW_UPS,
      },
      {
        key: 'refuse',
        name: 'Refuse',
        from: 'directorSignOff',
        emphasis: 'final',
        confirmation: 'The borrower is written to that the loan is refused, and the request is closed.',
        otherwise: { to: 'closed' },
        sets: [{ field: 'outcome', value: '"declined"' }],
        deliveries: [
          borrowerMail('refused', 'Refusal to the borrower', 'We are sorry that we can’t lend the objects. {{reason}}'),
        ],
      },
      {
        key: 'visited',
        name: 'Visit over',
        from: 'studyVisit',
        otherwise: { to: 'closed' },
        sets: [{ field: 'outcome', value: '"studied"' }],
      },
      ...LATER_HAND_OFFS,
    ],
    checks: [
      {
        key: 'period',
        name: 'Period runs forward',
        condition: 'fromDate = null or toDate = null or toDate >= fromDate',
        message: 'The loan ends before it begins: choose a later “To”.',
        stages: ['request', 'registrarCheck'],
        field: 'toDate',
      },
    ],
  });
  if (!result.ok) throw new Error(`The demo workflow is not well formed: ${JSON.stringify(result.diagnostics)}`);
  return result.value;
}
