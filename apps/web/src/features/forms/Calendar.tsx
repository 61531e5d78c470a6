import { DatePicker } from '@mantine/dates';
import '@mantine/dates/styles.css';
import { monthName, weekdayName } from '../../shared/local-dates.ts';

/** A month of days to choose from. Days are ISO 8601. */
export function Calendar({
  day,
  locale,
  onChoose,
}: {
  readonly day: string | null;
  readonly locale: string;
  readonly onChoose: (day: string) => void;
}) {
  return (
    <DatePicker
      value={day}
      {...(day === null ? {} : { defaultDate: day })}
      onChange={(chosen) => chosen !== null && onChoose(chosen)}
      monthLabelFormat={(month) => monthName(new Date(`${month}T12:00`), locale)}
      weekdayFormat={(weekday) => weekdayName(new Date(`${weekday}T12:00`), locale)}
    />
  );
}
