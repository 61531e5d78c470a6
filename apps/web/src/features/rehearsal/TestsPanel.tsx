import { Button, UnstyledButton } from '@mantine/core';
import {
  type CompiledWorkflow,
  describeDiagnostic,
  expectationsOf,
  findStage,
  type Json,
  joinPath,
  type KeptTest,
  type RehearsalWorld,
  replay,
  runTest,
  type Script,
  type TestRun,
} from '@ypomet/core';
import { useEffect, useState } from 'react';
import { useDraft } from '../drafts/draft-context.tsx';
import { useRehearsal } from './rehearsal-context.tsx';
import { openedScript } from './rehearsal-state.ts';
import classes from './TestsPanel.module.css';
import { differenceWords } from './test-words.ts';

/** Who is here: the analyst who has changed something, wanting to know what else it changed. */
export function TestsPanel() {
  const { store, definition, compiled } = useDraft();
  const { world, open, setVersion } = useRehearsal();
  const runs = useTestRuns(compiled, world);
  const { tests } = definition;
  const failed = tests.filter(({ key }) => (runs.get(key)?.differences.length ?? 0) > 0);
  const show = (test: KeptTest): void => {
    setVersion(null);
    open(openedScript(scriptOf(test)));
  };
  const expectNow = (test: KeptTest): void => {
    const { moments } = replay(compiled, scriptOf(test), world);
    const steps = expectationsOf(moments).map((step, index) => ({ ...step, key: test.steps[index]?.key ?? step.key }));
    store.edit({ type: 'change-part', part: joinPath('tests', test.key), set: { steps: steps as unknown as Json } });
  };
  if (tests.length === 0)
    return (
      <section className={classes.panel} aria-label="Tests">
        <h2>Tests</h2>
        <p className={classes.soft}>
          None yet. Rehearse a record to where it should go, then keep it as a test: it is run again at each change, and says what
          has come to differ.
        </p>
      </section>
    );
  return (
    <section className={classes.panel} aria-label="Tests">
      <h2>Tests</h2>
      <p className={classes.soft} role="status">
        {runs.size < tests.length
          ? `Running, ${runs.size} of ${tests.length} done`
          : failed.length === 0
            ? tests.length === 1
              ? 'It passes'
              : `All ${tests.length} pass`
            : `${failed.length} of ${tests.length} fail`}
      </p>
      <ul className={classes.list}>
        {tests.map((test) => {
          const run = runs.get(test.key);
          const passes = run !== undefined && run.differences.length === 0;
          return (
            <li key={test.key} className={classes.test} data-state={run === undefined ? 'running' : passes ? 'passes' : 'fails'}>
              <span className={classes.mark} aria-hidden="true">
                {run === undefined ? '…' : passes ? '✓' : '✗'}
              </span>
              <div className={classes.body}>
                <UnstyledButton className={classes.name} onClick={() => show(test)}>
                  {test.name}
                </UnstyledButton>{' '}
                <span className={classes.soft}>
                  {run === undefined ? 'is run' : passes ? 'passes' : 'fails'} ·{' '}
                  {[test.at ?? test.intake, ...test.steps.map(({ to }) => to)]
                    .map((stage) => (stage === null ? 'refused' : (findStage(definition, stage)?.name ?? stage)))
                    .join(' → ')}
                </span>
                {run && !passes && <Differences run={run} workflow={compiled} />}
                {run && !passes && (
                  <Button size="compact-xs" variant="default" onClick={() => expectNow(test)}>
                    Expect it from now on
                  </Button>
                )}
              </div>
              <Button
                size="compact-xs"
                variant="subtle"
                aria-label={`Delete the test ${test.name}`}
                onClick={() => store.edit({ type: 'delete-part', part: joinPath('tests', test.key), withUses: true })}
              >
                Delete
              </Button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

const scriptOf = ({ intake, at, today, start, steps }: KeptTest): Script => ({
  intake,
  at,
  today,
  start,
  steps: steps.map(({ handOff, role, entered }) => ({ handOff, role, entered })),
});

const MAX_TOLD = 6;

function Differences({ run, workflow }: { readonly run: TestRun; readonly workflow: CompiledWorkflow }) {
  const told = run.differences.slice(0, MAX_TOLD);
  return (
    <ul className={classes.differences}>
      {told.map((one) => (
        <li key={`${one.step}/${one.what}/${one.key}/${one.expected}`}>{differenceWords(one, workflow)}</li>
      ))}
      {run.differences.length > told.length && <li>and {run.differences.length - told.length} more</li>}
      {run.refused.slice(0, 2).map((one) => (
        <li key={`${one.path}/${one.code}`}>{describeDiagnostic(one)}</li>
      ))}
    </ul>
  );
}

/** Runs the draft's tests again whenever it has changed, one after another, so that nothing waits for them. */
export function useTestRuns(compiled: CompiledWorkflow, world: RehearsalWorld): ReadonlyMap<string, TestRun> {
  const [runs, setRuns] = useState<ReadonlyMap<string, TestRun>>(new Map());
  useEffect(() => {
    const done = new Map<string, TestRun>();
    const left = [...compiled.definition.tests];
    let timer: ReturnType<typeof setTimeout>;
    const next = (): void => {
      const test = left.shift();
      if (test) {
        done.set(test.key, runTest(compiled, test, world));
        timer = setTimeout(next, 0);
      }
      setRuns(new Map(done));
    };
    timer = setTimeout(next, 120);
    return () => clearTimeout(timer);
  }, [compiled, world]);
  return runs;
}
