import { type Field, type Json, type ReadStyle, readValue, type SubField, type WhyUnread } from '@ypomet/core';

/** A cell's value as JSON of its field, or why it can't be taken. */
export type CellRead = { readonly json: Json } | { readonly why: string };

const WHY: Readonly<Record<WhyUnread, string>> = {
  number: 'not a number',
  digits: 'a number of more than 34 digits',
  currency: 'an amount in another currency or unit',
  day: 'not a day',
  'no-such-day': 'not a day of the calendar',
  time: 'not a time',
  moment: 'not a day with a time',
  skipped: 'a time that the clocks skip on that day',
  'yes-no': 'neither yes nor no',
  option: 'none of the options',
  options: 'not all of the options',
  'by-hand': 'to be chosen by hand',
};

/** Reads a cell of a sheet or of pasted lines, as people and spreadsheets write it, or as an export of ours does. Empty is null. */
export function readCell(text: string, field: Field | SubField, style: ReadStyle): CellRead {
  const reading = readValue(text, field, style);
  switch (reading.kind) {
    case 'nothing':
      return { json: null };
    case 'value':
      return placesIn(reading.value) > placesOf(field)
        ? { why: `a number of more than ${placesOf(field)} decimal places` }
        : { json: reading.value };
    case 'either':
      return { why: `either ${String(reading.values[0])} or ${String(reading.values[1])}` };
    case 'unread':
      return { why: WHY[reading.why] };
    default:
      return reading satisfies never;
  }
}

const placesIn = (json: Json): number => (typeof json === 'string' ? (json.split('.')[1]?.length ?? 0) : 0);
const placesOf = (field: Field | SubField): number =>
  field.type === 'number' || field.type === 'money' ? field.scale : Number.POSITIVE_INFINITY;
