/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { RecordHeader, Session } from '@ypomet/contract';
import { HEADER, WORKSPACE } from '@ypomet/contract/example-parts';
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

function Host({ count, worlds = new Set() }: { readonly count: number; readonly worlds?: Set<FormWorld> }) {
  const [document] = useState(() => documentOf(count));
  const [entered, setEntered] = useState<Entered>({});
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
        onAsk={() => Promise.reject(new Error('nothing to ask'))}
        onHandOn={() => {}}
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
    await userEvent.type(screen.getByLabelText(/^Field 0/), 'a');
    expect(screen.queryByRole('alert')).toBeNull();
  });
});
