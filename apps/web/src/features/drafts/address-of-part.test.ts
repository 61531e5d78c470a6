import { describe, expect, test } from '@jest/globals';
import { describeTerm, partAround, termOfPart } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { addressOfPart } from './address-of-part.ts';

const workflow = sampleWorkflow();
const [handOff] = workflow.handOffs;
const [stage] = workflow.stages;
if (!handOff || !stage) throw new Error('the sample has hand-offs and stages');
const [send, ask] = [`handOffs.${handOff.key}`, `stages.${stage.key}`];

describe('a part of the design is shown on the page that edits it', () => {
  test.each([
    ['fields.price', 'plan', 'fields.price'],
    ['fields.price.max', 'plan', 'fields.price.max'],
    ['plan.price.ask', 'plan', 'fields.price'],
    ['plan."parts.amount".ask', 'plan', 'fields.parts.fields.amount'],
    ['checks.total.condition', 'decisions', 'checks.total'],
    ['decisionTables.risk.rules.r1', 'decisions', 'decisionTables.risk'],
    [`${send}.branches.a.when`, 'plan', `${send}.branches.a.when`],
    [`${send}.deliveries.mail.subject`, 'consequences', `${send}.deliveries.mail`],
    [`${send}.followUps.report`, 'consequences', `${send}.followUps.report`],
    [`${send}.acknowledgements.thanks.text`, 'consequences', `${send}.acknowledgements.thanks`],
    [`${ask}.due.offset`, 'consequences', `${ask}.due`],
    [`${ask}.onArrival.deliveries.told`, 'consequences', `${ask}.onArrival.deliveries.told`],
    [`${ask}.reminders.soon.deliveries.told`, 'consequences', `${ask}.reminders.soon.deliveries.told`],
    [`${ask}.reminders.soon`, 'plan', `${ask}.reminders.soon`],
  ])('%s', (path, page, at) => {
    expect(addressOfPart(workflow, path)).toBe(`/workflows/${workflow.key}/${page}?at=${encodeURIComponent(at)}`);
  });

  test.each([
    ['tests.t1', 'rehearse'],
    ['fields.gone', 'plan'],
    ['name', 'plan'],
    ['', 'plan'],
  ])('%s, which no page selects', (path, page) => {
    expect(addressOfPart(workflow, path)).toBe(`/workflows/${workflow.key}/${page}`);
  });
});

test.each([
  ['fields.price.max', 'fields.price'],
  ['plan."parts.amount".ask', 'fields.parts.fields.amount'],
  [`${ask}.due.offset`, ask],
  [`${send}.branches.gone.when`, send],
  ['name', ''],
])('what %s belongs to has a name', (path, part) => {
  const around = partAround(workflow, path);
  expect(around).toBe(part);
  expect(describeTerm(termOfPart(workflow, around))).toMatch(/“.+”|\w/);
});
