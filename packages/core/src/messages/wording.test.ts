import { describe, expect, test } from '@jest/globals';
import { smallWorkflow } from '@ypomet/testkit/small-workflow';
import { readOutline } from '../expressions/outline/read.ts';
import { parseExpression } from '../expressions/parse.ts';
import { describeExpression, describeOutline, phrasesOf } from './describe-outline.ts';
import { makeWording } from './wording.ts';

const other = smallWorkflow({ key: 'crates', fields: [{ type: 'money', key: 'cost', name: 'Cost', currency: 'USD' }] });
const workflow = smallWorkflow({
  fields: [
    { type: 'money', key: 'value', name: 'Total value', currency: 'EUR' },
    { type: 'number', key: 'lux', name: 'Lux limit', unit: 'lx' },
    { type: 'choice', key: 'venue', name: 'Venue', options: [{ code: 'home', label: 'At home' }] },
    { type: 'text', key: 'remark', name: 'Remark' },
    { type: 'member', key: 'who', name: 'Responsible' },
    { type: 'date', key: 'from', name: 'From' },
    { type: 'yes-no', key: 'fragile', name: 'Fragile' },
    { type: 'reference', key: 'crate', name: 'Crate', workflow: 'crates' },
    {
      type: 'table',
      key: 'objects',
      name: 'Objects',
      fields: [
        { type: 'money', key: 'insured', name: 'Insured value', currency: 'EUR' },
        { type: 'choice', key: 'material', name: 'Material', options: [{ code: 'oil', label: 'Oil paint' }] },
      ],
    },
  ],
});
const style = { locale: 'en-GB', zone: 'Europe/Vienna', nameOf: (id: string) => (id === 'm1' ? 'Ines Halvard' : null) };
const wording = makeWording(workflow, style, (key) => (key === 'crates' ? other : null));
const node = (text: string) => {
  const parsed = parseExpression(text);
  if (!parsed.ok) throw new Error(text);
  return parsed.value;
};

describe('conditions in the words of a workflow', () => {
  test.each<[string, string]>([
    ['value > 50000', 'Total value is above €50,000.00'],
    ['lux <= 50', 'Lux limit is at most 50 lx'],
    ['venue = "home"', 'Venue is At home'],
    ['venue in ("home", "gone")', 'Venue is one of At home, “gone”'],
    ['remark = "home"', 'Remark is “home”'],
    ['contains(remark, "x")', 'Remark contains “x”'],
    ['who = "m1"', 'Responsible is Ines Halvard'],
    ['who = "m2"', 'Responsible is “m2”'],
    ['from < @"2027-03-12"', 'From is before 12 Mar 2027'],
    ['from > today() + @"P14D"', 'From is after 14 days after today'],
    ['from > working days(today(), 5)', 'From is after 5 working days after today'],
    ['from < working days(from, -2)', 'From is before 2 working days before From'],
    ['from between today() and today() + @"P1D"', 'From is in the coming 1 day'],
    ['fragile', 'Fragile is yes'],
    ['fragile = false', 'Fragile is no'],
    ['value > lux', 'Total value is above Lux limit'],
    ['value - 100 > 0', 'Total value − €100.00 is above 0'],
    ['value > lux * (value + 2)', 'Total value is above Lux limit × (Total value + €2.00)'],
    ['crate.cost > 5', 'Crate › Cost is above US$5.00'],
    ['crate.nothing = 1', 'Crate › nothing is 1'],
    ['some o in objects satisfies o.material = "oil"', 'any row of Objects where Material is Oil paint'],
    ['some o in objects satisfies o.insured > value', 'any row of Objects where Insured value is above Total value'],
    ['count(objects[material = "oil"]) > 1', 'the number of rows of Objects where Material is Oil paint is above 1'],
    ['sum(concatenate([0], objects.insured[item != null])) > 5', 'the total of Objects › Insured value is above €5.00'],
    ['sum(objects.insured) > 5', 'the sum of Objects › Insured value is above 5'],
    ['record.track = "main"', 'Record’s track is Main'],
    ['record.stage = "gone"', 'Record’s stage is “gone”'],
    ['list contains(actor.roles, "chief")', 'Roles of who acts includes “chief”'],
    ['string length(remark) > 3', 'string length(Remark) is above 3'],
    ['gone = 1', 'gone is 1'],
  ])('%s', (text, said) => {
    expect(describeOutline(readOutline(node(text)), wording)).toBe(said);
  });

  test('what a value is made of', () => {
    expect(describeExpression(node('if fragile then value else null'), wording)).toBe(
      'Total value if Fragile is yes, otherwise nothing',
    );
    expect(describeExpression(node('value * 0.1'), wording)).toBe('Total value × 0.1');
    expect(describeExpression(node('for x in objects return x.insured'), wording)).toBe('for x in objects return x.insured');
  });

  test('a clause in its parts', () => {
    const clause = readOutline(node('value between 1 and 2'));
    expect(clause.kind === 'clause' && phrasesOf(clause, wording).map(({ kind, text }) => `${kind}: ${text}`)).toEqual([
      'subject: Total value',
      'comparison: is between',
      'value: €1.00',
      'join: and',
      'value: €2.00',
    ]);
  });
});
