import { describe, expect, test } from '@jest/globals';
import { applyEdit, compileWorkflow, findPart, within } from '@ypomet/core';
import { smallWorkflow } from '@ypomet/testkit/small-workflow';
import { newConsequence, newReminder, START_DUE } from './new-consequences.ts';

const workflow = smallWorkflow({});
const LISTS = {
  answer: 'handOffs.send.acknowledgements',
  mail: 'handOffs.send.deliveries',
  web: 'handOffs.send.deliveries',
  file: 'stages.work.onArrival.deliveries',
  record: 'handOffs.send.followUps',
} as const;
const MORE = {
  answer: {},
  mail: {},
  web: { outlet: 'insurer' },
  file: { outlet: 'archive' },
  record: { workflow: 'other', handOff: 'send' },
} as const;

describe('something new', () => {
  test.each(Object.keys(LISTS) as (keyof typeof LISTS)[])(
    '%s: can be added at once, with a key and a name of its own',
    (kind) => {
      const list = LISTS[kind];
      const first = newConsequence(list, kind, [], MORE[kind]);
      const once = applyEdit(workflow, first.edit);
      if (!once.ok) throw new Error(JSON.stringify(once.diagnostics));
      const part = findPart(once.value.definition, within(list, first.key))?.part as unknown as { key: string; name: string };
      expect(part.key).toBe(first.key);
      const second = newConsequence(list, kind, [part], MORE[kind]);
      expect(second.key).not.toBe(first.key);
      const twice = applyEdit(once.value.definition, second.edit);
      if (!twice.ok) throw new Error(JSON.stringify(twice.diagnostics));
      const other = findPart(twice.value.definition, within(list, second.key))?.part as unknown as { name: string };
      expect(other.name).not.toBe(part.name);
    },
  );

  test('a request or a file without an outlet is refused, and nothing is changed', () => {
    const { edit } = newConsequence(LISTS.web, 'web', []);
    expect(applyEdit(workflow, edit).ok).toBe(false);
    expect(applyEdit(workflow, newConsequence(LISTS.file, 'file', []).edit).ok).toBe(false);
    expect(workflow).toEqual(smallWorkflow({}));
  });

  test('a reminder goes out a working day before, with a mail that can be sent as it is', () => {
    const dated = smallWorkflow({ stages: { work: { due: START_DUE } } });
    const first = newReminder('work', []);
    const once = applyEdit(dated, first.edit);
    if (!once.ok) throw new Error(JSON.stringify(once.diagnostics));
    const part = findPart(once.value.definition, `stages.work.reminders.${first.key}`)?.part as unknown as {
      readonly key: string;
      readonly name: string;
    };
    expect(part).toMatchObject({ offset: { count: 1, unit: 'working-days', side: 'before' } });
    expect(newReminder('work', [part]).key).not.toBe(first.key);
    expect(compileWorkflow(once.value.definition).diagnostics).toEqual([]);
  });
});
