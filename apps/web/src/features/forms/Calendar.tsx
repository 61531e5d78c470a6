import { DatePicker } from '@mantine/dates';
import '@mantine/dates/styles.css';
import { dateFormat } from '@ypomet/core';

/** Days of the week as the calendar counts them, from Sunday on. */
type Weekday = 0 | 1 | 2 | 3 | 4 | 5 | 6;

type WeekInfo = { readonly firstDay: number };
type LocaleWithWeek = Intl.Locale & { readonly weekInfo?: WeekInfo; getWeekInfo?: () => WeekInfo };

/** The day with which a locale's week begins (CLDR); Monday where the platform doesn't say. */
function firstWeekday(locale: string): Weekday {
  const own = new Intl.Locale(locale) as LocaleWithWeek;
  const { firstDay } = own.getWeekInfo?.() ?? own.weekInfo ?? { firstDay: 1 };
  return (firstDay % 7) as Weekday;
}

const utc = (day: string): number => Date.parse(`${day.slice(0, 10)}T00:00:00Z`);

/** A month of days to choose from, in a locale's order, names and digits. Days are ISO 8601. */
export function Calendar({
  day,
  locale,
  onChoose,
}: {
  readonly day: string | null;
  readonly locale: string;
  readonly onChoose: (day: string) => void;
}) {
  const written = (options: Intl.DateTimeFormatOptions) => (own: string) => dateFormat(locale, options).format(utc(own));
  return (
    <DatePicker
      value={day}
      {...(day === null ? {} : { defaultDate: day })}
      onChange={(chosen) => chosen !== null && onChoose(chosen)}
      firstDayOfWeek={firstWeekday(locale)}
      renderDay={(own) => written({ day: 'numeric' })(own).replace(/[^\p{Nd}]/gu, '')}
      monthLabelFormat={written({ month: 'long', year: 'numeric' })}
      weekdayFormat={written({ weekday: 'short' })}
    />
  );
}
