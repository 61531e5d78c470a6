import { Button, Group, Modal } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { makeReadIn, openStoredWorkflow, type ReadInSource, type Workflow } from '@ypomet/core';
import { Differences } from '../../features/drafts/Differences.tsx';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { earlierDraftQuery, versionQuery } from '../../features/drafts/queries.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import classes from './Versions.module.css';

type Earlier = Exclude<ReadInSource, { kind: 'file' }>;

/** Who is here: an analyst who wants to know what has become of an earlier state, and perhaps have it back. */
export function EarlierDraft({
  of,
  title,
  onClose,
}: {
  readonly of: Earlier | null;
  readonly title: string;
  readonly onClose: () => void;
}) {
  return (
    <Modal opened={of !== null} onClose={onClose} title={title} size="lg" centered>
      {of && (of.kind === 'version' ? <OfVersion of={of} onClose={onClose} /> : <OfRevision of={of} onClose={onClose} />)}
    </Modal>
  );
}

type Props = { readonly of: Earlier; readonly onClose: () => void };

function OfVersion({ of, onClose }: Props) {
  const { definition } = useDraft();
  const query = useQuery(versionQuery(definition.key, of.number));
  return <Loaded query={query}>{(found) => <Compared of={of} then={found.definition} onClose={onClose} />}</Loaded>;
}

function OfRevision({ of, onClose }: Props) {
  const { definition } = useDraft();
  const query = useQuery(earlierDraftQuery(definition.key, of.number));
  return <Loaded query={query}>{(found) => <Compared of={of} then={found.definition} onClose={onClose} />}</Loaded>;
}

function Compared({ of, then, onClose }: Props & { readonly then: Workflow }) {
  const { store, definition } = useDraft();
  const earlier = openStoredWorkflow(then);
  const back = makeReadIn(definition, earlier, of);
  const restore = (): void => {
    if (back && store.edit(back)) onClose();
  };
  return (
    <>
      <p className={classes.lead}>What has changed from then to the draft as it is now:</p>
      <div className={classes.scroll}>
        <Differences before={earlier} after={definition} none="Nothing: the draft is as it was then." />
      </div>
      <Group justify="flex-end" mt="md">
        <Button variant="default" onClick={onClose}>
          Close
        </Button>
        <Button disabled={back === null} onClick={restore}>
          {of.kind === 'version' ? `Go back to version ${of.number}` : 'Restore it as it was'}
        </Button>
      </Group>
      <p className={classes.soft}>Going back is a change like others: it can be undone, and the history tells of it.</p>
    </>
  );
}
