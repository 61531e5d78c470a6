import type { Json } from '@ypomet/core';

/** A complaint: taken in, looked into where it matters, answered. */
export const COMPLAINT: Readonly<Record<string, Json>> = {
  format: 'ypomet.workflow/1',
  key: 'complaint',
  name: 'Complaint',
  description: 'Taken in at the counter or by whoever complains, looked into where it is serious, answered.',
  numbering: 'C-{year}-{number:4}',
  roles: [
    { key: 'desk', name: 'Service desk' },
    { key: 'manager', name: 'Manager' },
  ],
  sections: [
    { key: 'who', name: 'Who complains' },
    { key: 'what', name: 'What about' },
    { key: 'answer', name: 'Answer' },
  ],
  fields: [
    { type: 'text', key: 'name', name: 'Name', section: 'who', treatment: 'read-only' },
    { type: 'text', key: 'email', name: 'E-mail', section: 'who', treatment: 'read-only', help: 'Where the answer goes.' },
    {
      type: 'choice',
      key: 'area',
      name: 'Area',
      section: 'what',
      treatment: 'read-only',
      options: [
        { code: 'waiting', label: 'Waiting time' },
        { code: 'staff', label: 'How somebody was treated' },
        { code: 'building', label: 'Building' },
        { code: 'charge', label: 'A charge' },
      ],
    },
    { type: 'date', key: 'day', name: 'Day', section: 'what', treatment: 'read-only', default: 'today()' },
    { type: 'long-text', key: 'story', name: 'What happened', section: 'what', treatment: 'read-only' },
    {
      type: 'money',
      key: 'amount',
      name: 'Amount of the charge',
      short: 'Amount',
      section: 'what',
      currency: 'EUR',
      treatment: 'read-only',
    },
    { type: 'yes-no', key: 'harm', name: 'Somebody came to harm', section: 'what', treatment: 'read-only' },
    { type: 'long-text', key: 'found', name: 'What was found', section: 'answer', confidentialTo: ['desk', 'manager'] },
    { type: 'long-text', key: 'answer', name: 'Answer', section: 'answer' },
  ],
  tracks: [
    { key: 'usual', name: 'Usual' },
    { key: 'serious', name: 'Serious' },
  ],
  stages: [
    { key: 'complaint', name: 'Complaint', kind: 'intake', tracks: ['usual'] },
    { key: 'taken', name: 'Taken in', kind: 'work', tracks: ['usual', 'serious'], roles: ['desk'] },
    { key: 'lookedInto', name: 'Looked into', kind: 'work', tracks: ['serious'], roles: ['manager'] },
    { key: 'answering', name: 'Answering', kind: 'work', tracks: ['usual', 'serious'], roles: ['desk'] },
    { key: 'answered', name: 'Answered', kind: 'end', tracks: ['usual', 'serious'] },
  ],
  plan: {
    name: { complaint: 'optional' },
    email: { complaint: 'nudged', taken: 'optional' },
    area: { complaint: 'required', taken: 'required' },
    day: { complaint: 'required' },
    story: { complaint: 'required' },
    amount: { complaint: 'hidden' },
    harm: { complaint: 'optional', taken: 'required' },
    found: { lookedInto: 'required', answering: 'read-only' },
    answer: { answering: 'required', answered: 'read-only' },
  },
  adjustments: [
    {
      key: 'charge',
      name: 'A charge has an amount',
      when: 'area = "charge"',
      stages: ['complaint', 'taken'],
      fields: ['amount'],
      treatment: 'required',
    },
  ],
  handOffs: [
    { key: 'send', name: 'Send', from: 'complaint', otherwise: { to: 'taken' } },
    {
      key: 'pass',
      name: 'Pass on',
      from: 'taken',
      branches: [
        {
          key: 'serious',
          name: 'Serious',
          when: 'harm = true or area = "staff" or amount > 500',
          to: 'lookedInto',
          track: 'serious',
        },
      ],
      otherwise: { to: 'answering' },
    },
    { key: 'looked', name: 'It is looked into', from: 'lookedInto', otherwise: { to: 'answering' } },
    { key: 'answer', name: 'Answer', from: 'answering', otherwise: { to: 'answered' } },
  ],
};
