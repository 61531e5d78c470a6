import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import {
  brokenSignOffs,
  type CompiledField,
  describeDiagnostic,
  explainFields,
  findField,
  findSubField,
  type HandedOn,
  type Issue,
  loadPatternEngine,
  type Result,
  type Workflow,
} from '@ypomet/core';
import { useMemo, useState } from 'react';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { membersQuery } from '../../features/drafts/queries.ts';
import { type FormIssues, gatherIssues } from '../../features/forms/form-issues.ts';
import { type FormWorld, FormWorldProvider } from '../../features/forms/form-world.tsx';
import { RecordForm } from '../../features/forms/RecordForm.tsx';
import { PathStrip } from '../../features/rehearsal/PathStrip.tsx';
import { RehearsalProvider, useRehearsal } from '../../features/rehearsal/rehearsal-context.tsx';
import { WhyPanel } from '../../features/rehearsal/WhyPanel.tsx';
import { useSession } from '../../features/session/queries.ts';
import { Notice } from '../../shared/Notice.tsx';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';
import classes from './RehearsePage.module.css';

/** Who is here: the analyst, trying answers. They want to see the form as the participant will, which way it would go, and why. */
/** Values are held against patterns here. */
export const ready = loadPatternEngine();

export const RehearsePage = () => (
  <RehearsalProvider>
    <Rehearsing />
  </RehearsalProvider>
);

function Rehearsing() {
  const { definition, compiled } = useDraft();
  const rehearsal = useRehearsal();
  const { workspace } = useSession();
  const { form, record } = rehearsal;
  const [result, setResult] = useState<{ readonly at: string; readonly name: string; readonly came: Result<HandedOn> } | null>(
    null,
  );
  const handOffs = rehearsal.reasons;
  const fields = useMemo(() => explainFields(form), [form]);
  const members = useQuery(membersQuery);
  const world = useMemo<FormWorld>(
    () => ({
      zone: workspace.zone,
      locale: workspace.locale,
      names: Object.fromEntries((members.data ?? []).map((member) => [member.id, member.name])),
      findChoices: async (path, search) => choicesFor(definition, path, search, members.data ?? []),
      handOver: rehearsal.handOver,
      addressOf: () => null,
      signer: rehearsal.actor.name,
      brokenSignOffs: brokenSignOffs(compiled.forms, record, workspace.zone),
    }),
    [
      workspace.zone,
      workspace.locale,
      members.data,
      definition,
      rehearsal.handOver,
      rehearsal.actor.name,
      compiled.forms,
      record,
    ],
  );
  const stage = compiled.stages.get(record.stage)?.stage;
  const roles = stage?.roles.map((role) => definition.roles.find((own) => own.key === role)?.name ?? role) ?? [];
  const refused = result && !result.came.ok && result.at === record.stage ? result.came.diagnostics : [];
  const press = (key: string, name: string): void => setResult({ at: record.stage, name, came: rehearsal.press(key) });
  const remark = (of: CompiledField) => {
    const reason = fields.find((own) => own.field === of.field.key)?.adjustments.find((own) => own.decides);
    return reason ? (
      <p className={classes.remark}>
        {reason.adjustment.treatment} because of “{reason.adjustment.name}”
      </p>
    ) : null;
  };
  return (
    <div className={classes.page}>
      <PathStrip />
      <section className={classes.form} aria-label="Form">
        <header className={classes.head}>
          <div>
            <h2>{stage?.name}</h2>
            <p className={classes.soft}>
              {stage?.kind === 'end'
                ? 'the record rests here'
                : `as seen by ${roles.length > 0 ? `the role ${roles.join(', ')}` : 'whoever submits'}`}
            </p>
          </div>
          <Button
            variant="default"
            size="compact-md"
            onClick={() => {
              rehearsal.startOver();
              setResult(null);
            }}
          >
            Start over
          </Button>
        </header>
        {result?.came.ok && result.came.value.record.stage === record.stage && (
          <Notice tone="calm" title={`“${result.name}” led here.`}>
            {result.came.value.acknowledgement?.text}
          </Notice>
        )}
        <PanelBoundary name="The form" resetKey={form}>
          <FormWorldProvider value={world}>
            <RecordForm
              form={form}
              record={record}
              entered={rehearsal.entered}
              unreadable={rehearsal.unreadable}
              issues={toIssues(refused)}
              style={workspace}
              isOpen={stage?.kind !== 'end'}
              onEnter={rehearsal.enter}
              remark={remark}
            />
          </FormWorldProvider>
        </PanelBoundary>
        <footer className={classes.foot}>
          {refused.length > 0 && (
            <Notice tone="fault" title={`“${result?.name}” is refused`}>
              <ul className={classes.list}>
                {refused.map((one) => (
                  <li key={`${one.path}/${one.code}`}>
                    {('ownMessage' in one && (one as Issue).ownMessage) || describeDiagnostic(one)}
                  </li>
                ))}
              </ul>
            </Notice>
          )}
          <div className={classes.buttons}>
            {handOffs
              .filter((handOff) => handOff.offered.truth === true)
              .map((handOff, index) => (
                <Button
                  key={handOff.key}
                  variant={index === 0 ? 'filled' : 'default'}
                  onClick={() => press(handOff.key, handOff.name)}
                >
                  {handOff.name}
                </Button>
              ))}
            {handOffs[0] && (
              <span className={classes.soft}>
                “{handOffs[0].name}”{' '}
                {handOffs[0].leadsTo !== null ? (
                  <>
                    would go to <strong>{compiled.stages.get(handOffs[0].leadsTo)?.stage.name}</strong>
                  </>
                ) : (
                  `would be refused: ${handOffs[0].refusals.map((one) => describeDiagnostic(one)).join(' ')}`
                )}
              </span>
            )}
          </div>
        </footer>
      </section>
      <PanelBoundary name="The reasons" resetKey={form}>
        <WhyPanel handOffs={handOffs} fields={fields} />
      </PanelBoundary>
    </div>
  );
}

/** In a rehearsal members are the workspace's own; other records there are none. */
function choicesFor(
  workflow: Workflow,
  path: string,
  search: string,
  members: readonly { readonly id: string; readonly name: string; readonly roles: readonly string[] }[],
) {
  const field = findField(workflow, path) ?? findSubField(workflow, path)?.field;
  if (field?.type !== 'member') return [];
  return members
    .filter(
      ({ name, roles }) =>
        (field.role === null || roles.includes(field.role)) && name.toLowerCase().includes(search.toLowerCase()),
    )
    .map(({ id, name }) => ({ id, name, note: '' }));
}

const toIssues = (
  diagnostics: readonly (Issue | { readonly path: string; readonly code: `${string}/${string}`; readonly params: object })[],
): FormIssues =>
  gatherIssues(
    diagnostics.flatMap((one) =>
      'field' in one && one.field !== null ? [{ ...one, message: one.ownMessage ?? describeDiagnostic(one) }] : [],
    ),
  );
