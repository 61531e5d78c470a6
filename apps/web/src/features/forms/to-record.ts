import type { FormDocument, RecordHeader } from '@ypomet/contract';
import type { WorkflowRecord } from '@ypomet/core';

/** A record as its form shows it to the member, for the core to evaluate. */
export const toRecord = (header: RecordHeader, document: FormDocument): WorkflowRecord => ({
  ...header,
  intake: null,
  values: document.values as WorkflowRecord['values'],
  // Defaults that are spent aren't in the form's definition.
  defaulted: [],
  followUps: { open: 0, done: 0 },
  reminded: [],
});
