import { Button, Group, Modal } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { describeDiagnostic, makeReadIn, parseWorkflow, type Workflow } from '@ypomet/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { Differences } from '../../features/drafts/Differences.tsx';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { createBeside, type DefinitionFile, fileToReadInKey, workflowsQuery } from '../../features/drafts/queries.ts';
import { Notice } from '../../shared/Notice.tsx';
import { problemText } from '../../shared/problems.ts';
import classes from './Versions.module.css';

const MAX_FAULTS = 6;

/**
 * Who is here: an analyst who chose a definition file whose workflow is there already. They want to see what the file would change
 * before anything is changed, and to keep both if they didn't mean this workflow.
 */
export function ReadInDialog() {
  const { store } = useDraft();
  const client = useQueryClient();
  const key = fileToReadInKey(store.key);
  const [file, setFile] = useState(() => client.getQueryData<DefinitionFile>(key) ?? null);
  const close = (): void => {
    client.removeQueries({ queryKey: key });
    setFile(null);
  };
  return (
    <Modal opened={file !== null} onClose={close} title="The file’s workflow is here already" size="lg" centered>
      {file && <Choices file={file} onClose={close} />}
    </Modal>
  );
}

function Choices({ file, onClose }: { readonly file: DefinitionFile; readonly onClose: () => void }) {
  const { store, definition } = useDraft();
  const [read] = useState(() => parseWorkflow(file));
  const client = useQueryClient();
  const navigate = useNavigate();
  const { data: workflows } = useQuery(workflowsQuery);
  const making = useMutation({
    mutationFn: (other: Workflow) => createBeside(other, new Set(workflows?.map((one) => one.key))),
    onSuccess: (made) => {
      onClose();
      void client.invalidateQueries({ queryKey: ['workflows'] });
      navigate(`/workflows/${made}/plan`);
    },
  });
  if (!read.ok)
    return (
      <Notice tone="fault" title="The file can’t be read">
        {read.diagnostics.slice(0, MAX_FAULTS).map((one) => (
          <div key={`${one.code} ${one.path}`}>
            {describeDiagnostic(one)} <span className="mono">{one.path}</span>
          </div>
        ))}
      </Notice>
    );
  const edit = makeReadIn(definition, read.value);
  const readIn = (): void => {
    if (edit && store.edit(edit)) onClose();
  };
  return (
    <>
      <p className={classes.lead}>
        Read into the draft of <strong>{definition.name}</strong>, it changes:
      </p>
      <div className={classes.scroll}>
        <Differences before={definition} after={read.value} none="Nothing: the draft says the same." />
      </div>
      {making.isError && (
        <Notice tone="fault" title="It couldn’t be made">
          {problemText(making.error)}
        </Notice>
      )}
      <Group justify="flex-end" mt="md">
        <Button variant="default" onClick={onClose}>
          Leave the draft as it is
        </Button>
        <Button variant="default" loading={making.isPending} disabled={!workflows} onClick={() => making.mutate(read.value)}>
          Make a new workflow of it
        </Button>
        <Button disabled={edit === null} onClick={readIn}>
          Read it into this draft
        </Button>
      </Group>
      <p className={classes.soft}>Reading it in is one change: it can be undone, and the history tells of it.</p>
    </>
  );
}
