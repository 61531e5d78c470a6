import { expect, test } from '@jest/globals';
import { richWorkflow } from '@ypomet/testkit/rich-workflow';
import { compileWorkflow } from '../flow/compile-workflow.ts';
import { describeTerm } from '../messages/describe.ts';
import type { Workflow } from '../model/workflow.ts';
import { isFault } from '../shared/codes.ts';
import { applyEdit } from './apply-edit.ts';
import { partAround, termOfPart } from './naming.ts';
import { foreseeDeletion } from './parts/delete-part.ts';

const rich = richWorkflow();
/** Whether a fault's path leads to an expression. Other faults, such as a workflow without an end, aren't foreseen. */
const isOfExpression = (path: string): boolean =>
  /\.(when|condition|expression|value|default|offeredWhen|then|body|subject|text)\b/.test(path);

test('what follows is foreseen: what goes, what stays without it, and what will be a fault', () => {
  const faultsOf = (definition: Workflow): readonly string[] =>
    compileWorkflow(definition)
      .diagnostics.filter(isFault)
      .map(({ path }) => path);
  const [faultsBefore, context] = [new Set(faultsOf(rich)), { findWorkflow: () => null }];
  const deletable = [
    ...rich.fields.map(({ key }) => `fields.${key}`),
    ...rich.stages.map(({ key }) => `stages.${key}`),
    ...rich.decisionTables.map(({ key }) => `decisionTables.${key}`),
    ...rich.handOffs.map(({ key }) => `handOffs.${key}`),
  ];
  let broken = 0;
  for (const path of deletable) {
    const [foreseen, edited] = [
      foreseeDeletion(rich, path, context),
      applyEdit(rich, { type: 'delete-part', part: path, withUses: true }, context),
    ];
    if (!edited.ok || !foreseen) continue;
    const breaks = foreseen.breaks.map((one) => describeTerm(one));
    const { definition } = edited.value;
    const fresh = faultsOf(definition).filter((fault) => !faultsBefore.has(fault) && isOfExpression(fault));
    broken += fresh.length;
    for (const fault of fresh) expect(breaks).toContain(describeTerm(termOfPart(definition, partAround(definition, fault))));
    for (const gone of foreseen.goes) expect(breaks).not.toContain(describeTerm(gone));
  }
  expect(broken).toBeGreaterThan(10);
  const { goes, loses, breaks } = foreseeDeletion(rich, 'stages.look', context) ?? { goes: [], loses: [], breaks: [] };
  expect([goes, loses, breaks].map((terms) => terms.map((one) => describeTerm(one)))).toMatchInlineSnapshot(`
[
  [
    "the branch “Quick” of the hand-off “Send”",
    "the hand-off “Close”",
  ],
  [
    "the adjustment “Away”",
  ],
  [],
]
`);
});
