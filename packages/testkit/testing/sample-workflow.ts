import {
  type Actor,
  compileWorkflow,
  makeOutside,
  ORDINARY_CALENDAR,
  type Outside,
  openRecord,
  readWorkflow,
  type Workflow,
  type WorkflowRecord,
} from '@ypomet/core';
import { NOW } from './evaluate.ts';

/** A small purchase: enough of everything that decides, and no more. */
export function sampleWorkflow(change: Partial<Record<keyof Workflow, unknown>> = {}): Workflow {
  const result = readWorkflow({
    format: 'ypomet.workflow/1',
    key: 'purchase',
    name: 'Purchase',
    numbering: 'P-{year}-{number:3}',
    roles: [
      { key: 'buyer', name: 'Buyer' },
      { key: 'boss', name: 'Boss' },
      { key: 'auditor', name: 'Auditor' },
    ],
    sections: [
      { key: 'what', name: 'What' },
      { key: 'inner', name: 'Inner' },
    ],
    fields: [
      { type: 'text', key: 'thing', name: 'Thing', section: 'what', treatment: 'read-only', maxLength: 20 },
      {
        type: 'choice',
        key: 'kind',
        name: 'Kind',
        section: 'what',
        treatment: 'read-only',
        options: [
          { code: 'goods', label: 'Goods' },
          { code: 'service', label: 'Service' },
          { code: 'old', label: 'Old', retired: true },
        ],
      },
      { type: 'money', key: 'price', name: 'Price', section: 'what', treatment: 'read-only', currency: 'EUR', min: '0' },
      { type: 'date', key: 'delivery', name: 'Delivery', section: 'what', treatment: 'hidden' },
      {
        type: 'table',
        key: 'parts',
        name: 'Parts',
        section: 'what',
        treatment: 'read-only',
        fields: [
          { type: 'text', key: 'name', name: 'Name' },
          { type: 'number', key: 'amount', name: 'Amount', scale: 1 },
          { type: 'text', key: 'serial', name: 'Serial' },
          { type: 'number', key: 'double', name: 'Double', scale: 1, expression: 'row.amount * 2' },
        ],
      },
      {
        type: 'number',
        key: 'total',
        name: 'Total',
        section: 'inner',
        scale: 1,
        treatment: 'hidden',
        expression: 'sum(concatenate([0], parts.double[item != null]))',
      },
      { type: 'number', key: 'limit', name: 'Limit', section: 'inner', treatment: 'hidden', confidentialTo: ['auditor'] },
      { type: 'text', key: 'outcome', name: 'Outcome', section: 'inner', treatment: 'hidden' },
    ],
    tracks: [{ key: 'main', name: 'Main' }],
    stages: [
      { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
      { key: 'check', name: 'Check', kind: 'work', tracks: ['main'], roles: ['buyer'] },
      { key: 'sorting', name: 'Sorting', kind: 'junction', tracks: ['main'] },
      {
        key: 'sign',
        name: 'Sign',
        kind: 'work',
        tracks: ['main'],
        roles: ['boss'],
        onArrival: {
          deliveries: [
            {
              kind: 'mail',
              key: 'arrived',
              name: 'Arrived',
              to: [{ kind: 'role', role: 'boss' }],
              subject: 'Sign {{thing}}',
              body: '{{price}}',
            },
          ],
        },
      },
      { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
    ],
    plan: {
      thing: { ask: 'required' },
      kind: { ask: 'required' },
      price: { ask: 'required', check: 'optional' },
      delivery: { ask: 'optional' },
      parts: { ask: 'optional' },
      limit: { check: 'optional' },
      outcome: { done: 'read-only' },
    },
    adjustments: [
      {
        key: 'noDelivery',
        name: 'Services aren’t delivered',
        when: 'kind = "service"',
        stages: ['ask'],
        fields: ['delivery'],
        treatment: 'hidden',
      },
      { key: 'dear', name: 'Dear goods', when: 'price > 1000', stages: ['ask'], fields: ['delivery'], treatment: 'required' },
      {
        key: 'serials',
        name: 'Many need serials',
        when: 'row.amount >= 10',
        stages: ['ask'],
        fields: ['parts.serial'],
        treatment: 'required',
      },
      {
        key: 'overLimit',
        name: 'Over the limit',
        when: 'price > limit',
        stages: ['check'],
        fields: ['delivery'],
        treatment: 'read-only',
      },
    ],
    handOffs: [
      {
        key: 'send',
        name: 'Send',
        from: 'ask',
        otherwise: { to: 'check' },
        acknowledgements: [
          { key: 'dear', when: 'price > 1000', text: 'Dear, dear: {{price}}' },
          { key: 'plain', text: 'Thanks for {{thing}}' },
        ],
        deliveries: [
          {
            kind: 'mail',
            key: 'many',
            name: 'Many',
            when: 'total > 100',
            to: [{ kind: 'expression', expression: 'actor.email' }],
            subject: 'Many\n{{thing}}',
            body: '{{total}}',
          },
          {
            kind: 'mail',
            key: 'ever',
            name: 'Ever',
            to: [{ kind: 'submitter' }],
            subject: 'To {{destination.name}}',
            body: '{{parts}}',
          },
        ],
        followUps: [
          {
            key: 'each',
            name: 'Each',
            workflow: 'other',
            handOff: 'go',
            perRow: 'parts',
            when: 'row.amount > 1',
            carried: [{ field: 'label', value: 'row.name' }],
          },
        ],
      },
      {
        key: 'pass',
        name: 'Pass',
        from: 'check',
        sets: [{ field: 'outcome', value: '"passed"' }],
        branches: [
          { key: 'cheap', name: 'Cheap', when: 'price < 1000', to: 'done' },
          { key: 'dearOne', name: 'Dear', when: 'price > 1000', to: 'sorting' },
        ],
      },
      {
        key: 'sort',
        name: 'Sort',
        from: 'sorting',
        branches: [{ key: 'huge', name: 'Huge', when: 'price >= 5000', to: 'sign' }],
        otherwise: { to: 'done' },
      },
      { key: 'sign', name: 'Sign', from: 'sign', otherwise: { to: 'done' }, offeredWhen: 'price < 100000' },
    ],
    checks: [
      {
        key: 'soon',
        name: 'Not in the past',
        condition: 'delivery = null or delivery >= today()',
        message: 'Delivery lies in the past.',
        field: 'delivery',
        stages: ['ask'],
      },
    ],
    ...change,
  });
  if (!result.ok) throw new Error(JSON.stringify(result.diagnostics));
  return result.value;
}

export const OUTSIDE: Outside = makeOutside({ now: NOW, zone: 'Europe/Vienna', locale: 'en', calendar: ORDINARY_CALENDAR });
export const person = (id: string, ...roles: readonly string[]): Actor => ({
  id,
  name: id,
  email: `${id}@example.invalid`,
  roles,
});

/** A compiled sample and a fresh record of it. */
export function begun(workflow: Workflow = sampleWorkflow()): {
  readonly compiled: ReturnType<typeof compileWorkflow>;
  readonly record: WorkflowRecord;
} {
  const compiled = compileWorkflow(workflow);
  return { compiled, record: openRecord(compiled, 'ask', 'r1', 1, person('asker'), OUTSIDE) };
}
