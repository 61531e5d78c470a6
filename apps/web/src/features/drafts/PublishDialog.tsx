import { Button, Checkbox, Group, Modal, Textarea, TextInput } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { describeTerm, partAround, termOfPart } from '@ypomet/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { callApi } from '../../shared/api.ts';
import { Notice } from '../../shared/Notice.tsx';
import { ApiProblem } from '../../shared/problems.ts';
import { unfinished } from '../expressions/unfinished.ts';
import { useDraft, useDraftState } from './draft-context.tsx';
import classes from './PublishDialog.module.css';
import { idOfTold, type PublicationPlan, type Told, usePublication, wasPublished } from './use-publication.ts';

const MAX_LISTED = 8;

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
  const { store } = useDraft();
  const plan = usePublication();
  const { number, together, faults, warnings } = plan;
  const client = useQueryClient();
  const [notes, setNotes] = useState('');
  const [reasons, setReasons] = useState<Readonly<Record<string, string>>>({});
  const reasonFor = (one: Told): string => reasons[idOfTold(one)]?.trim() ?? '';
  const open = warnings.filter((one) => reasonFor(one).length < 3).length;
  const accepted = (key: string) =>
    warnings
      .filter(({ workflow }) => workflow === key)
      .map((one) => ({ code: one.code, path: one.path, reason: reasonFor(one) }));
  const publish = useMutation({
    mutationFn: async () => {
      const others = together.map(({ key, revision }) => ({ key, revision, accepted: accepted(key) }));
      const body = { accepted: accepted(store.key), notes, together: others };
      return callApi('publish', { params: { key: store.key }, body, revision: await store.settle() });
    },
    onSuccess: (version) => {
      store.published(version.number);
      for (const key of [store.key, ...together.map((one) => one.key)])
        void client.invalidateQueries({ queryKey: ['versions', key] });
      void client.invalidateQueries({ queryKey: ['workflows'] });
      void client.invalidateQueries({ queryKey: ['neighbours'] });
      const along = together.map((one) => `, ${one.name} version ${one.number}`).join('');
      const message =
        together.length === 0
          ? `Version ${version.number} is published. New records begin on it.`
          : `Published together: version ${version.number}${along}. New records begin on them.`;
      notifications.show({ message, color: 'teal' });
      setReasons({});
      onClose();
    },
  });
  const details = publish.error instanceof ApiProblem ? publish.error.problem.details : [];
  const what = together.length === 0 ? `version ${number}` : `${together.length + 1} workflows`;
  return (
    <>
      {faults.length > 0 ? (
        <Notice
          tone="fault"
          title={faults.length === 1 ? 'A fault stands in the way' : `${faults.length} faults stand in the way`}
        >
          <ul className={classes.list}>
            {faults.slice(0, MAX_LISTED).map((fault) => (
              <li key={idOfTold(fault)}>
                <WhereTold told={fault} /> {fault.message} {fault.mend}{' '}
                <span className={`${classes.path} mono`}>{fault.path}</span>
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
      <Along plan={plan} />
      <Unfinished />
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
            <div key={idOfTold(one)} className={classes.warning}>
              <p>
                <WhereTold told={one} /> {one.message} <span className={`${classes.path} mono`}>{one.path}</span>
              </p>
              <TextInput
                label="Why this is meant"
                value={reasons[idOfTold(one)] ?? ''}
                maxLength={1000}
                onChange={(event) => {
                  const { value } = event.currentTarget;
                  setReasons((before) => ({ ...before, [idOfTold(one)]: value }));
                }}
              />
            </div>
          ))}
        </section>
      )}
      {plan.error && (
        <Notice tone="fault" title="What publishing takes couldn’t be asked of the server">
          {plan.error.message} Close this and try again; the draft is kept.
        </Notice>
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
          disabled={faults.length > 0 || open > 0 || !plan.isCurrent}
          loading={publish.isPending}
          onClick={() => publish.mutate()}
        >
          {open > 0 && faults.length === 0 ? `${open === 1 ? 'One reason' : `${open} reasons`} to give` : `Publish ${what}`}
        </Button>
      </Group>
    </>
  );
}

/** The name of the workflow that something is told of, as a way there; nothing for the workflow of this page. */
function WhereTold({ told }: { readonly told: Told }) {
  if (told.name === null) return null;
  return (
    <>
      <Link to={`/workflows/${told.workflow}`}>{told.name}</Link>:
    </>
  );
}

/** The workflows that are published in the same step, and those that can be. */
function Along({ plan: { together, others, choose } }: { readonly plan: PublicationPlan }) {
  const needed = together.filter((one) => !wasPublished(one));
  return (
    <>
      {needed.length > 0 && (
        <section className={classes.along} aria-label="Published in the same step">
          <p>
            {needed.length === 1 ? 'One workflow that this refers to was' : 'Workflows that this refers to were'} never published.{' '}
            {needed.length === 1 ? 'It becomes a version' : 'They become versions'} in the same step, or nothing does:
          </p>
          <ul className={classes.list}>
            {needed.map(({ key, name, number }) => (
              <li key={key}>
                <Link to={`/workflows/${key}`}>{name}</Link>, version {number}
              </li>
            ))}
          </ul>
        </section>
      )}
      {others.length > 0 && (
        <fieldset className={classes.along}>
          <legend>Changed since it was published, and referred to here</legend>
          {others.map(({ key, name, number, isChosen }) => (
            <Checkbox
              key={key}
              label={`Publish ${name} version ${number} too`}
              checked={isChosen}
              onChange={(event) => choose(key, event.currentTarget.checked)}
            />
          ))}
        </fieldset>
      )}
    </>
  );
}

/** Texts of the draft that were typed and aren't finished. */
function Unfinished() {
  const { definition } = useDraft();
  const left = unfinished.paths(definition.key);
  if (left.length === 0) return null;
  return (
    <Notice tone="caution" title={left.length === 1 ? 'One text is unfinished' : `${left.length} texts are unfinished`}>
      What is unfinished is not part of the version; it has what was sound before. They wait where they were typed:{' '}
      {left
        .slice(0, MAX_LISTED)
        .map((path) => describeTerm(termOfPart(definition, partAround(definition, path))))
        .join(', ')}
    </Notice>
  );
}
