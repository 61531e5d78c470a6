import { Button, FileButton, Select } from '@mantine/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import type { IntakeDocument } from '@ypomet/contract';
import { numberMarks, openStoredWorkflow, prepareWorkflow } from '@ypomet/core';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link, useParams } from 'react-router';
import { ColumnsTable } from '../../features/imports/ColumnsTable.tsx';
import { ImportOutcome } from '../../features/imports/ImportOutcome.tsx';
import classes from '../../features/imports/Imports.module.css';
import { partsOf } from '../../features/imports/parts.ts';
import { type Mails, sendImport } from '../../features/imports/queries.ts';
import { guessMapping, type ImportRow, type Mapping, pathsByName, readRows, targetsOf } from '../../features/imports/rows.ts';
import { readImportFile, type Sheet } from '../../features/imports/sheet.ts';
import { intakeQuery } from '../../features/records/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { LeaveGuard } from '../../shared/LeaveGuard.tsx';
import { Loaded } from '../../shared/Loaded.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { todayIn } from '../../shared/reading/today.ts';
import { useInParts } from '../../shared/use-in-parts.ts';

/**
 * Who is here: somebody with a sheet of what is to be begun. First they want to see that its columns are understood, then what
 * would come of it, and only then to begin all of it.
 */
export function ImportPage() {
  const { workflow = '', stage = '' } = useParams();
  const query = useQuery(intakeQuery(workflow, stage));
  return (
    <main className={classes.page}>
      <Loaded query={query} rows={6}>
        {(intake) => <Import intake={intake} />}
      </Loaded>
    </main>
  );
}

const MAILS: readonly { readonly value: Mails; readonly label: string }[] = [
  { value: 'all', label: 'are sent' },
  { value: 'digest', label: 'are sent as one' },
  { value: 'none', label: 'are not sent' },
];

const count = (of: number, what: string): string => `${of} ${what}${of === 1 ? '' : 's'}`;

