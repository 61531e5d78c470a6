import { Button, Modal, Radio, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { Json } from '@ypomet/core';
import { type FormEvent, useState } from 'react';
import { useNavigate } from 'react-router';
import { createWorkflow } from '../../features/drafts/queries.ts';
import { blankWorkflow } from '../../features/outline/blank.ts';
import { Notice } from '../../shared/Notice.tsx';
import { problemText } from '../../shared/problems.ts';
import classes from './WorkflowsPage.module.css';

const BEGINNINGS = [
  { value: 'blank', label: 'Blank', description: 'A request, a stage of work and an end, to build upon.' },
  { value: 'grantRound', label: 'Like a grant round', description: 'Two opinions, a decision, a report.' },
  { value: 'complaint', label: 'Like a complaint', description: 'Taken in, looked into where it is serious, answered.' },
  { value: 'equipmentHandover', label: 'Like an equipment handover', description: 'Given out, brought back, looked at.' },
] as const;
type Beginning = (typeof BEGINNINGS)[number]['value'];

async function definitionFrom(
  beginning: Beginning,
  name: string,
  taken: ReadonlySet<string>,
): Promise<Readonly<Record<string, Json>>> {
  if (beginning === 'blank') return blankWorkflow(name, taken);
  const { EXAMPLES, renamed } = await import('../../features/outline/examples/examples.ts');
  const example = EXAMPLES.find(({ key }) => key === beginning);
  if (!example) throw new Error(`no example ${beginning}`);
  return renamed(example, name, taken);
}

/** Who is here: the analyst, about to design something new. A name, and what to begin with; then the plan opens. */
export function NewWorkflow({ taken }: { readonly taken: ReadonlySet<string> }) {
  const [isOpen, setOpen] = useState(false);
  const [name, setName] = useState('');
  const [beginning, setBeginning] = useState<Beginning>('blank');
  const navigate = useNavigate();
  const client = useQueryClient();
  const making = useMutation({
    mutationFn: async () => createWorkflow(await definitionFrom(beginning, name.trim(), taken)),
    onSuccess: (key) => {
      void client.invalidateQueries({ queryKey: ['workflows'] });
      navigate(`/workflows/${key}/plan`);
    },
  });
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    if (name.trim() !== '' && !making.isPending) making.mutate();
  };
  return (
    <>
      <Button onClick={() => setOpen(true)}>New workflow</Button>
      <Modal opened={isOpen} onClose={() => setOpen(false)} title="New workflow" centered>
        <form onSubmit={submit} className={classes.making}>
          <TextInput
            label="What is it called?"
            description="Such as “Travel request”. It can be changed later."
            data-autofocus
            maxLength={200}
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
          />
          <Radio.Group label="Begin with" value={beginning} onChange={(value) => setBeginning(value as Beginning)}>
            <div className={classes.beginnings}>
              {BEGINNINGS.map((one) => (
                <Radio key={one.value} size="xs" {...one} />
              ))}
            </div>
          </Radio.Group>
          {making.isError && (
            <Notice tone="fault" title="It couldn’t be made">
              {problemText(making.error)}
            </Notice>
          )}
          <Button type="submit" disabled={name.trim() === ''} loading={making.isPending}>
            Make it
          </Button>
        </form>
      </Modal>
    </>
  );
}
