import { Button, Group, Modal, Textarea, TextInput } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { type Diagnostic, describeDiagnostic, describeTerm, howToMend, joinPath, splitPath, termOfPart } from '@ypomet/core';
import { useState } from 'react';
import { callApi } from '../../shared/api.ts';
import { Notice } from '../../shared/Notice.tsx';
import { ApiProblem } from '../../shared/problems.ts';
import { unfinished } from '../expressions/unfinished.ts';
import { useDraft, useDraftState, useIsExamined } from './draft-context.tsx';
import classes from './PublishDialog.module.css';

const MAX_LISTED = 8;
const idOf = ({ path, code }: Diagnostic): string => `${path}/${code}`;

/** The part whose property a path names. */
const partAround = (path: string): string => joinPath(...(splitPath(path) ?? []).slice(0, -1));

/** Asks once before a version is made; says what stands in the way of one, and asks why a warning is accepted. */
export function PublishDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const snapshot = useDraftState();
  const title = `Publish version ${(snapshot.publishedVersion ?? 0) + 1}`;
  return (
    <Modal opened={isOpen} onClose={onClose} title={title} centered size="lg">
      {isOpen && <Publishing onClose={onClose} />}
    </Modal>
  );
}

function Publishing({ onClose }: { readonly onClose: () => void }) {
  const { store, definition, faults, warnings } = useDraft();
  const left = unfinished.paths(definition.key);
  const isExamined = useIsExamined();
  const snapshot = useDraftState();
  const client = useQueryClient();
  const [notes, setNotes] = useState('');
  const [reasons, setReasons] = useState<Readonly<Record<string, string>>>({});
  const number = (snapshot.publishedVersion ?? 0) + 1;
  const reasonFor = (one: Diagnostic): string => reasons[idOf(one)]?.trim() ?? '';
  const open = warnings.filter((one) => reasonFor(one).length < 3).length;
  const publish = useMutation({
    mutationFn: async () => {
      const accepted = warnings.map((one) => ({ code: one.code, path: one.path, reason: reasonFor(one) }));
      return callApi('publish', { params: { key: store.key }, body: { accepted, notes }, revision: await store.settle() });
    },
    onSuccess: (version) => {
      store.published(version.number);
      void client.invalidateQueries({ queryKey: ['versions', store.key] });
      void client.invalidateQueries({ queryKey: ['workflows'] });
      notifications.show({ message: `Version ${version.number} is published. New records begin on it.`, color: 'teal' });
      setReasons({});
      onClose();
    },
  });
  const details = publish.error instanceof ApiProblem ? publish.error.problem.details : [];
  return (
    <>
      {faults.length > 0 ? (
        <Notice
          tone="fault"
          title={faults.length === 1 ? 'A fault stands in the way' : `${faults.length} faults stand in the way`}
        >
          <ul className={classes.list}>
            {faults.slice(0, MAX_LISTED).map((fault) => (
              <li key={idOf(fault)}>
                {describeDiagnostic(fault)} {howToMend(fault)} <span className={`${classes.path} mono`}>{fault.path}</span>
              </li>
            ))}
          </ul>
          {faults.length > MAX_LISTED && `And ${faults.length - MAX_LISTED} more.`}
        </Notice>
      ) : (
        <p className={classes.lead}>
          Records that begin from now on follow version {number}. Records under way stay on the version they began with. A
          published version never changes.
        </p>
      )}
      {left.length > 0 && (
        <Notice tone="caution" title={left.length === 1 ? 'One text is unfinished' : `${left.length} texts are unfinished`}>
          What is unfinished is not part of the version; it has what was sound before. They wait where they were typed:{' '}
          {left
            .slice(0, MAX_LISTED)
            .map((path) => describeTerm(termOfPart(definition, partAround(path))))
            .join(', ')}
        </Notice>
      )}
      {faults.length === 0 && (
        <Textarea
          label="Notes, for whoever looks at this version later"
          placeholder="What is new, and why"
          autosize
          minRows={2}
          maxRows={6}
          maxLength={5000}
          value={notes}
          onChange={(event) => setNotes(event.currentTarget.value)}
        />
      )}
      {faults.length === 0 && warnings.length > 0 && (
        <section className={classes.warnings} aria-label="Warnings">
          <h3>{warnings.length === 1 ? 'One warning' : `${warnings.length} warnings`}: mend, or say why it is meant</h3>
          {warnings.map((one) => (
            <div key={idOf(one)} className={classes.warning}>
              <p>
                {describeDiagnostic(one)} <span className={`${classes.path} mono`}>{one.path}</span>
              </p>
              <TextInput
                label="Why this is meant"
                value={reasons[idOf(one)] ?? ''}
                maxLength={1000}
                onChange={(event) => {
                  const { value } = event.currentTarget;
                  setReasons((before) => ({ ...before, [idOf(one)]: value }));
                }}
              />
            </div>
          ))}
        </section>
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
        <Button
          disabled={faults.length > 0 || open > 0 || !isExamined}
          loading={publish.isPending}
          onClick={() => publish.mutate()}
        >
          {open > 0 && faults.length === 0
            ? `${open === 1 ? 'One reason' : `${open} reasons`} to give`
            : `Publish version ${number}`}
        </Button>
      </Group>
    </>
  );
}
