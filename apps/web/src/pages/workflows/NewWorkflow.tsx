import { Button, Modal, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { useNavigate } from 'react-router';
import { createWorkflow } from '../../features/drafts/queries.ts';
import { blankWorkflow } from '../../features/outline/blank.ts';
import { ApiProblem } from '../../shared/api.ts';
import { Notice } from '../../shared/Notice.tsx';
import classes from './WorkflowsPage.module.css';

/** Who is here: the analyst, about to design something new. Its name is all that is asked before the plan opens. */
export function NewWorkflow({ taken }: { readonly taken: ReadonlySet<string> }) {
  const [isOpen, setOpen] = useState(false);
  const [name, setName] = useState('');
  const navigate = useNavigate();
  const client = useQueryClient();
  const making = useMutation({
    mutationFn: () => createWorkflow(blankWorkflow(name.trim(), taken)),
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
          {making.isError && (
            <Notice tone="fault" title="It couldn’t be made">
              {making.error instanceof ApiProblem ? making.error.problem.detail : making.error.message}
            </Notice>
          )}
          <p className={classes.soft}>It begins with a request, a stage of work and an end, to build upon.</p>
          <Button type="submit" disabled={name.trim() === ''} loading={making.isPending}>
            Make it
          </Button>
        </form>
      </Modal>
    </>
  );
}
