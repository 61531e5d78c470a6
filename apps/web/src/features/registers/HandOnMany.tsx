import { Button, Modal } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { BodyInput, HandedOnRow, OfferedHandOffs, RegisterEntry } from '@ypomet/contract';
import { MAX_HANDED_ON } from '@ypomet/contract/limits';
import { isUnreadText, type Json } from '@ypomet/core';
import { useRef, useState } from 'react';
import { inPartsOf } from '../../shared/in-parts.ts';
import { LeaveGuard } from '../../shared/LeaveGuard.tsx';
import { Loaded } from '../../shared/Loaded.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { RunOutcome } from '../../shared/RunOutcome.tsx';
import { type RunState, useInParts } from '../../shared/use-in-parts.ts';
import { offeredQuery, sendHandOns } from './queries.ts';
import classes from './Register.module.css';
import { TakeBack } from './TakeBack.tsx';
import { ValuesForAll } from './ValuesForAll.tsx';

export type Chosen = ReadonlyMap<string, RegisterEntry['record']>;
type Props = { readonly workflow: string; readonly chosen: Chosen; readonly onClose: () => void };

/**
 * Who is here: somebody with many records to pass on alike. First they want to see what can be pressed on them, then what each
 * would come to, and only then to do it.
 */
export function HandOnMany({ workflow, chosen, onClose }: Props) {
  const query = useQuery(offeredQuery([...chosen.keys()]));
  return (
    <Modal
      opened
      onClose={onClose}
      title={`Hand on ${sayRecords(chosen.size)}`}
      size="lg"
      closeButtonProps={{ 'aria-label': 'Close' }}
    >
      <Loaded query={query} rows={3}>
        {(offered) => <Choice workflow={workflow} chosen={chosen} offered={offered} onClose={onClose} />}
      </Loaded>
    </Modal>
  );
}

const sayRecords = (count: number): string => (count === 1 ? '1 record' : `${count} records`);

function Choice({ workflow, chosen, offered, onClose }: Props & { readonly offered: readonly OfferedHandOffs[] }) {
  const client = useQueryClient();
  const [handOff, setHandOff] = useState<string | null>(null);
  const [entered, setEntered] = useState<Readonly<Record<string, Json>>>({});
  const asked = useRef<Pick<BodyInput<'handOnMany'>, 'handOff' | 'values'>>({ handOff: '' });
  // A field that was chosen and left empty stays as it is in each record.
  const values = Object.fromEntries(Object.entries(entered).filter(([, value]) => value !== null));
  const { state, start, cancel, reset } = useInParts((part: Way['records'], { run, isTrial }, signal) =>
    sendHandOns({ ...asked.current, run, isTrial, records: [...part] }, signal),
  );
  /** Other values are other work: what was tried out no longer says what would come of it. */
  const enter = (next: Readonly<Record<string, Json>>): void => {
    setEntered(next);
    reset();
  };
  const go = async ({ key, records }: Way, isTrial: boolean): Promise<void> => {
    const isOther = key !== handOff;
    // Another hand-off may lead from another stage, which asks for other things.
    if (isOther) setEntered({});
    asked.current = { handOff: key, values: isOther ? {} : values };
    setHandOff(key);
    await start(inPartsOf(records, MAX_HANDED_ON), isTrial);
    if (!isTrial) void client.invalidateQueries({ queryKey: ['register', workflow] });
  };
  const ways = waysOf(offered);
  const way = ways.find(({ key }) => key === handOff);
  const without = offered.filter(({ handOffs }) => handOffs.length === 0).length + chosen.size - offered.length;
  const isRunning = state.status === 'running';
  const isOver = state.status !== 'idle' && !state.isTrial && !isRunning;
  const fit = state.told.filter(({ isHandedOn }) => isHandedOn);
  if (ways.length === 0)
    return (
      <Notice tone="calm" title="Nothing can be pressed on them">
        Others have them, or they are finished.
      </Notice>
    );
  return (
    <div className={classes.many}>
      {!isOver && (
        <fieldset className={classes.ways} disabled={isRunning}>
          <legend>By which hand-off</legend>
          {ways.map((one) => (
            <Button
              key={one.key}
              size="compact-md"
              variant={one.key === handOff ? 'filled' : 'default'}
              aria-pressed={one.key === handOff}
              disabled={isRunning}
              onClick={() => void go(one, true)}
            >
              {one.name} ({one.records.length})
            </Button>
          ))}
        </fieldset>
      )}
      {way?.records[0] && !isOver && (
        <ValuesForAll key={way.key} sample={way.records[0].id} entered={entered} isDisabled={isRunning} onEnter={enter} />
      )}
      {without > 0 && !isOver && (
        <p className={classes.soft}>{without === 1 ? 'On one of them' : `On ${without} of them`} you can press nothing now.</p>
      )}
      {state.status !== 'idle' && <Outcome state={state} chosen={chosen} onCancel={cancel} />}
      {isOver && <TakeBack workflow={workflow} handedOn={fit} numberOf={(id) => chosen.get(id)?.number ?? ''} />}
      <div className={classes.ways}>
        {way && state.status === 'idle' && (
          <Button disabled={Object.values(entered).some(isUnreadText)} onClick={() => void go(way, true)}>
            {Object.keys(values).length === 0 ? 'Try it out' : 'Try it out with these values'}
          </Button>
        )}
        {way && state.status !== 'idle' && !isOver && (
          <Button
            disabled={isRunning || !(state.isTrial && state.status === 'done') || fit.length === 0}
            onClick={() => void go(way, false)}
          >
            {way.name}: hand on {sayRecords(fit.length)}
          </Button>
        )}
        {isOver && state.status !== 'done' && way && <Button onClick={() => void go(way, false)}>Go on</Button>}
        <Button variant="default" disabled={isRunning && !state.isTrial} onClick={onClose}>
          {isOver ? 'Done' : 'Leave it'}
        </Button>
      </div>
      <LeaveGuard when={isRunning && !state.isTrial} what="Records are being handed on. Those that aren’t yet would not be." />
    </div>
  );
}

