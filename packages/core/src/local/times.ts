import { readTime, writeTime } from '../values/temporal.ts';
import { dateFormat } from './formats.ts';
import { plainText } from './plain-text.ts';
import { NOTHING, type Reading, reads, unread } from './reading.ts';
import { wordsOf } from './words.ts';

/** A time of day as it is shown everywhere: "14:30", "2:30 PM"; with seconds, and parts of them, where it has any. */
export function writeLocalTime(iso: string, locale: string): string {
  const time = readTime(iso);
  if (time === null) return iso;
  const fraction = time.ms % 1000;
  const written = dateFormat(locale, { timeStyle: time.ms % 60_000 === 0 ? 'short' : 'medium' })
    .formatToParts(time.ms)
    .map(({ type, value }) => (type === 'second' && fraction > 0 ? `${value}.${String(fraction).padStart(3, '0')}` : value))
    .join('');
  return time.offsetMs === null ? written : `${written} ${writeTime(time).slice(-6).replace(/^.*Z$/, '+00:00')}`;
}

const CLOCK = /^(\d{1,2})(?:[:.h時点시](\d{2})(?:[:.分분](\d{2})(?:[.,٫](\d{1,3}))?)?)?$/;
/** "930", "1430", "093015": digits written together. */
const TOGETHER = /^(\d{1,2})(\d{2})(\d{2})?$/;
/** Words beside an hour that say nothing of their own: "14.30 Uhr", "klo 14.30"; from memory. */
const HOUR_WORDS = /^(kl|klo|um|at|à|a las|в|o’clock|uhr|h|hs|hrs|ч|분|分|時|点|시|น|giờ|u|r)\.?$/;

/** Reads a time of day as people of a locale write it, as ISO 8601: "9", "930", "9:30", "14h30", "14.30 Uhr", "2:30 PM", "下午2:30". */
export function readLocalTime(text: string, locale: string): Reading<string> {
  const written = plainText(text).toLocaleLowerCase(locale);
  if (written === '') return NOTHING;
  const { clock, isAfternoon } = withoutHalf(written, locale);
  const parts = CLOCK.exec(clock) ?? TOGETHER.exec(clock);
  if (!parts) return unread('time');
  const [, hours = '', minutes = '00', seconds, fraction] = parts;
  const hour = Number(hours);
  if (isAfternoon !== null && (hour < 1 || hour > 12)) return unread('time');
  const full = isAfternoon === null ? hour : (hour % 12) + (isAfternoon ? 12 : 0);
  const iso = `${String(full).padStart(2, '0')}:${minutes}${seconds === undefined ? '' : `:${seconds}`}${fraction === undefined ? '' : `.${fraction}`}`;
  return readTime(iso) === null ? unread('time') : reads(iso);
}

/** A clock without the word for its half of the day, before or behind it, and without words that say nothing. */
function withoutHalf(written: string, locale: string): { readonly clock: string; readonly isAfternoon: boolean | null } {
  const around = /^([^\d]*?)\s*(\d[\d:.,h時点시分분٫]*)\s*([^\d]*)$/.exec(written);
  if (!around) return { clock: written, isAfternoon: null };
  const [, before = '', clock = '', after = ''] = around;
  const { halves } = wordsOf(locale);
  let isAfternoon: boolean | null = null;
  const words = [before, after].map((word) => word.trim()).filter((word) => word !== '');
  for (const word of words) {
    const folded = word.replace(/[.\s]/g, '');
    const half = halves.findIndex((names) => names.includes(folded));
    if (half >= 0 && isAfternoon === null) isAfternoon = half === 1;
    else if (!HOUR_WORDS.test(word)) return { clock: '', isAfternoon: null };
  }
  return { clock: clock.replace(/[h時点시分분.]$/, ''), isAfternoon };
}
