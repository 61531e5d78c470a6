/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import {
  blankRecord,
  compileWorkflow,
  type Field,
  type Json,
  makeOutside,
  ORDINARY_CALENDAR,
  prepareWorkflow,
  readValue,
} from '@ypomet/core';
import { useState } from 'react';
import { askWorkflow } from '../../../testing/ask-workflow.ts';
import { renderPart } from '../../../testing/render.tsx';
import { todayIn } from '../../shared/reading/today.ts';
import { type Entered, makeFormState } from './form-state.ts';
import { type FormWorld, FormWorldProvider } from './form-world.tsx';
import { RecordForm } from './RecordForm.tsx';

const ZONE = 'Europe/Vienna';
const TYPES = [
  { type: 'number', scale: 2, unit: 'lux' },
  { type: 'money', currency: 'EUR' },
  { type: 'date' },
  { type: 'time' },
  { type: 'date-time' },
] as const;
/** A form with one field of a type, and a table with one column of it. */
const formOf = (type: (typeof TYPES)[number]) =>
  compileWorkflow(
    askWorkflow([
      { ...type, key: 'own', name: 'Own' },
      { type: 'table', key: 'rows', name: 'Rows', fields: [{ ...type, key: 'cell', name: 'Cell' }] },
    ]),
  );
type Compiled = ReturnType<typeof formOf>;
const ACTOR = { id: 'a', name: 'A', email: null, roles: [] };

/** Texts that people write or paste, with signs, marks, words and mistakes of many kinds. */
const TEXTS = ['18.5', '-.5', '€1,250.50', '62,400', '12.345', '12abc', '٤٥٫٥', '28.3.2027, 2:30 PM', '1.2.85', '14h30'];

let locale = 'en-GB';
const worldOf = (): FormWorld => ({
  zone: ZONE,
  locale,
  names: {},
  findChoices: async () => [],
  handOver: () => Promise.reject(new Error('no files here')),
  filesOf: null,
  signer: 'A',
  brokenSignOffs: [],
});

/** A form over what was kept of it; `kept` is what the next visit finds. */
function Host({ compiled, kept }: { readonly compiled: Compiled; readonly kept: { current: Entered } }) {
  const [entered, setEntered] = useState(kept.current);
  const outside = makeOutside({ now: 0, zone: ZONE, locale, calendar: ORDINARY_CALENDAR });
  const record = blankRecord(compiled, 'ask', 'r', null, ACTOR, outside);
  const { form, unreadable } = makeFormState({ workflow: compiled, record, actor: ACTOR, outside }, entered);
  return (
    <FormWorldProvider value={worldOf()}>
      <RecordForm
        form={form}
        record={record}
        entered={entered}
        unreadable={unreadable}
        issues={new Map()}
        style={{ locale, zone: ZONE }}
        isOpen
        onEnter={(key, value) =>
          setEntered((before) => {
            kept.current = JSON.parse(JSON.stringify({ ...before, [key]: value })) as Entered;
            return kept.current;
          })
        }
      />
    </FormWorldProvider>
  );
}

const NEW_ROW = { id: 'r1', values: {} };
const INPUTS = ['Own', 'Cell, row 1'] as const;
type Input = (typeof INPUTS)[number];

function keptOf(kept: Entered, name: Input): Json {
  if (name === 'Own') return kept.own ?? null;
  const [row] = kept.rows as unknown as readonly { readonly values: Readonly<Record<string, Json>> }[];
  return row?.values.cell ?? null;
}

/** Enters a text by keys or by a paste and leaves the input; what the next visit, on another machine, shows and holds. */
async function enter(compiled: Compiled, name: Input, text: string, way: 'typed' | 'pasted') {
  const user = userEvent.setup({ delay: null });
  const kept = { current: { rows: [NEW_ROW] } as unknown as Entered };
  renderPart(<Host compiled={compiled} kept={kept} />);
  await user.click(screen.getByLabelText(name));
  if (way === 'pasted') await user.paste(text);
  else await user.keyboard(text);
  const whileTyped = (screen.getByLabelText(name) as HTMLInputElement).value;
  await user.tab();
  cleanup();
  renderPart(<Host compiled={compiled} kept={kept} />);
  const inputs = INPUTS.filter((one) => screen.queryByLabelText(one) !== null).length;
  const shown = (screen.getByLabelText(name) as HTMLInputElement).value;
  cleanup();
  return { json: keptOf(kept.current, name), whileTyped, shown, inputs };
}

