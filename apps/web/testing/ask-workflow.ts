import { type Json, readWorkflow, type Workflow } from '@ypomet/core';

type Written = Readonly<Record<string, unknown>>;

/**
 * A workflow that asks for some fields at its intake and is done then. Fields are optional and stand in one section unless
 * they say otherwise; `more` is of the definition.
 */
export function askWorkflow(fields: readonly Written[], more: Written = {}): Workflow {
  const read = readWorkflow({
    format: 'ypomet.workflow/1',
    key: 'w',
    name: 'W',
    tracks: [{ key: 'main', name: 'Main' }],
    sections: [{ key: 'all', name: 'All' }],
    fields: fields.map((field) => ({ section: 'all', treatment: 'optional', ...field })),
    stages: [
      { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
      { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
    ],
    handOffs: [{ key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'done' } }],
    ...more,
  } as unknown as Json);
  if (!read.ok) throw new Error(JSON.stringify(read.diagnostics));
  return read.value;
}