type Way = { readonly key: string; readonly name: string; readonly records: readonly { id: string; revision: number }[] };

/** The hand-offs that can be pressed, each with the records on which it can, those on which most can first. */
export function waysOf(offered: readonly OfferedHandOffs[]): readonly Way[] {
  const ways = new Map<string, { key: string; name: string; records: { id: string; revision: number }[] }>();
  for (const { id, revision, handOffs } of offered)
    for (const { key, name } of handOffs) {
      const way = ways.get(key) ?? { key, name, records: [] };
      way.records.push({ id, revision });
      ways.set(key, way);
    }
  return [...ways.values()].sort((a, b) => b.records.length - a.records.length);
}

const MAX_LISTED = 30;

type OutcomeProps = { readonly state: RunState<HandedOnRow>; readonly chosen: Chosen; readonly onCancel: () => void };

/** What came of it, or would: where they go, what is sent, and which don’t go and why. */
function Outcome({ state, chosen, onCancel }: OutcomeProps) {
  const { told, isTrial } = state;
  const fit = told.filter(({ isHandedOn }) => isHandedOn);
  const refused = told.filter(({ isHandedOn }) => !isHandedOn);
  return (
    <RunOutcome
      state={state}
      fit={fit}
      said={`${sayRecords(fit.length)} ${isTrial ? 'would go on' : 'went on'}, ${refused.length} ${isTrial ? 'wouldn’t' : 'didn’t'}.`}
      words={{
        done: isTrial ? 'tried out' : 'handed on or refused',
        stays: 'What was handed on stays so',
        once: 'Going on hands none on twice',
      }}
      onCancel={onCancel}
      facts={
        <>
          {fit.length > 0 && (
            <li>
              <details>
                <summary>{isTrial ? 'Which go on, and where' : 'Which went on, and where'}</summary>
                <ol className={classes.which}>
                  {fit.map(({ id, stageName }) => (
                    <li key={id}>
                      <span className="mono">{chosen.get(id)?.number}</span> → {stageName}
                    </li>
                  ))}
                </ol>
              </details>
            </li>
          )}
          {refused.slice(0, MAX_LISTED).map(({ id, issues }) => (
            <li key={id}>
              <span className="mono">{chosen.get(id)?.number}</span>: {issues.map(({ message }) => message).join(' ')}
            </li>
          ))}
          {refused.length > MAX_LISTED && (
            <li>
              and {refused.length - MAX_LISTED} more that {isTrial ? 'wouldn’t' : 'didn’t'}
            </li>
          )}
        </>
      }
    />
  );
}
