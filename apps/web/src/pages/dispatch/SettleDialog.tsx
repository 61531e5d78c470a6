import { Button, Group, Modal, Select, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { CorrectionRequest, DeliveryEntry } from '@ypomet/contract';
import { describeDeliveryFault } from '@ypomet/contract';
import { useState } from 'react';
import { outletsQuery } from '../../features/consequences/queries.ts';
import { deliveryQuery, useCorrect, usePutAway } from '../../features/dispatch/queries.ts';
import { Notice } from '../../shared/Notice.tsx';
import { problemText } from '../../shared/problems.ts';
import classes from './Dispatch.module.css';

/**
 * Who is here: whoever was told that something couldn't be sent. They want to put the address right and send it, or to say
 * that it isn't needed any more.
 */
export function SettleDialog({ entry, onClose }: { readonly entry: DeliveryEntry; readonly onClose: () => void }) {
  return (
    <Modal opened onClose={onClose} title={`${entry.name}, ${entry.recordNumber ?? ''}`} centered>
      {entry.fault && (
        <Notice tone="caution" title="Why it waits">
          {describeDeliveryFault(entry.fault)}
        </Notice>
      )}
      <PutRight entry={entry} onDone={onClose} />
      <PutAway entry={entry} onDone={onClose} />
    </Modal>
  );
}

type Part = { readonly entry: DeliveryEntry; readonly onDone: () => void };

function PutRight({ entry, onDone }: Part) {
  const { data } = useQuery(deliveryQuery(entry.id));
  const outlets = useQuery(outletsQuery);
  const correct = useCorrect(entry.id);
  const content = data?.content ?? null;
  const before = content?.kind === 'mail' ? content.to.join(', ') : content?.kind === 'file' ? content.fileName : '';
  const [typed, setTyped] = useState<string | null>(null);
  const [outlet, setOutlet] = useState(entry.outlet);
  const text = (typed ?? before).trim();
  const correction: CorrectionRequest = {
    ...(entry.kind === 'mail' && typed !== null ? { to: text.split(/[\s,;]+/).filter((one) => one !== '') } : {}),
    ...(entry.kind === 'file' && typed !== null ? { fileName: text } : {}),
    ...(outlet === entry.outlet ? {} : { outlet }),
  };
  return (
    <section className={classes.settling} aria-label="Put right">
      <h3>Put it right and send it</h3>
      {entry.kind !== 'web' && (
        <TextInput
          label={entry.kind === 'mail' ? 'To, addresses separated by commas' : 'Name of the file'}
          value={typed ?? before}
          onChange={(event) => setTyped(event.currentTarget.value)}
        />
      )}
      <Select
        label="Outlet"
        allowDeselect={false}
        data={(outlets.data ?? [])
          .filter(({ settings }) => settings.kind === entry.kind)
          .map(({ key, name }) => ({ value: key, label: name }))}
        value={outlet}
        onChange={(value) => value !== null && setOutlet(value)}
      />
      {correct.error && (
        <p role="alert" className={classes.fault}>
          {problemText(correct.error)} Look at each address: one name, an @, one host.
        </p>
      )}
      <Group>
        <Button
          size="compact-md"
          loading={correct.isPending}
          disabled={Object.keys(correction).length === 0}
          onClick={() => correct.mutate(correction, { onSuccess: onDone })}
        >
          Send it
        </Button>
      </Group>
    </section>
  );
}

function PutAway({ entry, onDone }: Part) {
  const putAway = usePutAway(entry.id);
  const [reason, setReason] = useState('');
  return (
    <section className={classes.settling} aria-label="Put away">
      <h3>Or put it away</h3>
      <p className={classes.soft}>
        It isn’t sent any more. The history of {entry.recordNumber ?? 'the record'} says that you did so.
      </p>
      <TextInput
        label="Why it isn’t needed"
        maxLength={500}
        value={reason}
        onChange={(event) => setReason(event.currentTarget.value)}
      />
      {putAway.error && (
        <p role="alert" className={classes.fault}>
          {problemText(putAway.error)}
        </p>
      )}
      <Group>
        <Button
          size="compact-md"
          variant="default"
          loading={putAway.isPending}
          disabled={reason.trim().length < 3}
          onClick={() => putAway.mutate(reason.trim(), { onSuccess: onDone })}
        >
          Put it away
        </Button>
      </Group>
    </section>
  );
}
