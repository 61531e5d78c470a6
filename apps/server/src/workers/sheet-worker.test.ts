import { expect, test } from '@jest/globals';
import readSheet from 'read-excel-file/node';
import writeWorkbook from './sheet-worker.ts';

// Read back by another library than the one that writes; escapes as in ECMA-376, part 1, 22.9.2.19 (ST_Xstring).
test.each([
  ['the mark of a letter that could not be read', 'before\ufffdafter'],
  ['a control character', 'bell\u0007, tabs\tand\nlines'],
  ['a carriage return', 'one\r\ntwo'],
  ['what looks like an escape', '_x0041_ and _x005F_x0041_'],
  ['an underscore before nothing of the kind', 'a_x_b _x12_ __x0041_'],
  ['letters outside the basic plane', '𝒳 🏺'],
  ['what XML gives a meaning', '<b>&amp;</b> "quoted"'],
])('%s comes back from a workbook as it was', async (_name, text) => {
  const bytes = await writeWorkbook({ name: 'Register', rows: JSON.stringify([['Head'], [text]]) });
  const [{ data: rows }] = (await readSheet(Buffer.from(bytes))) as never as [{ data: readonly unknown[][] }];
  expect(rows).toEqual([['Head'], [text]]);
});
