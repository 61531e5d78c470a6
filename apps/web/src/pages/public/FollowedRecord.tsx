import { Button } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { HandOffResponse, RecordDocument } from '@ypomet/contract';
import { useRef, useState } from 'react';
import type { Entered } from '../../features/forms/form-state.ts';
import { ParticipantForm } from '../../features/forms/ParticipantForm.tsx';
import classes from '../../features/public-intake/Guest.module.css';
import { readVisit, writeVisit } from '../../features/public-intake/visit.ts';
import { askRecordForm, recordQuery, useHandOn } from '../../features/records/queries.ts';
import { useRequestKey } from '../../features/records/use-request-key.ts';
import { useSession } from '../../features/session/queries.ts';
import { formatInstant } from '../../shared/instants.ts';
import { LeaveGuard } from '../../shared/LeaveGuard.tsx';
import { Loaded } from '../../shared/Loaded.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { ApiProblem } from '../../shared/problems.ts';
import { RichTextView } from '../../shared/RichTextView.tsx';
import { RecordAside } from '../record/RecordAside.tsx';

/** A guest's page looks again by itself this often. */
const LOOK_AGAIN_MS = 60_000;

/** A guest's record: how it stands, what it holds as far as they see it, and the form when it is theirs to answer. */
export function FollowedRecord({ id }: { readonly id: string }) {
  const query = useQuery({ ...recordQuery(id), refetchInterval: LOOK_AGAIN_MS });
  const [done, setDone] = useState<HandOffResponse | null>(null);
  return (
    <Loaded query={query} rows={8}>
      {(document) => (
        <>
          {done && <Answered done={done} />}
          <Standing key={document.record.revision} document={document} onDone={setDone} />
        </>
      )}
    </Loaded>
  );
}

function Answered({ done }: { readonly done: HandOffResponse }) {
  return (
    <Notice tone="calm" title="It has arrived">
      {done.acknowledgement && <RichTextView text={done.acknowledgement} />}
    </Notice>
  );
}

function Standing({ document, onDone }: { readonly document: RecordDocument; readonly onDone: (done: HandOffResponse) => void }) {
  const { record, form, mayAct } = document;
  const { workspace } = useSession();
  const place = `record.${record.id}`;
  const [entered, setEntered] = useState<Entered>(() => (mayAct ? (readVisit(place)?.entered ?? {}) : {}));
  const latest = useRef(entered);
  const handOn = useHandOn(record.id);
  const client = useQueryClient();
  const keyFor = useRequestKey();
  const enter = (change: (before: Entered) => Entered): void => {
    latest.current = change(latest.current);
    setEntered(latest.current);
    writeVisit(place, { pass: '', guest: '', entered: latest.current, at: Date.now() });
  };
  const isStale = handOn.error instanceof ApiProblem && handOn.error.problem.code === 'revision/stale';
  return (
    <div className={classes.columns}>
      <div>
        <header className={classes.head}>
          <p className={`${classes.number} mono`}>{record.number}</p>
          <h1>{record.workflowName}</h1>
          <p className={classes.soft}>
            {mayAct ? 'It came back to you' : record.stageKind === 'end' ? 'It is finished' : 'Others have it now'}
            {' · '}at {record.stageName} since {formatInstant(record.arrivedAt, workspace)}
          </p>
        </header>
        {mayAct && (
          <LeaveGuard
            when={Object.keys(entered).length > 0 && !handOn.isSuccess}
            what="What you entered is kept in this browser, and was not handed in."
          />
        )}
        <ParticipantForm
          header={record}
          document={form}
          mayAct={mayAct}
          entered={entered}
          onEntered={enter}
          findChoices={async () => []}
          filesOf={record.id}
          isSending={handOn.isPending}
          problem={isStale ? null : handOn.error}
          notice={
            isStale && (
              <Notice tone="fault" title="It has changed since you opened it">
                What you entered is still here.{' '}
                <Button
                  variant="subtle"
                  size="compact-sm"
                  onClick={() => {
                    handOn.reset();
                    void client.invalidateQueries(recordQuery(record.id));
                  }}
                >
                  Load how it stands now
                </Button>
              </Notice>
            )
          }
          onAsk={(values) => askRecordForm(record.id, values)}
          onHandOn={(handOff, values) =>
            handOn.mutate(
              { handOff, values, revision: record.revision, idempotencyKey: keyFor(record.revision, handOff, values) },
              {
                onSuccess: (answer) => {
                  writeVisit(place, null);
                  onDone(answer);
                  void client.invalidateQueries(recordQuery(record.id));
                },
              },
            )
          }
        />
      </div>
      <RecordAside document={document} />
    </div>
  );
}