// Typing any text types each of its beginnings too: an input that a half-typed text took away would miss the other keys.
describe('what is typed or pasted is kept as it was meant', () => {
  const [, , ...temporal] = TYPES;
  const cases = [
    ...TYPES.flatMap((type) => INPUTS.map((name) => ['en-GB', type.type, name, type] as const)),
    ...[TYPES[0], temporal[0]].map((type) => ['ar-EG', type.type, 'Own', type] as const),
  ];
  test.each(cases)(
    'in %s: %s, %s',
    async (own, _, name, type) => {
      locale = own;
      const compiled = formOf(type);
      const field = compiled.definition.fields[0] as Field;
      const style = { locale, zone: ZONE, today: todayIn(ZONE) };
      for (const text of TEXTS) {
        const [typed, pasted] = [await enter(compiled, name, text, 'typed'), await enter(compiled, name, text, 'pasted')];
        expect([text, typed.whileTyped, typed.inputs]).toEqual([text, text, INPUTS.length]);
        expect([text, pasted]).toEqual([text, typed]);
        const reading = readValue(text, field, style);
        if (reading.kind === 'value') {
          expect([text, typed.json]).toEqual([text, reading.value]);
          expect([text, readValue(typed.shown, field, style)]).toEqual([text, reading]);
        } else expect([text, typed.json, typed.shown]).toEqual([text, { typed: text }, text]);
      }
    },
    60_000,
  );
});

test('one cell that can’t be read costs that cell alone, also where an earlier version kept it as it was typed', () => {
  locale = 'en-GB';
  const compiled = formOf({ type: 'money', currency: 'EUR' });
  const rows = [
    { id: 'r1', values: { cell: '18.' } },
    { id: 'r2', values: { cell: { typed: '5 kg' } } },
    { id: 'r3', values: { cell: '7' } },
  ];
  renderPart(<Host compiled={compiled} kept={{ current: { rows } as unknown as Entered }} />);
  expect([1, 2, 3].map((row) => (screen.getByLabelText(`Cell, row ${row}`) as HTMLInputElement).value)).toEqual([
    '18.',
    '5 kg',
    '7.00',
  ]);
  expect(screen.getAllByRole('alert').map(({ textContent }) => textContent)).toEqual([
    'This is not a number. Write it like 1,250.50.',
  ]);
});

test('a text says while it is typed that it hasn’t its form yet, in the analyst’s words, and stops when it has', async () => {
  // Compiled part by part, as in the browser: the engine of patterns is not loaded before somebody types into such a text.
  const user = userEvent.setup();
  const messages = { pattern: 'Two letters and four digits.' };
  const prepared = prepareWorkflow(
    askWorkflow([
      { type: 'text', key: 'own', name: 'Own', pattern: '[A-Z]{2}[0-9]{4}', messages },
      { type: 'text', key: 'plain', name: 'Plain', pattern: '[0-9]+' },
    ]),
  );
  const compiled = { ...prepared, diagnostics: [] };
  renderPart(<Host compiled={compiled} kept={{ current: {} }} />);
  const own = screen.getByLabelText('Own');
  expect(screen.queryByText(messages.pattern)).toBeNull();
  await user.type(own, 'AB12');
  expect(await screen.findByText(messages.pattern)).toBeTruthy();
  await user.type(own, '34');
  expect(screen.queryByText(messages.pattern)).toBeNull();
  await user.type(screen.getByLabelText('Plain'), 'x');
  expect(await screen.findByText('It hasn’t the form that is asked for yet.')).toBeTruthy();
  await user.clear(screen.getByLabelText('Plain'));
  expect(screen.queryByText('It hasn’t the form that is asked for yet.')).toBeNull();
});
