import { expect, test } from '@jest/globals';
import { describeTerm } from '../messages/describe.ts';
import { isOfKind, termOfFileKind } from './file-kind.ts';

// Endings as IANA's media type registrations name them (from memory).
test.each([
  ['application/pdf', 'PDF'],
  ['.csv', 'CSV'],
  ['text/csv', 'CSV'],
  ['image/*', 'pictures'],
  ['audio/*', 'sound recordings'],
  ['video/*', 'films'],
  ['text/*', 'texts'],
  ['text/plain', 'plain text'],
  ['image/jpeg', 'JPEG'],
  ['application/vnd.openxmlformats-officedocument.spreadsheetml.sheet', 'XLSX'],
  ['application/*', 'application/*'],
  ['application/vnd.rare-thing+xml', 'application/vnd.rare-thing+xml'],
])('%s is called %s', (kind, name) => {
  expect(describeTerm(termOfFileKind(kind))).toBe(name);
});

test.each([
  [[], 'a.exe', 'application/x-msdownload', true],
  [['application/pdf'], 'a.pdf', 'Application/PDF; version=1.7', true],
  [['image/*'], 'a.png', 'image/png', true],
  [['image/*'], 'a.png', 'images/png', false],
  [['.csv'], 'LIST.CSV', '', true],
  [['.csv'], 'csv', 'text/csv', false],
])('%j takes %s of type “%s”: %s', (kinds, name, mediaType, isTaken) => {
  expect(isOfKind(kinds, { name, mediaType })).toBe(isTaken);
});
