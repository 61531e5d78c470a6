import { expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { handedOn, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import { writePlain } from '../templates/rich-text.ts';
import { checkAcknowledgement, fillAcknowledgement } from './own-acknowledgement.ts';

// A text that is read after a hand-off and isn't part of the design: of a public link.
const workflow = smallCompiled({
  fields: [
    { type: 'text', key: 'who' },
    { type: 'number', key: 'secret', confidentialTo: ['chief'] },
    { type: 'number', key: 'twice', expression: 'secret * 2' },
  ],
});
const guest = { id: 'g', name: 'Guest', email: null, roles: [] };
const record = { ...recordOf(workflow), values: { who: 'Beryl', secret: '21' } };
const filled = (text: string) =>
  writePlain(fillAcknowledgement(workflow, text, handedOn(workflow, record, 'send').record, guest, OUTSIDE)).trim();

test('it is filled in with the record as it is after the hand-off', () => {
  expect(filled('Thank you, {{who}}: it is at {{record.stage}}.')).toBe('Thank you, Beryl: it is at work.');
});

test('it holds nothing that its reader may not read, however it is made', () => {
  const text = filled('{{who}} {{secret}} {{twice}}');
  expect(text).not.toMatch(/21|42/);
});

test('what is wrong with it is told with its place', () => {
  const [fault] = checkAcknowledgement(workflow, 'Thank you, {{whom}}.');
  expect(fault).toMatchObject({ code: 'expression/unknown-name-near', path: 'text' });
  expect(checkAcknowledgement(workflow, 'Thank you, {{who}}.')).toEqual([]);
  expect(checkAcknowledgement(workflow, '{{who').length).toBeGreaterThan(0);
});
