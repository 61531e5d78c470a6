import { Button, Textarea, TextInput } from '@mantine/core';
import { addWorkingDays, type CalendarSettings, makeCalendar, readDate, WEEKDAYS, type Weekday, writeDate } from '@ypomet/core';
import { type FormEvent, useState } from 'react';
import { useSession } from '../../features/session/queries.ts';
import { readTyped, toTyped } from '../../features/workspace/calendar-text.ts';
import { usePutCalendar } from '../../features/workspace/queries.ts';
import { formatDue } from '../../shared/due.ts';
import { LeaveGuard } from '../../shared/LeaveGuard.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { problemText } from '../../shared/problems.ts';
import classes from './CalendarPage.module.css';
import dispatch from './Dispatch.module.css';
import { DispatchNav } from './DispatchNav.tsx';

const NAMES: Readonly<Record<Weekday, string>> = {
  monday: 'Monday',
  tuesday: 'Tuesday',
  wednesday: 'Wednesday',
  thursday: 'Thursday',
  friday: 'Friday',
  saturday: 'Saturday',
  sunday: 'Sunday',
};

/**
 * Who is here: the administrator, saying when work is done; or the analyst, seeing what due dates count in. First they want to see
 * the week, then what five working days from today come to.
 */
export function CalendarPage() {
  const { member, workspace } = useSession();
  const isOpen = member.roles.includes('administrator');
  const [typed, setTyped] = useState(() => toTyped(workspace.calendar));
  const put = usePutCalendar();
  const read = readTyped(typed);
  const kept = toTyped(workspace.calendar);
  const isChanged = JSON.stringify(typed) !== JSON.stringify(kept);
  const keep = (event: FormEvent): void => {
    event.preventDefault();
    if (read.ok) put.mutate(read.calendar, { onSuccess: ({ calendar }) => setTyped(toTyped(calendar)) });
  };
  const shown = read.ok ? read.calendar : workspace.calendar;
  return (
    <main className={dispatch.page}>
      <DispatchNav />
      <h1>Working calendar</h1>
      <p className={dispatch.none}>
        What working days and working hours count in, in {workspace.zone}. Due dates that stand stay as they are until a value
        they read changes.
      </p>
      <LeaveGuard when={isChanged} what="Your changes of the calendar are not kept yet and would be lost." />
      <form className={classes.form} onSubmit={keep}>
        <section aria-label="The week">
          <h2>The week</h2>
          {WEEKDAYS.map((day) => (
            <div key={day} className={classes.day}>
              <TextInput
                size="xs"
                label={NAMES[day]}
                classNames={{ root: classes.hours, label: classes.name, input: 'mono' }}
                placeholder="nobody works"
                readOnly={!isOpen}
                value={typed.week[day]}
                error={read.ok ? undefined : read.days.get(day)}
                onChange={({ currentTarget: { value } }) => setTyped({ ...typed, week: { ...typed.week, [day]: value } })}
              />
              <Hours spans={shown.week[day]} />
            </div>
          ))}
          <p className={dispatch.soft}>Several with commas: 09:00–12:00, 13:00–17:00.</p>
        </section>
        <section aria-label="Holidays">
          <Textarea
            label="Holidays"
            description="A line each: the date, then its name."
            size="xs"
            autosize
            minRows={7}
            maxRows={16}
            classNames={{ input: 'mono' }}
            placeholder="2026-12-25 Winter feast"
            readOnly={!isOpen}
            value={typed.holidays}
            error={read.ok ? undefined : read.holidays}
            onChange={({ currentTarget: { value } }) => setTyped({ ...typed, holidays: value })}
          />
          <CountsTo calendar={shown} />
          {put.isError && (
            <Notice tone="fault" title="The calendar was not kept">
              {problemText(put.error)}
            </Notice>
          )}
          {isOpen ? (
            <div className={classes.actions}>
              <Button type="submit" size="compact-md" disabled={!read.ok || !isChanged} loading={put.isPending}>
                Keep
              </Button>
              <Button size="compact-md" variant="default" disabled={!isChanged} onClick={() => setTyped(kept)}>
                As it was
              </Button>
              <span role="status" className={dispatch.soft}>
                {put.isSuccess && !isChanged ? 'Kept' : ''}
              </span>
            </div>
          ) : (
            <p className={dispatch.soft}>An administrator can change it.</p>
          )}
        </section>
      </form>
    </main>
  );
}

const HOURS_OF_DAY = 24;
const hoursOf = (clock: string): number => Number(clock.slice(0, 2)) + Number(clock.slice(3)) / 60;

/** A day from midnight to midnight, with the hours in which work is done. */
function Hours({ spans }: { readonly spans: CalendarSettings['week'][Weekday] }) {
  return (
    <div className={classes.bar} aria-hidden="true">
      {spans.map(({ from, to }) => (
        <span
          key={from}
          style={{
            left: `${(hoursOf(from) / HOURS_OF_DAY) * 100}%`,
            width: `${((hoursOf(to) - hoursOf(from)) / HOURS_OF_DAY) * 100}%`,
          }}
        />
      ))}
    </div>
  );
}

/** What counting in it comes to, from today. */
function CountsTo({ calendar }: { readonly calendar: CalendarSettings }) {
  const { workspace } = useSession();
  const counted = makeCalendar(calendar);
  const today = new Intl.DateTimeFormat('en-CA', { timeZone: workspace.zone }).format(new Date());
  const from = readDate(today)?.day ?? 0;
  return (
    <dl className={classes.counts}>
      {[1, 5, 20].map((count) => {
        const day = addWorkingDays(counted, from, count);
        return (
          <div key={count}>
            <dt>{count === 1 ? '1 working day' : `${count} working days`} from today</dt>
            <dd>{day === null ? 'never' : formatDue(writeDate({ kind: 'date', day }), workspace)}</dd>
          </div>
        );
      })}
    </dl>
  );
}
