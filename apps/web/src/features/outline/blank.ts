import { type Json, makeKey } from '@ypomet/core';

/** The least that runs: somebody asks, somebody works on it, it is closed. `taken`: the keys of the workflows there are. */
export function blankWorkflow(name: string, taken: ReadonlySet<string>): Readonly<Record<string, Json>> {
  return {
    format: 'ypomet.workflow/1',
    key: makeKey(name, taken, 'workflow'),
    name,
    sections: [{ key: 'general', name: 'General' }],
    fields: [],
    tracks: [{ key: 'main', name: 'Main track' }],
    stages: [
      { key: 'request', name: 'Request', kind: 'intake', tracks: ['main'] },
      { key: 'work', name: 'Work', kind: 'work', tracks: ['main'] },
      { key: 'closed', name: 'Closed', kind: 'end', tracks: ['main'] },
    ],
    handOffs: [
      { key: 'submit', name: 'Submit', from: 'request', otherwise: { to: 'work' } },
      { key: 'finish', name: 'Finish', from: 'work', otherwise: { to: 'closed' } },
    ],
  };
}
