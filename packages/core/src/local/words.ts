import { dateFormat } from './formats.ts';
import { plainText } from './plain-text.ts';

/** What of a day a word or number says. */
export type DayPart = 'day' | 'month' | 'year';

/** The words with which a locale writes days and times, folded for comparison. English words are always known too. */
export type LocalWords = {
  /** Names of each month, from January on: long and short, alone and beside a day. */
  readonly months: readonly (readonly string[])[];
  /** Names of each day of the week, from Sunday on. */
  readonly weekdays: readonly (readonly string[])[];
  /** Words before and after noon. */
  readonly halves: readonly [am: readonly string[], pm: readonly string[]];
  /** Words that join the parts of a date and carry no value: "de", "г.", "年". The reader skips them. */
  readonly fillers: ReadonlySet<string>;
  /** Yesterday, today and tomorrow, with the days from today. */
  readonly relative: readonly (readonly [word: string, days: number])[];
  /** In which order the locale writes the numbers of a date. */
  readonly order: readonly DayPart[];
};

/** Lower case, plain digits, no stops, one space: how words are compared. */
export const foldWord = (text: string, locale: string): string =>
  plainText(text).toLocaleLowerCase(locale).normalize('NFKC').replace(/[.,]/g, '').trim();

const known = new Map<string, LocalWords>();

/** The words of a locale, by the platform's Unicode CLDR. */
export function wordsOf(locale: string): LocalWords {
  const made = known.get(locale) ?? makeWords(locale);
  known.set(locale, made);
  return made;
}

const MONTH_WIDTHS = ['long', 'short'] as const;

function makeWords(locale: string): LocalWords {
  const languages = [locale, 'en'];
  const unique = (words: readonly string[]): readonly string[] => [...new Set(words)].filter((word) => word !== '');
  const months = Array.from({ length: 12 }, (_, month) => {
    const at = Date.UTC(2001, month, 15);
    return unique(
      languages.flatMap((own) =>
        MONTH_WIDTHS.flatMap((width) =>
          [{ month: width }, { month: width, day: 'numeric' }, { month: width, day: 'numeric', year: 'numeric' }].flatMap(
            (options) => monthIn(dateFormat(own, options as Intl.DateTimeFormatOptions).formatToParts(at)),
          ),
        ).map((name) => foldWord(name, own).replace(/\d/g, '').trim()),
      ),
    );
  });
  const isNamed = new Set(months.map((names) => names[0])).size === 12;
  const weekdays = Array.from({ length: 7 }, (_, day) =>
    unique(
      languages.flatMap((own) =>
        MONTH_WIDTHS.map((weekday) => foldWord(dateFormat(own, { weekday }).format(Date.UTC(2001, 6, 1 + day)), own)),
      ),
    ),
  );
  return {
    // A language that numbers its months ("tháng 3") has no names of them: only English names are known then.
    months: isNamed ? months : months.map((names, month) => names.filter((name) => isEnglishMonth(name, month))),
    weekdays,
    halves: [0, 1].map((half) => unique(languages.flatMap((own) => dayHalves(own, half)))) as unknown as LocalWords['halves'],
    fillers: fillersOf(languages, isNamed ? [] : months.flat()),
    relative: languages.flatMap((own) => {
      const format = new Intl.RelativeTimeFormat(own, { numeric: 'auto' });
      return [-1, 0, 1].map((days) => [foldWord(format.format(days, 'day'), own), days] as const);
    }),
    order: orderOf(locale),
  };
}

const partOf = (parts: readonly Intl.DateTimeFormatPart[], type: string): string =>
  parts.find((part) => part.type === type)?.value ?? '';

/** A month's name, alone and with the letters that a language puts in front of it without a space (Hebrew "in"). */
function monthIn(parts: readonly Intl.DateTimeFormatPart[]): readonly string[] {
  const index = parts.findIndex(({ type }) => type === 'month');
  const name = parts[index]?.value ?? '';
  const [joined = ''] = /[\p{L}\p{M}]+$/u.exec(parts[index - 1]?.value ?? '') ?? [];
  return joined === '' ? [name] : [name, joined + name];
}

const isEnglishMonth = (name: string, month: number): boolean =>
  MONTH_WIDTHS.some((width) => foldWord(dateFormat('en', { month: width }).format(Date.UTC(2001, month, 15)), 'en') === name);

/** Some languages have more words than two: "early morning", "noon", "evening". */
function dayHalves(own: string, half: number): readonly string[] {
  const formats = [
    dateFormat(own, { hour: 'numeric', minute: '2-digit', hour12: true }),
    dateFormat(own, { timeStyle: 'short' }),
  ];
  const words = formats.flatMap((format) =>
    Array.from({ length: 12 }, (_, hour) => partOf(format.formatToParts(Date.UTC(2001, 0, 1, hour + 12 * half)), 'dayPeriod')),
  );
  const folded = words.map((word) => foldWord(word, own).replace(/\s/g, ''));
  // English halves are also written with their first letter only.
  return own === 'en' ? [...folded, ...folded.map((word) => word.slice(0, 1))] : folded;
}

/** Ordinal endings and small words that people add although no format has them; from memory. */
const ORDINALS = ['st', 'nd', 'rd', 'th', 'er', 're', 'e', 'º', 'ª', 'o', 'a', 'the', 'of', 'den', 'le', 'el'];

function fillersOf(languages: readonly string[], monthWords: readonly string[]): ReadonlySet<string> {
  const at = Date.UTC(2001, 2, 12);
  const styles: readonly Intl.DateTimeFormatOptions[] = [
    { dateStyle: 'long' },
    { dateStyle: 'medium' },
    { dateStyle: 'short' },
    { day: 'numeric', month: 'short', year: 'numeric' },
    { day: 'numeric', month: 'long' },
    { dateStyle: 'full' },
  ];
  const literals = languages.flatMap((own) =>
    styles.flatMap((style) =>
      dateFormat(own, style)
        .formatToParts(at)
        .filter(({ type }) => type === 'literal' || type === 'era')
        .flatMap(({ value }) => foldWord(value, own).match(/[\p{L}\p{M}]+/gu) ?? []),
    ),
  );
  return new Set([...literals, ...ORDINALS, ...monthWords.flatMap((name) => name.match(/[\p{L}\p{M}]+/gu) ?? [])]);
}

/** In which order a locale writes a date's numbers. */
const orderOf = (locale: string): readonly DayPart[] =>
  dateFormat(locale, { day: '2-digit', month: '2-digit', year: 'numeric' })
    .formatToParts(0)
    .flatMap(({ type }) => (type === 'day' || type === 'month' || type === 'year' ? [type] : []));
