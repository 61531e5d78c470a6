/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { RecordHeader, Session } from '@ypomet/contract';
import { HEADER, WORKSPACE } from '@ypomet/contract/example-parts';
import fc from 'fast-check';
import { useState } from 'react';
import { askWorkflow } from '../../../testing/ask-workflow.ts';
import { renderPart } from '../../../testing/render.tsx';
import { SessionProvider } from '../session/queries.ts';
import type { Entered } from './form-state.ts';
import { type FormWorld, useFormWorld } from './form-world.tsx';
import { ParticipantForm } from './ParticipantForm.tsx';

const session = { member: { id: 'm', name: 'Beryl', email: null, roles: [] }, workspace: WORKSPACE } as unknown as Session;

function documentOf(count: number) {
  const fields = Array.from({ length: count }, (_, index) => ({
    type: 'text',
    key: `f${index}`,
    name: `Field ${index}`,
    treatment: index === 0 ? 'required' : 'optional',
  }));
  return { definition: askWorkflow(fields), values: {}, askAgainFor: [], withheld: [], brokenSignOffs: [], names: {} };
}

/** Keeps what inputs are given of the world around them. */
function Listener({ worlds }: { readonly worlds: Set<FormWorld> }) {
  worlds.add(useFormWorld());
  return null;
}

type HostProps = {
  readonly count?: number;
  readonly worlds?: Set<FormWorld>;
  readonly document?: object;
  readonly begun?: Entered;
  readonly onAsk?: (values: Entered) => Promise<never>;
  readonly onHandOn?: (handOff: string, values: Entered) => void;
};

function Host({ count = 2, worlds = new Set(), begun = {}, onAsk, onHandOn = () => {}, ...given }: HostProps) {
  const [document] = useState(() => given.document ?? documentOf(count));
  const [entered, setEntered] = useState<Entered>(begun);
  return (
    <SessionProvider value={session}>
      <ParticipantForm
        header={{ ...HEADER, stage: 'ask', stageKind: 'intake' } as unknown as RecordHeader}
        document={document as never}
        mayAct
        isSending={false}
        problem={null}
        entered={entered}
        onEntered={setEntered}
        opening={<Listener worlds={worlds} />}
        // As pages do it: another function each time.
        findChoices={async () => []}
        filesOf={null}
        onAsk={(values) => onAsk?.(values as Entered) ?? Promise.reject(new Error('nothing to ask'))}
        onHandOn={(handOff, values) => onHandOn(handOff, values as Entered)}
      />
    </SessionProvider>
  );
}

describe('a participant’s form', () => {
  test('gives its inputs the same world while somebody enters, so that one answer draws no other input', async () => {
    const worlds = new Set<FormWorld>();
    renderPart(<Host count={3} worlds={worlds} />);
    await userEvent.type(screen.getByLabelText(/^Field 0/), 'abc');
    await userEvent.type(screen.getByLabelText(/^Field 1/), 'x');
    expect(screen.getByLabelText(/^Field 0/)).toHaveProperty('value', 'abc');
    expect(worlds.size).toBe(1);
  });

  test('comes part by part where it is large, whole in the end', async () => {
    renderPart(<Host count={200} />);
    await waitFor(() => expect(screen.getByLabelText(/^Field 199/)).toBeInTheDocument());
    expect(screen.getAllByRole('textbox')).toHaveLength(200);
  });

  test('says what is missing, and no more once it is there', async () => {
    renderPart(<Host count={2} />);
    await userEvent.click(screen.getByRole('button', { name: 'Send' }));
    expect(screen.getByRole('alert')).toHaveTextContent('Field 0 is required.');
    // What is to be mended is a way to its input.
    screen.getByRole('button', { name: 'Send' }).focus();
    await userEvent.click(screen.getByRole('button', { name: 'Field 0 is required.' }));
    expect(screen.getByLabelText(/^Field 0/)).toHaveFocus();
    await userEvent.type(screen.getByLabelText(/^Field 0/), 'a');
    expect(screen.queryByRole('alert')).toBeNull();
  });
});

const documentWith = (fields: readonly object[], more: object = {}) => ({
  definition: askWorkflow(fields as never, more as never),
  values: {},
  askAgainFor: [],
  withheld: [],
  brokenSignOffs: [],
  names: {},
});

