import { Button, Group, Modal, Select, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { type CorrectionRequest, type DeliveryDocument, describeDeliveryFault } from '@ypomet/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { Loaded } from '../../shared/Loaded.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { problemText } from '../../shared/problems.ts';
import { outletsQuery } from '../consequences/queries.ts';
import { useSession } from '../session/queries.ts';
import { deliveryQuery, useCorrect, usePutAway, useRetryOne } from './queries.ts';
import classes from './SettleDialog.module.css';

/**
 * Who is here: whoever was told that something couldn't be sent. They want to put the address right and send it, or to say
 * that it isn't needed any more.
 */
export function SettleDialog({ id, onClose }: { readonly id: string; readonly onClose: () => void }) {
  const query = useQuery(deliveryQuery(id));
  const title = query.data ? `${query.data.name}, ${query.data.recordNumber ?? ''}` : 'A delivery that waits';
  return (
    <Modal opened onClose={onClose} title={title} centered>
      <Loaded query={query}>
        {(delivery) => (
          <>
            {delivery.fault && (
              <Notice tone="caution" title="Why it waits">
                {describeDeliveryFault(delivery.fault)}
              </Notice>
            )}
            <DesignLink delivery={delivery} />
            <PutRight delivery={delivery} onDone={onClose} />
            <PutAway delivery={delivery} onDone={onClose} />
          </>
        )}
      </Loaded>
    </Modal>
  );
}

type Part = { readonly delivery: DeliveryDocument; readonly onDone: () => void };

/** For analysts: where the delivery is designed, so that what went wrong once doesn't go wrong again. */
function DesignLink({ delivery: { workflow, delivery } }: { readonly delivery: DeliveryDocument }) {
  const { member } = useSession();
  if (delivery === '' || !member.roles.includes('analyst')) return null;
  return (
    <p className={classes.soft}>
      <Link to={`/workflows/${workflow}/consequences?delivery=${encodeURIComponent(delivery)}`}>Open it in the design</Link>, to
      mend it for the records to come.
    </p>
  );
}

/** Sends it, as it is or with another receiver, name or outlet. Only its readers send it elsewhere. */
function PutRight({ delivery, onDone }: Part) {
  const { id, kind, content } = delivery;
  const retry = useRetryOne(id);
  const correct = useCorrect(id);
  const before = content?.kind === 'mail' ? content.to.join(', ') : content?.kind === 'file' ? content.fileName : '';
  const [typed, setTyped] = useState<string | null>(null);
  const [outlet, setOutlet] = useState(delivery.outlet);
  const text = (typed ?? before).trim();
  const correction: CorrectionRequest = {
    ...(kind === 'mail' && typed !== null ? { to: text.split(/[\s,;]+/).filter((one) => one !== '') } : {}),
    ...(kind === 'file' && typed !== null ? { fileName: text } : {}),
    ...(outlet === delivery.outlet ? {} : { outlet }),
  };
  const isChanged = Object.keys(correction).length > 0;
  const error = correct.error ?? retry.error;
  return (
    <section className={classes.settling} aria-label="Send it">
      <h3>Put it right and send it</h3>
      {content === null && (
        <p className={classes.soft}>
          Only those who may read all that it holds can send it to somebody else or by another outlet.
        </p>
      )}
      {content !== null && kind !== 'web' && (
        <TextInput
          label={kind === 'mail' ? 'To, addresses separated by commas' : 'Name of the file'}
          value={typed ?? before}
          onChange={(event) => setTyped(event.currentTarget.value)}
        />
      )}
      {content !== null && <OutletChoice delivery={delivery} outlet={outlet} onChoose={setOutlet} />}
      {error && (
        <p role="alert" className={classes.fault}>
          {problemText(error)} {correction.to && 'Look at each address: one name, an @, one host.'}
        </p>
      )}
      <Group>
        <Button
          size="compact-md"
          loading={correct.isPending || retry.isPending}
          onClick={() =>
            isChanged ? correct.mutate(correction, { onSuccess: onDone }) : retry.mutate(undefined, { onSuccess: onDone })
          }
        >
          {isChanged ? 'Send it so' : 'Try it again as it is'}
        </Button>
      </Group>
    </section>
  );
}

/** The outlets of the same kind; they are known to analysts. */
function OutletChoice({
  delivery,
  outlet,
  onChoose,
}: {
  readonly delivery: DeliveryDocument;
  readonly outlet: string;
  readonly onChoose: (outlet: string) => void;
}) {
  const { member } = useSession();
  const isAnalyst = member.roles.includes('analyst');
  const outlets = useQuery({ ...outletsQuery, enabled: isAnalyst });
  if (!isAnalyst) return null;
  return (
    <Select
      label="Outlet"
      allowDeselect={false}
      data={(outlets.data ?? [])
        .filter(({ settings }) => settings.kind === delivery.kind)
        .map(({ key, name }) => ({ value: key, label: name }))}
      value={outlet}
      onChange={(value) => value !== null && onChoose(value)}
    />
  );
}

function PutAway({ delivery, onDone }: Part) {
  const putAway = usePutAway(delivery.id);
  const [reason, setReason] = useState('');
  return (
    <section className={classes.settling} aria-label="Put away">
      <h3>Or put it away</h3>
      <p className={classes.soft}>
        It isn’t sent any more. The history of {delivery.recordNumber ?? 'the record'} says that you did so.
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
