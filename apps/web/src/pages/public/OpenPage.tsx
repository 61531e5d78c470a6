import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { HandOffResponse, PublicIntake } from '@ypomet/contract';
import { useRef, useState } from 'react';
import { useLocation, useParams } from 'react-router';
import type { Entered } from '../../features/forms/form-state.ts';
import { ParticipantForm } from '../../features/forms/ParticipantForm.tsx';
import { CopyAddress } from '../../features/public-intake/CopyAddress.tsx';
import classes from '../../features/public-intake/Guest.module.css';
import { GuestFrame, GuestSession, usePass } from '../../features/public-intake/Guest.tsx';
import { askPublicForm, publicIntakeQuery, useBeginPublicly } from '../../features/public-intake/queries.ts';
import { readVisit, type Visit, writeVisit } from '../../features/public-intake/visit.ts';
import { useRequestKey } from '../../features/records/use-request-key.ts';
import { formatInstant } from '../../shared/instants.ts';
import { LeaveGuard } from '../../shared/LeaveGuard.tsx';
import { Loaded } from '../../shared/Loaded.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { RichTextView } from '../../shared/RichTextView.tsx';

/** Who is here: somebody outside the house, with something to hand in. They want to see what is asked, and to know that it arrived. */
export function OpenPage() {
  const { address = '' } = useParams();
  const isEmbedded = useLocation().pathname.startsWith('/embed/');
  const query = useQuery(publicIntakeQuery(address));
  const [done, setDone] = useState<{ readonly answer: HandOffResponse; readonly pass: string } | null>(null);
  const { data } = query;
  return (
    <GuestFrame name={data?.workspace.name ?? ''} title={data?.name ?? ''} isEmbedded={isEmbedded}>
      <Loaded query={query} rows={8}>
        {(found) => {
          if (done) return <Arrived {...done} onAgain={() => window.location.reload()} />;
          return found.intake ? (
            <Intake address={address} found={found} intake={found.intake} onDone={setDone} />
          ) : (
            <Shut found={found} />
          );
        }}
      </Loaded>
    </GuestFrame>
  );
}

type IntakeProps = {
  readonly address: string;
  readonly found: PublicIntake;
  readonly intake: NonNullable<PublicIntake['intake']>;
  readonly onDone: (done: { readonly answer: HandOffResponse; readonly pass: string }) => void;
};

function Intake({ address, found, intake, onDone }: IntakeProps) {
  const [begun, setBegun] = useState(() => readVisit(address));
  const { pass, guest }: Pick<Visit, 'pass' | 'guest'> = begun ?? intake;
  usePass(pass);
  const [entered, setEntered] = useState<Entered>(begun?.entered ?? {});
  const latest = useRef(entered);
  const begin = useBeginPublicly(address);
  const keyFor = useRequestKey();
  const trap = useRef<HTMLInputElement>(null);
  const [isOld, setOld] = useState(begun !== null && Object.keys(begun.entered).length > 0);
  const enter = (change: (before: Entered) => Entered): void => {
    latest.current = change(latest.current);
    setEntered(latest.current);
    writeVisit(address, { pass, guest, entered: latest.current, at: begun?.at ?? Date.now() });
  };
  const afresh = (): void => {
    writeVisit(address, null);
    latest.current = {};
    setEntered({});
    setBegun(null);
    setOld(false);
  };
  return (
    <GuestSession guest={{ id: guest, name: 'You' }} workspace={found.workspace}>
      <header className={classes.head}>
        <h1>{found.name}</h1>
        <p className={classes.soft}>
          {found.stageName}
          {found.closesAt !== null && ` · until ${formatInstant(found.closesAt, found.workspace)}`}
        </p>
      </header>
      {isOld && (
        <Notice tone="calm" title="A form was begun here before, in this browser">
          If that was you, go on with it. What was entered is shown only then: other people may use this device too.{' '}
          <Button variant="subtle" size="compact-sm" onClick={() => setOld(false)}>
            Go on with it
          </Button>
          <Button variant="subtle" size="compact-sm" onClick={afresh}>
            Forget it, begin afresh
          </Button>
        </Notice>
      )}
      <LeaveGuard
        when={Object.keys(entered).length > 0 && !begin.isSuccess}
        what="What you entered is kept in this browser, and was not handed in."
      />
      {!isOld && (
        <ParticipantForm
          entered={entered}
          onEntered={enter}
          findChoices={async () => []}
          filesOf={null}
          header={intake.record}
          document={intake.form}
          mayAct
          isSending={begin.isPending}
          problem={begin.error}
          onAsk={(values) => askPublicForm(address, values)}
          onHandOn={(handOff, values) => {
            const body = { handOff, values, trap: trap.current?.value ?? '' };
            // What a browser filled in by itself where nobody sees it is empty at the next press.
            if (trap.current) trap.current.value = '';
            begin.mutate(
              { ...body, idempotencyKey: keyFor(handOff, values) },
              {
                onSuccess: (answer) => {
                  writeVisit(address, null);
                  onDone({ answer, pass });
                },
              },
            );
          }}
        />
      )}
      <div className={classes.trap} aria-hidden="true">
        <label>
          Leave this empty
          <input ref={trap} name="website" type="text" tabIndex={-1} autoComplete="off" defaultValue="" />
        </label>
      </div>
    </GuestSession>
  );
}

/** That it arrived, what there is to know of it, and the one way back to it. */
function Arrived({
  answer,
  pass,
  onAgain,
}: {
  readonly answer: HandOffResponse;
  readonly pass: string;
  readonly onAgain: () => void;
}) {
  const address = `${window.location.origin}/follow#${pass}`;
  return (
    <div className={classes.done}>
      <p className={`${classes.number} mono`}>{answer.record.number}</p>
      <h1>It has arrived</h1>
      {answer.acknowledgement && (
        <div className={classes.told} role="status">
          <RichTextView text={answer.acknowledgement} />
        </div>
      )}
      <section className={classes.private}>
        <h2>Your private address</h2>
        <p>Here you see how it stands, and answer when it comes back to you. Keep it to yourself: whoever has it can do both.</p>
        <CopyAddress text={address} label="Your private address" />
        <p>If you gave a mail address: a mail asks you to confirm it, and further mails come only after that.</p>
      </section>
      <p className={classes.again}>
        {answer.next !== null && (
          <Button component="a" href={answer.next} rel="noopener noreferrer" mr="sm">
            Go on
          </Button>
        )}
        <Button component="a" href={address} target="_blank" rel="noopener" variant="default" mr="sm">
          See how it stands
        </Button>
        <Button variant="default" onClick={onAgain}>
          Hand in another one
        </Button>
      </p>
    </div>
  );
}

function Shut({ found }: { readonly found: PublicIntake }) {
  const { state, opensAt, closesAt, workspace, name } = found;
  const why = {
    'not-yet': opensAt === null ? '' : `It opens on ${formatInstant(opensAt, workspace)}.`,
    over: closesAt === null ? '' : `It was open until ${formatInstant(closesAt, workspace)}.`,
    full: 'As many as can be taken have been handed in.',
    off: 'It is closed for now.',
    open: '',
  }[state];
  return (
    <div className={classes.done}>
      <h1>{name === '' ? 'Nothing can be handed in here now' : name}</h1>
      <p className={classes.told}>{why}</p>
      <p className={classes.soft}>Whoever gave you this address knows more. What was handed in before can still be followed.</p>
    </div>
  );
}
