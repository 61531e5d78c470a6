import { Button, Menu, Popover, Select, TextInput, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import {
  type Edit,
  expectationsOf,
  findHandOff,
  findStage,
  type Json,
  makeKey,
  readLocalDay,
  type Source,
  writeLocalDay,
} from '@ypomet/core';
import { memo, useState } from 'react';
import { ReadInput } from '../../shared/reading/ReadInput.tsx';
import { todayIn } from '../../shared/reading/today.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { versionsQuery } from '../drafts/queries.ts';
import { DayButton } from '../forms/DayButton.tsx';
import { freshName } from '../plan/panels/new-parts.ts';
import { useSession } from '../session/queries.ts';
import { FromRecord } from './FromRecord.tsx';
import classes from './RehearsalBar.module.css';
import { useRehearsal } from './rehearsal-context.tsx';
import { writeShared } from './rehearsal-state.ts';

const ALL = '*';

/** Which record opened the rehearsed one, and whether whoever acts now may read it: what comes through it depends on that. */
function ReadFrom({ source }: { readonly source: Source }) {
  const { outside, actor } = useRehearsal();
  const isRead = outside.findRecord(source.record.workflow, source.record.id) !== null;
  return (
    <span className={classes.source} role="status">
      Opened by <strong>{source.workflow.definition.name}</strong>
      {isRead
        ? ''
        : `, which ${actor.roles.length === 1 ? 'this role' : 'nobody here'} may not see: what is read through it is empty`}
    </span>
  );
}

/** What is rehearsed, by whom and when; the steps so far, to go back and forth; what can be done with the whole. */
export const RehearsalBar = memo(function RehearsalBar() {
  const rehearsal = useRehearsal();
  const { workspace } = useSession();
  const { version, setVersion, workflow, state, actor, startOver, play, setDay, world } = rehearsal;
  const { definition } = workflow;
  const versions = useQuery(versionsQuery(definition.key));
  const intakes = definition.stages.filter(({ kind }) => kind === 'intake');
  const role = actor.roles.length === 1 && definition.roles.length > 1 ? (actor.roles[0] ?? ALL) : ALL;
  const [message, setMessage] = useState<string | null>(null);
  const writeDay = (day: string): string => writeLocalDay(day, workspace.locale);
  return (
    <div className={classes.bar} role="toolbar" aria-label="Rehearsal">
      <Select
        size="xs"
        aria-label="What is rehearsed"
        className={classes.narrow}
        data={[
          { value: 'draft', label: 'the draft' },
          ...(versions.data ?? []).map(({ number }) => ({ value: String(number), label: `version ${number}` })),
        ]}
        value={version === null ? 'draft' : String(version)}
        allowDeselect={false}
        onChange={(chosen) => setVersion(chosen === null || chosen === 'draft' ? null : Number(chosen))}
      />
      <Select
        size="xs"
        aria-label="Who acts"
        className={classes.wide}
        data={[
          { value: ALL, label: 'whoever may act' },
          ...definition.roles.map(({ key, name }) => ({ value: key, label: `as ${name}` })),
        ]}
        value={role}
        allowDeselect={false}
        onChange={(chosen) => play(chosen === null || chosen === ALL ? null : chosen)}
      />
      <div className={classes.wide}>
        <ReadInput<string>
          when="left"
          size="xs"
          aria-label="Day of the rehearsal"
          placeholder="today"
          shown={state.script.today === null ? '' : writeDay(state.script.today)}
          read={(text) => readLocalDay(text, { locale: workspace.locale, today: todayIn(workspace.zone) })}
          write={writeDay}
          example={writeDay('2027-03-12')}
          onKeep={(day) => {
            setDay(day);
            return null;
          }}
          rightSection={
            <DayButton
              label="Choose the day of the rehearsal"
              kind="date"
              value={state.script.today ?? ''}
              locale={workspace.locale}
              zone={workspace.zone}
              onChoose={setDay}
            />
          }
        />
      </div>
      <Steps />
      {world.source && <ReadFrom source={world.source} />}
      <span className={classes.actions}>
        <Fill onMessage={setMessage} />
        <KeepAsTest onMessage={setMessage} />
        <Menu position="bottom-end" withinPortal>
          <Menu.Target>
            <Button size="compact-sm" variant="default">
              Begin …
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            {intakes.map((stage) => (
              <Menu.Item key={stage.key} onClick={() => startOver(stage.key)}>
                Start over{intakes.length > 1 ? ` at ${stage.name}` : ''}
              </Menu.Item>
            ))}
            <FromRecord />
          </Menu.Dropdown>
        </Menu>
        <Button
          size="compact-sm"
          variant="default"
          onClick={() => {
            const coded = writeShared(state);
            if (coded === null)
              setMessage('It is too long for a link. Keep it as a test: everybody at this workflow has it then.');
            else {
              const address = `${window.location.origin}/workflows/${definition.key}/rehearse#${coded}`;
              navigator.clipboard.writeText(address).then(
                () => setMessage('The link is copied. Whoever may design this workflow can open it.'),
                () => setMessage(address),
              );
            }
          }}
        >
          Share
        </Button>
      </span>
      {message !== null && (
        <p className={classes.message} role="status">
          {message}{' '}
          <UnstyledButton className={classes.link} onClick={() => setMessage(null)}>
            understood
          </UnstyledButton>
        </p>
      )}
      <Parted />
    </div>
  );
});

/** The steps so far: the one in view stands out; a click looks at another. */
function Steps() {
  const { state, played, workflow, lookAt } = useRehearsal();
  const { steps } = state.script;
  if (steps.length === 0) return null;
  const stopped = played.moments.findIndex(({ came }) => !came.ok);
  return (
    <span className={classes.steps}>
      <Button
        size="compact-sm"
        variant="default"
        aria-label="A step back"
        disabled={state.at === 0}
        onClick={() => lookAt(state.at - 1)}
      >
        ←
      </Button>
      <ol className={classes.list} aria-label="Steps">
        {steps.map((step, index) => (
          <li key={String(index)}>
            <UnstyledButton
              className={classes.step}
              data-here={index === state.at || undefined}
              data-stopped={(stopped >= 0 && index >= stopped) || undefined}
              aria-current={index === state.at ? 'step' : undefined}
              title={findStage(workflow.definition, played.moments[index]?.record.stage ?? '')?.name}
              onClick={() => lookAt(index)}
            >
              {findHandOff(workflow.definition, step.handOff)?.name ?? step.handOff}
            </UnstyledButton>
          </li>
        ))}
        <li>
          <UnstyledButton
            className={classes.step}
            data-here={state.at >= steps.length || undefined}
            aria-current={state.at >= steps.length ? 'step' : undefined}
            disabled={stopped >= 0}
            onClick={() => lookAt(steps.length)}
          >
            now
          </UnstyledButton>
        </li>
      </ol>
      <Button
        size="compact-sm"
        variant="default"
        aria-label="A step on"
        disabled={state.at >= steps.length}
        onClick={() => lookAt(state.at + 1)}
      >
        →
      </Button>
    </span>
  );
}

/** Where the path parts from the one before an earlier answer was changed. */
function Parted() {
  const { state, played, workflow } = useRehearsal();
  const { before } = state;
  if (!before) return null;
  const nameOf = (stage: string | undefined): string =>
    stage === undefined ? 'nowhere' : (findStage(workflow.definition, stage)?.name ?? stage);
  const at = before.findIndex((stage, index) => played.path[index] !== stage);
  const stopped = played.moments.find(({ came }) => !came.ok);
  if (at < 0 && played.path.length === before.length)
    return <p className={classes.message}>The path is the same as before the change.</p>;
  const index = at < 0 ? before.length : at;
  return (
    <p className={classes.message} role="status">
      The path parts after <strong>{nameOf(before[index - 1])}</strong>: it went to <strong>{nameOf(before[index])}</strong>, now
      to <strong>{nameOf(played.path[index])}</strong>.
      {stopped &&
        ` It stops at ${nameOf(stopped.record.stage)}: “${findHandOff(workflow.definition, stopped.step.handOff)?.name ?? stopped.step.handOff}” doesn’t go through there.`}
    </p>
  );
}

function Fill({ onMessage }: { readonly onMessage: (message: string | null) => void }) {
  const { fill, form } = useRehearsal();
  const [seed, setSeed] = useState(1);
  const [isOpen, setOpen] = useState(false);
  const run = (next: number): void => {
    setSeed(next);
    const left = fill(next);
    const names = left.map((key) => form.forms.fieldByKey.get(key)?.field.name ?? key);
    onMessage(
      left.length > 0
        ? `Filled with made-up answers, seed ${next}. Left to you: ${names.join(', ')}.`
        : `Filled with made-up answers, seed ${next}. The same seed fills an empty form the same way again.`,
    );
  };
  return (
    <Popover opened={isOpen} onChange={setOpen} position="bottom-end" withinPortal trapFocus withRoles={false}>
      <Popover.Target>
        <span className={classes.joined}>
          <Button size="compact-sm" variant="default" onClick={() => run(seed)}>
            Fill
          </Button>
          <Button
            size="compact-sm"
            variant="default"
            miw={28}
            aria-label="Seed"
            aria-expanded={isOpen}
            onClick={() => setOpen(!isOpen)}
          >
            {seed}
          </Button>
        </span>
      </Popover.Target>
      <Popover.Dropdown>
        <TextInput
          size="xs"
          label="Seed"
          description="The same seed makes up the same answers."
          value={String(seed)}
          inputMode="numeric"
          onChange={(event) => setSeed(Number(event.currentTarget.value.replace(/\D/g, '').slice(0, 9)) || 0)}
          onKeyDown={(event) => {
            if (event.key !== 'Enter') return;
            setOpen(false);
            run(seed);
          }}
        />
        <Button size="compact-sm" mt={8} variant="default" onClick={() => run(seed + 1)}>
          Another
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}

/** Keeps the steps so far as a test of the workflow: what came of them is what is expected from now on. */
function KeepAsTest({ onMessage }: { readonly onMessage: (message: string | null) => void }) {
  const { store, definition } = useDraft();
  const { state, played, version } = useRehearsal();
  const [isOpen, setOpen] = useState(false);
  const [name, setName] = useState('');
  const { moments } = played;
  const keep = (): void => {
    const known = name.trim() || freshName('Rehearsal', definition.tests);
    const key = makeKey(known, new Set(definition.tests.map((test) => test.key)), 'test');
    const { intake, at, today, start } = state.script;
    const part = { key, name: known, intake, at, today, start: { ...start }, steps: expectationsOf(moments) };
    const edit: Edit = { type: 'add-part', to: 'tests', part: part as unknown as Record<string, Json>, before: null };
    if (store.edit(edit)) onMessage(`Kept as the test “${known}”. It is run again at each change of the draft.`);
    setOpen(false);
    setName('');
  };
  return (
    <Popover opened={isOpen} onChange={setOpen} position="bottom-end" withinPortal trapFocus withRoles={false}>
      <Popover.Target>
        <Button
          size="compact-sm"
          variant="default"
          disabled={moments.length === 0 || version !== null}
          title={moments.length === 0 ? 'Press a hand-off first: a test is what came of it.' : undefined}
          aria-expanded={isOpen}
          onClick={() => setOpen(!isOpen)}
        >
          Keep as test
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <TextInput
          size="xs"
          label="Name of the test"
          placeholder={freshName('Rehearsal', definition.tests)}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
          onKeyDown={(event) => event.key === 'Enter' && keep()}
        />
        <Button size="compact-sm" mt={8} onClick={keep}>
          Keep it
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
