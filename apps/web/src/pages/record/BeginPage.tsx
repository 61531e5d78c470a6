import { useQuery } from '@tanstack/react-query';
import type { HandOffResponse, IntakeDocument } from '@ypomet/contract';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import type { Entered } from '../../features/forms/form-state.ts';
import { ParticipantForm } from '../../features/forms/ParticipantForm.tsx';
import { askIntakeForm, findIntakeChoices, intakeQuery, useBegin } from '../../features/records/queries.ts';
import { useRequestKey } from '../../features/records/use-request-key.ts';
import { BegunNotice } from '../../features/unfinished/BegunNotice.tsx';
import { type Begun, useBegun, useUnfinished } from '../../features/unfinished/use-unfinished.ts';
import { LeaveGuard } from '../../shared/LeaveGuard.tsx';
import { Loaded } from '../../shared/Loaded.tsx';
import { Acknowledgement } from './Acknowledgement.tsx';
import classes from './RecordPage.module.css';

/** Who is here: somebody who submits. They want to know what is asked, and to be done with it. */
export function BeginPage() {
  const { workflow = '', stage = '' } = useParams();
  const query = useQuery(intakeQuery(workflow, stage));
  const begun = useBegun(`intake.${workflow}.${stage}`);
  const [done, setDone] = useState<HandOffResponse | null>(null);
  if (done) return <Acknowledgement done={done} />;
  return (
    <main className={classes.page}>
      <Loaded query={query} rows={8}>
        {(intake) => begun && <IntakeView intake={intake} begun={begun} onDone={setDone} />}
      </Loaded>
    </main>
  );
}

type ViewProps = {
  readonly intake: IntakeDocument;
  readonly begun: Begun;
  readonly onDone: (done: HandOffResponse) => void;
};

function IntakeView({ intake, begun, onDone }: ViewProps) {
  const begin = useBegin(intake.workflow);
  const keyFor = useRequestKey();
  const unfinished = useUnfinished(begun, intake.form.values as Entered);
  const { entered, keeping } = unfinished;
  const { workflow, stage } = intake;
  return (
    <div className={classes.main}>
      <header className={classes.head}>
        <h1>{intake.form.definition.name}</h1>
        <p className={classes.soft}>
          {intake.record.stageName} · <Link to={`/begin/${workflow}/${stage}/many`}>many at once, from a sheet</Link>
        </p>
      </header>
      <LeaveGuard
        when={keeping.status === 'here' && !begin.isSuccess}
        what="What you entered here is kept in this browser only, and was not handed on."
      />
      <ParticipantForm
        entered={entered}
        onEntered={unfinished.enter}
        keeping={keeping}
        names={begun.names}
        opening={<BegunNotice begun={begun} onForget={unfinished.forget} />}
        findChoices={(field, search) => findIntakeChoices(workflow, stage, field, search)}
        filesOf={null}
        header={intake.record}
        document={intake.form}
        mayAct
        isSending={begin.isPending}
        problem={begin.error}
        onAsk={(values) => askIntakeForm(intake.workflow, intake.stage, values)}
        onHandOn={(handOff, values) =>
          begin.mutate(
            { stage: intake.stage, handOff, values, idempotencyKey: keyFor(handOff, values) },
            {
              onSuccess: (answer) => {
                unfinished.forget();
                onDone(answer);
              },
            },
          )
        }
      />
    </div>
  );
}
