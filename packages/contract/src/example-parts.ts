import type { Workflow } from '@ypomet/core';
import type { ProblemCode } from './problem.ts';

/** What a stranger needs to know of an operation: what it does, why it may refuse, and one of its calls and answers. */
export type OperationNote = {
  readonly does: string;
  /** Problems of its own, beside those that follow from its access, body, revision and rate. */
  readonly refuses?: readonly ProblemCode[];
  readonly params?: Readonly<Record<string, string | number>>;
  readonly query?: Readonly<Record<string, string | number>>;
  readonly body?: unknown;
  readonly response: unknown;
};

export const ID = '7f8c2f0e-4a0b-4a55-9f1e-0c2f6f1d2a11';
export const MEMBER = '2b1f6c52-0f3e-4d0c-8f3a-5f3a1f0b7c21';
export const AT = '2026-11-25T09:30:00.000Z';
export const SHA = '9f86d081884c7d659a2feaa0c55ad015a3bf4f1b2b0b822cd15d6c15b0f00a08';

/** The smallest workflow that works: one field, from an intake to an end. */
export const EXAMPLE_WORKFLOW = {
  format: 'ypomet.workflow/1',
  key: 'visit',
  name: 'Study visit',
  sections: [{ key: 'main', name: 'Visit' }],
  fields: [{ key: 'visitor', name: 'Visitor', section: 'main', type: 'text', treatment: 'required' }],
  tracks: [{ key: 'main', name: 'Visit' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [{ key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'done' } }],
} as const satisfies Readonly<Partial<Record<keyof Workflow, unknown>>>;

/** A record of it. */
export const HEADER = {
  id: ID,
  number: 'V-2026-0001',
  workflow: 'visit',
  workflowName: 'Study visit',
  version: 1,
  stage: 'done',
  stageName: 'Done',
  stageKind: 'end',
  track: 'main',
  submittedBy: MEMBER,
  assignee: null,
  assigneeName: null,
  unassigned: false,
  createdAt: AT,
  arrivedAt: AT,
  due: null,
  isOverdue: false,
  revision: 1,
};

export const WORKSPACE = {
  name: 'Linden Museum',
  zone: 'Europe/Vienna',
  locale: 'en',
  calendar: {
    week: {
      monday: [{ from: '09:00', to: '17:00' }],
      tuesday: [{ from: '09:00', to: '17:00' }],
      wednesday: [{ from: '09:00', to: '17:00' }],
      thursday: [{ from: '09:00', to: '17:00' }],
      friday: [{ from: '09:00', to: '13:00' }],
      saturday: [],
      sunday: [],
    },
    holidays: [{ date: '2026-12-25', name: 'Winter feast' }],
  },
  nextPages: ['https://museum.example/visit'],
};

/** Its form, with nothing entered. */
export const FORM = { definition: EXAMPLE_WORKFLOW, values: {}, askAgainFor: [], withheld: [], brokenSignOffs: [], names: {} };