describe('a press', () => {
  test('is never taken while something that was typed can’t be read; the way to it is shown', async () => {
    const sent: Entered[] = [];
    const document = documentWith([{ type: 'money', key: 'price', name: 'Price', currency: 'EUR' }]);
    renderPart(<Host document={document} onHandOn={(_, values) => sent.push(values)} />);
    const input = screen.getByLabelText('Price');
    await userEvent.type(input, '12 abc');
    await userEvent.click(screen.getByRole('button', { name: 'Send' }));
    expect(sent).toEqual([]);
    expect(input).toHaveFocus();
    expect(screen.getByRole('button', { name: /^Price: what is typed there can’t be read/ })).toBeTruthy();
    await userEvent.clear(input);
    await userEvent.type(input, '1,250.50');
    await userEvent.click(screen.getByRole('button', { name: 'Send' }));
    expect(sent).toEqual([{ price: '1250.5' }]);
  });

  test('that drops answers says which, and asks once', async () => {
    const sent: Entered[] = [];
    const document = documentWith(
      [
        { type: 'yes-no', key: 'abroad', name: 'Abroad' },
        { type: 'text', key: 'country', name: 'Country' },
      ],
      {
        adjustments: [
          { key: 'home', name: 'Home', when: 'abroad = false', fields: ['country'], stages: ['ask'], treatment: 'hidden' },
        ],
      },
    );
    renderPart(<Host document={document} onHandOn={(_, values) => sent.push(values)} />);
    await userEvent.type(screen.getByLabelText('Country'), 'Norland');
    await userEvent.click(screen.getByRole('radio', { name: 'No' }));
    await userEvent.click(screen.getByRole('button', { name: 'Send' }));
    expect(sent).toEqual([]);
    expect(screen.getByRole('alertdialog')).toHaveTextContent('1 answer will be dropped');
    expect(screen.getByRole('alertdialog')).toHaveTextContent('Country (Norland)');
    expect(screen.getByRole('button', { name: 'Back to the form' })).toHaveFocus();
    await userEvent.keyboard('{Escape}');
    expect(screen.queryByRole('alertdialog')).toBeNull();
    expect(screen.getByRole('button', { name: 'Send' })).toHaveFocus();
    await userEvent.click(screen.getByRole('button', { name: 'Send' }));
    await userEvent.click(screen.getByRole('button', { name: 'Send all the same' }));
    expect(sent).toEqual([{ abroad: false }]);
  });

  test('asks where everything that is worth having is empty, and before what ends something', async () => {
    const sent: string[] = [];
    const document = documentWith([{ type: 'text', key: 'note', name: 'Remark', treatment: 'nudged' }], {
      handOffs: [
        { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'done' } },
        {
          key: 'stop',
          name: 'Withdraw',
          from: 'ask',
          checking: 'none',
          emphasis: 'final',
          confirmation: 'The request is closed.',
          otherwise: { to: 'done' },
        },
        {
          key: 'later',
          name: 'Agree',
          from: 'ask',
          offeredWhen: 'note = "x"',
          notYet: 'after two reports',
          otherwise: { to: 'done' },
        },
      ],
    });
    renderPart(<Host document={document} onHandOn={(handOff) => sent.push(handOff)} />);
    expect(screen.getByText('One worth having is open.')).toBeTruthy();
    expect(screen.getByText(/after two reports/)).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Send' }));
    expect(screen.getByRole('alertdialog')).toHaveTextContent('The one field that is worth having is empty.');
    await userEvent.click(screen.getByRole('button', { name: 'Back to the form' }));
    await userEvent.click(screen.getByRole('button', { name: 'Withdraw' }));
    expect(screen.getByRole('alertdialog')).toHaveTextContent('The request is closed.');
    await userEvent.click(screen.getByRole('button', { name: 'Withdraw all the same' }));
    expect(sent).toEqual(['stop']);
  });

  test('leaves out rows that were added and left blank', async () => {
    const sent: Entered[] = [];
    const fields = [{ type: 'text', key: 'title', name: 'Title' }];
    const document = documentWith([{ type: 'table', key: 'parts', name: 'Parts', fields }]);
    renderPart(<Host document={document} onHandOn={(_, values) => sent.push(values)} />);
    for (let row = 0; row < 3; row++) await userEvent.click(screen.getByRole('button', { name: 'Add a row' }));
    await userEvent.type(screen.getByLabelText('Title, row 2'), 'Lamp');
    await userEvent.click(screen.getByRole('button', { name: 'Send' }));
    await waitFor(() => expect(sent).toHaveLength(1));
    const rows = (sent[0]?.parts ?? []) as unknown as readonly { readonly values: object }[];
    expect(rows.map(({ values }) => values)).toEqual([{ title: 'Lamp' }]);
  });
});

// The server decides here whether a second field is required: only it knows what the first one leads to.
test('what a form shows is what the server decides, after any sequence of answers given, changed and taken back', async () => {
  const decide = (answer: unknown) => ({
    ...documentWith([
      { type: 'text', key: 'kind', name: 'Kind' },
      {
        type: 'text',
        key: 'street',
        name: 'Street',
        treatment: typeof answer === 'string' && answer !== '' ? 'required' : 'optional',
      },
    ]),
    askAgainFor: ['kind'],
  });
  await fc.assert(
    fc.asyncProperty(fc.array(fc.constantFrom('a', 'b', ''), { minLength: 1, maxLength: 4 }), async (answers) => {
      const view = renderPart(<Host document={decide(null)} onAsk={async (values) => decide(values.kind) as never} />);
      for (const answer of answers) {
        await userEvent.clear(screen.getByLabelText('Kind'));
        if (answer !== '') await userEvent.type(screen.getByLabelText('Kind'), answer);
        await waitFor(() => expect(screen.getByRole('button', { name: 'Send' })).toBeEnabled(), { timeout: 5000 });
        const isRequired = answer !== '';
        expect([answers, screen.getByLabelText(/^Street/).getAttribute('aria-required')]).toEqual([
          answers,
          isRequired ? 'true' : null,
        ]);
      }
      view.unmount();
    }),
    { numRuns: 6 },
  );
}, 60_000);
