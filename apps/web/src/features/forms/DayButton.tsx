import { ActionIcon, Popover } from '@mantine/core';
import { IconCalendar } from '@tabler/icons-react';
import { onlyValue, readDateTime, readLocalMoment, writeWallClock } from '@ypomet/core';
import { lazy, Suspense, useState } from 'react';

/** Loaded when somebody opens it: many type the day. */
const Calendar = lazy(() => import('./Calendar.tsx').then((module) => ({ default: module.Calendar })));

type Props = {
  /** The button's accessible name. It includes the field's name, so that the buttons of a form can be told apart. */
  readonly label: string;
  readonly kind: 'date' | 'date-time';
  /** The value as it is stored. */
  readonly value: string;
  readonly locale: string;
  readonly zone: string;
  readonly onChoose: (value: string) => void;
  /** Takes the button out of the Tab order, for cells of a table, where days are typed. */
  readonly isAside?: boolean;
};

/** The time of a day that is chosen before any time was. */
const MORNING = '09:00';

/** Opens a calendar beside an input. A chosen day keeps the time that is there. */
export function DayButton({ label, kind, value, locale, zone, onChoose, isAside = false }: Props) {
  const [isOpen, setOpen] = useState(false);
  const moment = kind === 'date-time' ? readDateTime(value, zone) : null;
  const clock = moment ? writeWallClock({ ...moment, zone }) : value;
  const choose = (day: string): void => {
    setOpen(false);
    const at = (time: string): string | null => onlyValue(readLocalMoment(`${day}T${time}`, { locale, zone, today: day }));
    if (kind === 'date') onChoose(day);
    else onChoose(at(/T(.*)$/.exec(clock)?.[1] ?? MORNING) ?? at(MORNING) ?? value);
  };
  return (
    <Popover opened={isOpen} onChange={setOpen} position="bottom-end" shadow="md" trapFocus returnFocus>
      <Popover.Target>
        <ActionIcon
          variant="subtle"
          color="gray"
          aria-label={label}
          {...(isAside ? { tabIndex: -1 } : {})}
          onClick={() => setOpen(!isOpen)}
        >
          <IconCalendar size={16} />
        </ActionIcon>
      </Popover.Target>
      <Popover.Dropdown>
        <Suspense>
          <Calendar day={/^\d{4}-\d{2}-\d{2}/.exec(clock)?.[0] ?? null} locale={locale} onChoose={choose} />
        </Suspense>
      </Popover.Dropdown>
    </Popover>
  );
}