function Import({ intake }: { readonly intake: IntakeDocument }) {
  const { workspace } = useSession();
  const [sheets, setSheets] = useState<readonly Sheet[]>([]);
  const [at, setAt] = useState(0);
  const [mapping, setMapping] = useState<Mapping>([]);
  const own = numberMarks(workspace.locale).decimal;
  const [decimal, setDecimal] = useState(own);
  const workflow = useMemo(() => prepareWorkflow(openStoredWorkflow(intake.form.definition)), [intake.form.definition]);
  const targets = useMemo(() => targetsOf(workflow.definition, intake.stage), [workflow, intake.stage]);
  const { handOffs } = workflow.definition;
  const [handOff, setHandOff] = useState(handOffs[0]?.key ?? '');
  const [mails, setMails] = useState<Mails>('all');
  const place = { workflow: intake.workflow, stage: intake.stage, handOff, byName: pathsByName(mapping, targets), mails };
  const { state, start, cancel, reset } = useInParts((part: readonly ImportRow[], of, signal) =>
    sendImport({ ...place, ...of }, part, signal),
  );
  const sheet = sheets[at];
  const read = useMemo(
    () =>
      sheet
        ? readRows(sheet, mapping, targets, { ...workspace, today: todayIn(workspace.zone), decimal })
        : { rows: [], refused: [] },
    [sheet, mapping, targets, workspace, decimal],
  );
  const take = (list: readonly Sheet[], index: number): void => {
    setSheets(list);
    setAt(index);
    setMapping(list[index] ? guessMapping(list[index], targets) : []);
    setDecimal(list[index]?.isTyped ? own : (list[index]?.decimal ?? own));
    reset();
  };
  const stopping = useRef(new AbortController());
  const reading = useMutation({
    mutationFn: (file: File) => {
      stopping.current = new AbortController();
      return readImportFile(file, workspace.locale, stopping.current.signal);
    },
    onSuccess: (list) => take(list, 0),
  });
  useEffect(() => () => stopping.current.abort(), []);
  const isRunning = state.status === 'running';
  const isBegun = state.status !== 'idle' && !state.isTrial && !isRunning;
  const run = (isTrial: boolean): void => void start(partsOf(read.rows), isTrial);
  const tried = state.status === 'done' && state.isTrial ? state.told.filter((row) => row.isBegun).length : null;
  const isGoingOn = isBegun && state.status !== 'done';
  return (
    <>
      <header className={classes.step}>
        <h1>{intake.form.definition.name}: many at once, from a sheet</h1>
        <p className={classes.soft}>
          Each line begins a record at {intake.record.stageName}, as if it were filled in by hand. A line that fills only rows of
          a table goes on the record above.
        </p>
      </header>
      <section className={classes.step} aria-label="The sheet">
        <h2>1. The sheet</h2>
        <div className={classes.row}>
          <FileButton accept=".csv,.txt,.xlsx" onChange={(file) => file && reading.mutate(file)}>
            {(props) => (
              <Button {...props} variant="default" loading={reading.isPending} disabled={isRunning}>
                {sheet ? 'Choose another file' : 'Choose a file (CSV or XLSX)'}
              </Button>
            )}
          </FileButton>
          {reading.isPending && (
            <Button variant="default" onClick={() => stopping.current.abort(new Error('You stopped it. Nothing was read.'))}>
              Stop reading
            </Button>
          )}
          {sheet && <span className={classes.soft}>{reading.variables?.name}</span>}
          {sheets.length > 1 && (
            <Select
              size="xs"
              label="Sheet"
              data={sheets.map(({ name }, index) => ({ value: String(index), label: name }))}
              value={String(at)}
              allowDeselect={false}
              disabled={isRunning}
              onChange={(index) => take(sheets, Number(index))}
            />
          )}
        </div>
        {reading.error && (
          <Notice tone="fault" title="The file wasn’t read">
            {reading.error.message}
          </Notice>
        )}
      </section>
      {sheet && (
        <section className={classes.step} aria-label="Its columns">
          <h2>2. Its columns</h2>
          <ColumnsTable
            sheet={sheet}
            mapping={mapping}
            targets={targets}
            onMap={(next) => {
              setMapping(next);
              reset();
            }}
          />
          {!sheet.isTyped && (
            <Select
              size="xs"
              className={classes.marks}
              label="Numbers are written like"
              data={[
                { value: '.', label: '1,250.50' },
                { value: ',', label: '1.250,50' },
                ...(own === '.' || own === ',' ? [] : [{ value: own, label: `1250${own}50` }]),
              ]}
              value={decimal}
              allowDeselect={false}
              disabled={isRunning}
              onChange={(mark) => {
                setDecimal(mark ?? decimal);
                reset();
              }}
            />
          )}
          <p className={classes.soft}>
            {count(sheet.lines.length, 'line')} {sheet.lines.length === 1 ? 'makes' : 'make'}{' '}
            {count(read.rows.length + read.refused.length, 'record')}
            {read.refused.length > 0 && `; in ${read.refused.length} of them a cell can’t be read as its field`}. Members are
            known by their whole name or mail address, records by their number; files and sign-offs are given by hand.
          </p>
        </section>
      )}
      {sheet && (
        <section className={classes.step} aria-label="Begin">
          <h2>3. Try it out, then begin</h2>
          <div className={classes.row}>
            {handOffs.length > 1 && (
              <Select
                size="xs"
                label="Handed on by"
                data={handOffs.map(({ key, name }) => ({ value: key, label: name }))}
                value={handOff}
                allowDeselect={false}
                disabled={isRunning}
                onChange={(key) => {
                  setHandOff(key ?? handOff);
                  reset();
                }}
              />
            )}
            <Select
              size="xs"
              label="Mails they come to"
              data={MAILS.map((one) => ({ ...one }))}
              value={mails}
              allowDeselect={false}
              disabled={isRunning || isBegun}
              onChange={(chosen) => {
                setMails(MAILS.find(({ value }) => value === chosen)?.value ?? 'all');
                reset();
              }}
            />
            <Button
              variant={tried === null ? 'filled' : 'default'}
              disabled={isRunning || isBegun || read.rows.length === 0}
              onClick={() => run(true)}
            >
              Try it out
            </Button>
            <Button
              variant={tried === null ? 'default' : 'filled'}
              disabled={isRunning || (!isGoingOn && !tried)}
              onClick={() => run(false)}
            >
              {isGoingOn ? 'Go on' : tried === null ? 'Begin them' : tried === 1 ? 'Begin 1 record' : `Begin ${tried} records`}
            </Button>
          </div>
          {mails === 'none' && (
            <p className={classes.soft}>
              Each record says under <em>Sent</em> that its mails were put away. The same holds for records that they open.
            </p>
          )}
          {mails === 'digest' && (
            <p className={classes.soft}>
              Whoever would get several of these mails gets one with all of them, a minute after the last record is begun. Mails
              with something attached are sent by themselves.
            </p>
          )}
          {state.status !== 'idle' && <ImportOutcome sheet={sheet} state={state} unread={read.refused} onCancel={cancel} />}
          {isBegun && state.status === 'done' && (
            <p>
              <Link to={`/registers/${intake.workflow}`}>To the register</Link> · <Link to="/desk">Back to the desk</Link>
            </p>
          )}
        </section>
      )}
      <LeaveGuard when={isRunning && !state.isTrial} what="Records are being begun. What isn’t begun yet would not be." />
    </>
  );
}
