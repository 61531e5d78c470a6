import { blankRecord, compileWorkflow, fillForm, makeOutside, makeWording, ORDINARY_CALENDAR } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { type ConditionPlace, explainsOn } from '../src/features/conditions/place.ts';

const workflow = sampleWorkflow();
const compiled = compileWorkflow(workflow);
const OUTSIDE = makeOutside({ now: Date.UTC(2026, 10, 25), zone: 'UTC', locale: 'en-GB', calendar: ORDINARY_CALENDAR });
const ACTOR = { id: 'a', name: 'A', email: null, roles: [] };
const record = { ...blankRecord(compiled, 'ask', 'r', null, ACTOR, OUTSIDE), values: { price: '1000.00', kind: 'goods' } };
const { form } = fillForm(compiled, record, {}, ACTOR, OUTSIDE);
const style = { locale: 'en-GB', zone: 'UTC' };
const { scope } = compiled.forms.layout;
const wording = makeWording(workflow, style);
/** A condition over the record of the sample workflow, tried on a record with a price and a kind. */
export const place: ConditionPlace = {
  workflow,
  findWorkflow: () => null,
  scope,
  wording,
  style,
  members: [],
  environment: OUTSIDE,
  explain: explainsOn(scope, form),
  rows: null,
  mayBeNamed: true,
};
