import { Button, UnstyledButton } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { HandOffResponse, RecordDocument } from '@ypomet/contract';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import type { Entered } from '../../features/forms/form-state.ts';
import { ParticipantForm } from '../../features/forms/ParticipantForm.tsx';
import {
  askRecordForm,
  findRecordChoices,
  recordQuery,
  shownQuery,
  useHandOn,
  type Values,
} from '../../features/records/queries.ts';
import { useChanges } from '../../features/records/use-changes.ts';
import { useRequestKey } from '../../features/records/use-request-key.ts';
import { useSession } from '../../features/session/queries.ts';
import { BegunNotice } from '../../features/unfinished/BegunNotice.tsx';
import { type Begun, useBegun, useUnfinished } from '../../features/unfinished/use-unfinished.ts';
import { Due } from '../../shared/Due.tsx';
import { formatInstant } from '../../shared/instants.ts';
import { LeaveGuard } from '../../shared/LeaveGuard.tsx';
import { Loaded } from '../../shared/Loaded.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { ApiProblem } from '../../shared/problems.ts';
import { Acknowledgement } from './Acknowledgement.tsx';
import { Possession } from './Possession.tsx';
import { RecordAside } from './RecordAside.tsx';
import classes from './RecordPage.module.css';

/** Who is here: a participant with a record. First they want to see what it is and what is asked of them; then to hand it on. */
export function RecordPage() {
  const { id = '' } = useParams();
  const query = useQuery(recordQuery(id));
  const begun = useBegun(`record.${id}`);
  const [done, setDone] = useState<HandOffResponse | null>(null);
  if (done) return <Acknowledgement done={done} />;
  return (
    <main className={classes.page}>
      <Loaded query={query} rows={8}>
        {(document) => begun && <RecordView document={document} begun={begun} onDone={setDone} />}
      </Loaded>
    </main>
  );
}

function RecordView({
  document,
  begun,
  onDone,
}: {
  readonly document: RecordDocument;
  readonly begun: Begun;
  readonly onDone: (done: HandOffResponse) => void;
}) {
  const { record, form, mayAct, issues } = document;
  const { workspace } = useSession();
  const handOn = useHandOn(record.id);
  const client = useQueryClient();
  const keyFor = useRequestKey();
  const unfinished = useUnfinished(begun, form.values as Entered);
  const { entered, keeping, meetings } = unfinished;
  const isStale = handOn.error instanceof ApiProblem && handOn.error.problem.code === 'revision/stale';
  const send = (handOff: string, values: Values): void =>
    handOn.mutate(
      { handOff, values, revision: record.revision, idempotencyKey: keyFor(record.revision, handOff, values) },
      {
        onSuccess: (answer) => {
          unfinished.forget();
          onDone(answer);
        },
      },
    );
  const [isChanged, setChanged] = useState(false);
  const [isWhole, setWhole] = useState(false);
  // Whoever is at it is told; the page of whoever only looks follows by itself.
  useChanges({ record: record.id }, () => {
    if (handOn.isPending || handOn.isSuccess) return;
    if (Object.keys(entered).length > 0) setChanged(true);
    else void client.invalidateQueries(recordQuery(record.id));
  });
  const loadAgain = (): void => {
    setChanged(false);
    handOn.reset();
    void client.invalidateQueries(recordQuery(record.id));
  };
  return (
    <>
      <div className={classes.main}>
        <header className={classes.head}>
          <p className={`${classes.number} mono`}>{record.number}</p>
          <h1>{record.stageName}</h1>
          <p className={classes.soft}>
            {record.workflowName} · arrived {formatInstant(record.arrivedAt, workspace)}
            {record.unassigned && ' · assigned to nobody: whoever may act here has it'}
          </p>
          {record.due !== null && (
            <p className={classes.soft}>
              <Due due={record.due} isOverdue={record.isOverdue} place={workspace} />
            </p>
          )}
          <Possession key={record.revision} document={document} keeping={keeping} />
        </header>
        <LeaveGuard
          when={keeping.status === 'here' && !handOn.isSuccess}
          what="What you entered here is kept in this browser only, and was not handed on."
        />
        {issues.length > 0 && (
          <Notice tone="caution" title="It was opened by another record, and something is missing">
            <ul>
              {issues.map((issue) => (
                <li key={`${issue.code}/${issue.path}`}>{issue.message}</li>
              ))}
            </ul>
          </Notice>
        )}
        {!mayAct && (
          <Notice tone="calm">
            You can read this record. {record.stageKind === 'end' ? 'It is finished.' : 'Others have it now.'}
          </Notice>
        )}
        {mayAct && (
          <UnstyledButton className={classes.whole} aria-pressed={isWhole} onClick={() => setWhole(!isWhole)}>
            {isWhole ? 'Back to what is asked here' : 'Show all that I may see'}
          </UnstyledButton>
        )}
        {mayAct && isWhole && <Whole record={record} />}
        {!(mayAct && isWhole) && (
          <ParticipantForm
            key={record.revision}
            header={record}
            document={form}
            mayAct={mayAct}
            entered={entered}
            onEntered={unfinished.enter}
            keeping={keeping}
            meetings={meetings}
            onSettle={unfinished.settle}
            names={begun.names}
            opening={mayAct && <BegunNotice begun={begun} onForget={unfinished.forget} />}
            findChoices={(field, search) => findRecordChoices(record.id, field, search)}
            filesOf={record.id}
            isSending={handOn.isPending}
            problem={isStale ? null : handOn.error}
            notice={isStale || isChanged ? <Stale onLoad={loadAgain} /> : null}
            onAsk={(values) => askRecordForm(record.id, values)}
            onHandOn={send}
          />
        )}
      </div>
      <RecordAside document={document}>
        <Link to="/desk">Back to the desk</Link>
      </RecordAside>
    </>
  );
}

/** The record as it is stored, with all that the member may see of it; what is being entered waits meanwhile. */
function Whole({ record }: { readonly record: RecordDocument['record'] }) {
  const query = useQuery(shownQuery(record.id, record.revision));
  return (
    <Loaded query={query} rows={6}>
      {(shown) => (
        <ParticipantForm
          header={record}
          document={shown}
          mayAct={false}
          entered={NOTHING_ENTERED}
          onEntered={() => {}}
          findChoices={async () => []}
          filesOf={record.id}
          isSending={false}
          problem={null}
          onAsk={async () => shown}
          onHandOn={() => {}}
        />
      )}
    </Loaded>
  );
}

const NOTHING_ENTERED: Entered = {};

/** Said beside the buttons, where whoever pressed one looks. */
function Stale({ onLoad }: { readonly onLoad: () => void }) {
  return (
    <Notice tone="fault" title="Somebody changed this record while you had it open">
      What you entered is still here, and stays here when the present state is loaded.{' '}
      <Button variant="subtle" size="compact-sm" onClick={onLoad}>
        Load the present state
      </Button>
    </Notice>
  );
}
