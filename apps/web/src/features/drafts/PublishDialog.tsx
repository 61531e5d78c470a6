import { Button, Group, Modal } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { describeDiagnostic } from '@ypomet/core';
import { ApiProblem, callApi } from '../../shared/api.ts';
import { Notice } from '../../shared/Notice.tsx';
import { useDraft } from './draft-context.tsx';

/** Asks once before a version is made, and says what stands in the way of one. */
export function PublishDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const { store, snapshot, compiled } = useDraft();
  const client = useQueryClient();
  const number = (snapshot.publishedVersion ?? 0) + 1;
  const faults = compiled.diagnostics;
  const publish = useMutation({
    mutationFn: async () => callApi('publish', { params: { key: store.key }, revision: await store.settle() }),
    onSuccess: (version) => {
      store.published(version.number);
      void client.invalidateQueries({ queryKey: ['versions', store.key] });
      void client.invalidateQueries({ queryKey: ['workflows'] });
      notifications.show({ message: `Version ${version.number} is published. New records begin on it.`, color: 'teal' });
      onClose();
    },
  });
  const details = publish.error instanceof ApiProblem ? publish.error.problem.details : [];
  return (
    <Modal opened={isOpen} onClose={onClose} title={`Publish version ${number}`} centered>
      {faults.length > 0 ? (
        <Notice tone="fault" title="Faults stand in the way">
          <ul style={{ margin: '4px 0 0', paddingLeft: 18 }}>
            {faults.slice(0, 8).map((fault) => (
              <li key={`${fault.path}/${fault.code}`}>
                {describeDiagnostic(fault)}{' '}
                <span className="mono" style={{ fontSize: 12 }}>
                  {fault.path}
                </span>
              </li>
            ))}
          </ul>
        </Notice>
      ) : (
        <p style={{ marginTop: 0 }}>
          Records that begin from now on follow version {number}. Records under way stay on the version they began with. A
          published version never changes.
        </p>
      )}
      {publish.isError && (
        <Notice tone="fault" title={publish.error.message}>
          {details.map((detail) => detail.message).join(' ')}
        </Notice>
      )}
      <Group justify="flex-end" mt="md">
        <Button variant="default" onClick={onClose}>
          Not now
        </Button>
        <Button disabled={faults.length > 0} loading={publish.isPending} onClick={() => publish.mutate()}>
          Publish version {number}
        </Button>
      </Group>
    </Modal>
  );
}
