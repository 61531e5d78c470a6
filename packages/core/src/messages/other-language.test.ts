import { describe, expect, test } from '@jest/globals';
import { smallCompiled } from '@ypomet/testkit/small-workflow';
import { applyEdit } from '../edits/apply-edit.ts';
import { EDIT_KINDS } from '../edits/registry.ts';
import { readOutline } from '../expressions/outline/read.ts';
import { parseExpression } from '../expressions/parse.ts';
import { TYPES } from '../expressions/types.ts';
import { parseWorkflow } from '../model/read-workflow.ts';
import type { Diagnostic } from '../shared/diagnostic.ts';
import type { Language } from './codes.ts';
import {
  describeBuiltin,
  describeDiagnostic,
  describeEdit,
  describeEvent,
  describeTerm,
  describeType,
  howToMend,
} from './describe.ts';
import { describeOutline } from './describe-outline.ts';
import { EN } from './en.ts';
import type { Wording } from './wording.ts';

/** Letters of another alphabet for every letter of a text outside its placeholders. */
const invent = (text: string): string =>
  text.replace(/\{\w+\}|[A-Za-z]/g, (found) =>
    found.length > 1 ? found : String.fromCodePoint(0x13a0 + (found.codePointAt(0) ?? 0) - 65),
  );

function inventAll<T>(of: T): T {
  if (typeof of === 'string') return invent(of) as T;
  return Object.fromEntries(Object.entries(of as object).map(([key, value]) => [key, inventAll(value)])) as T;
}

/** A language that nobody speaks: one file's worth, made from the English one. */
const INVENTED: Language = inventAll(EN);

/** Latin letters that are left in a sentence, apart from those of names and values, which here are digits and capitals. */
const leftIn = (sentence: string, values: readonly string[]): string => {
  const rest = [...values].sort((a, b) => b.length - a.length).reduce((text, value) => text.replaceAll(value, ''), sentence);
  return rest.match(/[a-z]{2,}/g)?.join(' ') ?? '';
};

function valuesOf(params: unknown): readonly string[] {
  if (typeof params === 'string') return [params];
  if (typeof params !== 'object' || params === null) return [];
  return Object.entries(params).flatMap(([name, value]) => (name === 'term' ? [] : valuesOf(value)));
}

const sentencesOf = (one: Diagnostic): string => `${describeDiagnostic(one, INVENTED)} ${howToMend(one, INVENTED)}`;

describe('a second language is one more file: no sentence is made elsewhere', () => {
  test('every sentence of the English file has another in it', () => {
    expect(
      leftIn(
        Object.values(INVENTED.messages)
          .map(({ text, mend }) => text + mend)
          .join(' ')
          .replace(/\{\w+\}/g, ''),
        [],
      ),
    ).toBe('');
    expect(describeDiagnostic({ code: 'form/required', path: 'x', params: { field: '1' } }, INVENTED)).not.toContain('required');
  });

  test.each(FAULTY_EXPRESSIONS())('a fault in the expression %s', (text) => {
    const { diagnostics } = smallCompiled({
      fields: [
        { type: 'number', key: 'n' },
        { type: 'choice', key: 'c', options: [{ code: 'A', label: 'A' }] },
        { type: 'table', key: 't', fields: [{ type: 'text', key: 'x', name: 'X' }] },
      ],
      handOffs: { send: { offeredWhen: text } },
    });
    expect(diagnostics.length).toBeGreaterThan(0);
    for (const one of diagnostics) {
      // What is quoted of the expression are values; the operators and names in it are the language's own.
      expect([one.code, leftIn(sentencesOf(one), [...valuesOf(one.params), text])]).toEqual([one.code, '']);
    }
  });

  test('a definition that hasn’t the form of one', () => {
    const read = parseWorkflow({ key: 'Not a key', name: 5, fields: [{}], extra: 1, tracks: [], format: 'x' });
    if (read.ok) throw new Error('read');
    expect(read.diagnostics.length).toBeGreaterThan(4);
    for (const one of read.diagnostics)
      expect([one.path, leftIn(sentencesOf(one), valuesOf(one.params))]).toEqual([one.path, '']);
  });

  test('conditions, types, built-ins, events and edits', () => {
    const wording: Wording = { zone: 'UTC', nameOf: () => '1', fieldAt: () => null, format: () => '2', within: () => wording };
    const texts = [
      'a = 1 and (b > 2 or c in (1, 2))',
      'not(a)',
      'some r in t satisfies r.x = true',
      'count(t) > 1',
      'd < @"P3D"',
      'a = null',
      'a + 1 > -b * 2',
      'a > today() - @"P30D" and now() > b',
      'sum(t.c) > if a then b else 2',
      'count(t[c > 1]) = 2',
      't[c] = [1, 2]',
    ];
    for (const text of texts) {
      const parsed = parseExpression(text);
      if (!parsed.ok) throw new Error(text);
      const said = describeOutline(readOutline(parsed.value), wording, INVENTED);
      expect([text, leftIn(said, ['not', 'null'])]).toEqual([text, '']);
    }
    for (const type of Object.values(TYPES)) expect(leftIn(describeType(type, INVENTED), [])).toBe('');
    expect(leftIn(describeBuiltin('count', INVENTED), [])).toBe('');
    const event = { type: 'handed-on', by: null, handOff: '1', from: '2', to: '3', unassigned: 'nobody' } as const;
    expect(leftIn(describeEvent(event, INVENTED), [])).toBe('');
    const small = smallCompiled({ fields: [{ type: 'number', key: 'n' }] }).definition;
    const edited = applyEdit(small, { type: 'set-treatments', cells: [{ field: 'n', stage: 'work', treatment: 'required' }] });
    if (!edited.ok) throw new Error('refused');
    expect(describeEdit(edited.value.sentence)).toBe('made “n” required at Work');
    expect(leftIn(describeEdit(edited.value.sentence, INVENTED), ['Work', 'n'])).toBe('');
    for (const type of Object.keys(EDIT_KINDS)) expect(type).toMatch(/^[a-z-]+$/);
    expect(leftIn(describeTerm({ term: 'part/hand-off' }, INVENTED), [])).toBe('');
  });
});

function FAULTY_EXPRESSIONS(): readonly string[] {
  return [
    'n >',
    'n = ',
    'n == 1',
    '(n = 1',
    'n = 1)',
    '{a: 1}',
    'n instance of number',
    'for in [1] return 1',
    'n.x = 1',
    'm = 1',
    'c = "B"',
    'c < 1',
    'n + "A" = 1',
    'n',
    'count(n) = 1',
    'sum("A") = 1',
    'count(1, 2, 3) = 1',
    'unheard(1)',
    't = null',
    't[1] = 5',
    '-"A" = 1',
    'if n = 1 then 1 else true',
    '@"never" = 1',
    'matches("A", "(") = true',
    'n = 1 and "A"',
    'some x in n satisfies x',
    '"A',
  ];
}
