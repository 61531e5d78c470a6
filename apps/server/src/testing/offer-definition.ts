/** A text field that may be entered everywhere, named by its key. */
export const optionalText = (key: string) => ({ key, name: key, section: 'all', type: 'text', treatment: 'optional' });

/**
 * The definition of a small workflow for tests of public links: anybody hands an offer in with *submit*, a registrar finishes
 * it with *finish*. `onSubmit`, `onFinish`: the deliveries of these hand-offs.
 */
export const offerDefinition = (of: {
  readonly key: string;
  readonly fields: readonly object[];
  readonly onSubmit: readonly object[];
  readonly onFinish?: readonly object[];
}) => ({
  format: 'ypomet.workflow/1',
  key: of.key,
  name: 'Offer',
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 'all', name: 'All' }],
  fields: of.fields,
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
    { key: 'check', name: 'Check', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [
    { key: 'submit', name: 'Submit', from: 'ask', otherwise: { to: 'check' }, deliveries: of.onSubmit },
    { key: 'finish', name: 'Finish', from: 'check', otherwise: { to: 'done' }, deliveries: of.onFinish ?? [] },
  ],
});
