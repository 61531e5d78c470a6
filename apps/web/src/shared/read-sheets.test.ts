import { expect, test } from '@jest/globals';
import { cellText } from './read-sheets.ts';

// Days are counted from 30 December 1899, times are fractions of a day (ECMA-376-1, 18.17.4.1).
const day = (serial: number): Date => new Date(Date.UTC(1899, 11, 30) + serial * 86_400_000);

test.each([
  ['nothing', null, ''],
  ['a text', '0012', '0012'],
  ['a truth', true, 'true'],
  ['a number', { number: '1250' }, '1250'],
  ['a number with places', { number: '1.125' }, '1.125'],
  ['a number that isn’t kept exactly', { number: '1.1000000000000001' }, '1.1'],
  ['a sum that isn’t kept exactly', { number: '0.30000000000000004' }, '0.3'],
  ['a small number', { number: '1.5E-7' }, '0.00000015'],
  ['a large number', { number: '1.5E+9' }, '1500000000'],
  ['fifteen figures', { number: '-123456789012345' }, '-123456789012345'],
  ['no number', { number: 'x' }, 'x'],
  ['a day', day(46_458), '2027-03-12'],
  ['a day with a time', day(46_458 + 9.5 / 24), '2027-03-12T09:30'],
  ['a day with seconds', day(46_458 + 34_215 / 86_400), '2027-03-12T09:30:15'],
  ['a time', day(9.5 / 24), '09:30'],
  ['midnight', day(0), '00:00'],
])('%s is read as it is shown', (_name, cell, text) => {
  expect(cellText(cell)).toBe(text);
});

test('numbers have the mark that is asked for; texts keep theirs', () => {
  expect(cellText({ number: '1250.5' }, ',')).toBe('1250,5');
  expect(cellText('1250.5', ',')).toBe('1250.5');
});
