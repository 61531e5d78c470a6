import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readDateTime, writeInstant, writeWallClock } from '../values/temporal.ts';
import { readLocalDay, writeLocalDay } from './days.ts';
import { LOCALES } from './locales.ts';
import { readLocalClock, readLocalMoment, writeLocalClock, writeLocalMoment } from './moments.ts';
import type { Reading } from './reading.ts';
import { readLocalTime, writeLocalTime } from './times.ts';
import { wordsOf } from './words.ts';

const TODAY = '2026-12-01';
const ZONE = 'Europe/Vienna';

const told = (reading: Reading<string>): string => {
  if (reading.kind === 'value') return reading.value;
  if (reading.kind === 'either') return reading.values.join(' or ');
  return reading.kind === 'nothing' ? 'nothing' : `unread: ${reading.why}`;
};

// Orders and names are those of Unicode CLDR, by the platform's Intl.
describe('days', () => {
  test.each([
    ['en-GB', ['day', 'month', 'year']],
    ['en-US', ['month', 'day', 'year']],
    ['hu-HU', ['year', 'month', 'day']],
  ])('%s writes them %j', (locale, order) => {
    expect(wordsOf(locale).order).toEqual(order);
  });

  test.each([
    ['2027-03-12', 'en-US', '2027-03-12'],
    ['12/03/2027', 'en-GB', '2027-03-12'],
    ['03/12/2027', 'en-US', '2027-03-12'],
    ['12.3.2027', 'de-AT', '2027-03-12'],
    ['12.3.2027', 'ja-JP', '2027-03-12'],
    ['2027. 03. 12.', 'hu-HU', '2027-03-12'],
    ['2027/03/12', 'ja-JP', '2027-03-12'],
    ['27/3/12', 'ja-JP', '2027-03-12'],
    ['12/3/27', 'en-GB', '2027-03-12'],
    ['1.2.85', 'de-AT', '1985-02-01 or 2085-02-01'],
    ['12032027', 'en-GB', '2027-03-12'],
    ['03122027', 'en-US', '2027-03-12'],
    ['20270312', 'hu-HU', '2027-03-12'],
    ['120327', 'en-GB', '2027-03-12'],
    ['12 Mar 2027', 'en-GB', '2027-03-12'],
    ['12 Mar 27', 'en-GB', '2027-03-12'],
    ['12 March', 'en-GB', '2026-03-12 or 2027-03-12'],
    ['24 December', 'en-GB', '2026-12-24'],
    ['24.12.', 'de-AT', '2026-12-24'],
    ['March 12th, 2027', 'en-US', '2027-03-12'],
    ['Friday, 12 March 2027', 'en-GB', '2027-03-12'],
    ['Monday, 12 March 2027', 'en-GB', 'unread: no-such-day'],
    ['12. März 2027', 'de-AT', '2027-03-12'],
    ['1er janvier 2027', 'fr-FR', '2027-01-01'],
    ['12 de marzo de 2027', 'es-MX', '2027-03-12'],
    ['12 мая 2027 г.', 'uk-UA', 'unread: day'],
    ['12 травня 2027 р.', 'uk-UA', '2027-05-12'],
    ['12 May 2027', 'hi-IN', '2027-05-12'],
    ['12 मई 2027', 'hi-IN', '2027-05-12'],
    ['१२ मई २०२७', 'hi-IN', '2027-05-12'],
    ['12 tháng 3, 2027', 'vi-VN', '2027-03-12'],
    ['2027年3月12日', 'ja-JP', '2027-03-12'],
    ['today', 'en-GB', TODAY],
    ['Heute', 'de-AT', TODAY],
    ['tomorrow', 'de-AT', '2026-12-02'],
    ['+3', 'en-GB', '2026-12-04'],
    ['-1', 'en-GB', '2026-11-30'],
    ['29 Feb 2028', 'en-GB', '2028-02-29'],
    ['29 Feb 2027', 'en-GB', 'unread: no-such-day'],
    ['31/04/2027', 'en-GB', 'unread: no-such-day'],
    ['25/12/2027', 'en-US', 'unread: no-such-day'],
    ['2027-13-01', 'en-GB', 'unread: no-such-day'],
    ['12 jui 2027', 'fr-FR', 'unread: day'],
    ['28. März 2027, 14:3028.3.2027', 'de-AT', 'unread: day'],
    ['12/3/2027/5', 'en-GB', 'unread: day'],
    ['12 Mar 2027 noon', 'en-GB', 'unread: day'],
    ['12', 'en-GB', 'unread: day'],
    ['2027', 'en-GB', 'unread: day'],
    ['soon', 'en-GB', 'unread: day'],
    ['', 'en-GB', 'nothing'],
  ])('“%s” in %s is %s', (text, locale, expected) => {
    expect(told(readLocalDay(text, { locale, today: TODAY }))).toBe(expected);
  });

  test('a text that is no ISO day is shown as it is', () => {
    for (const text of ['soon', '2027-02-30', '']) expect(writeLocalDay(text, 'en-GB')).toBe(text);
  });

  test('years are those of the Gregorian calendar everywhere', () => {
    for (const locale of ['th-TH', 'fa-IR', 'ar-SA'])
      expect(told(readLocalDay(writeLocalDay('2027-03-12', locale), { locale, today: TODAY }))).toBe('2027-03-12');
    expect(writeLocalDay('2027-03-12', 'th-TH')).toContain('2027');
  });
});

describe('times', () => {
  test.each([
    ['9', 'en-GB', '09:00'],
    ['930', 'en-GB', '09:30'],
    ['1430', 'en-GB', '14:30'],
    ['9:30', 'en-GB', '09:30'],
    ['09:30:15', 'en-GB', '09:30:15'],
    ['09:30:15.250', 'en-GB', '09:30:15.250'],
    ['2.30 pm', 'en-GB', '14:30'],
    ['2:30 PM', 'de-AT', '14:30'],
    ['2:30 p.m.', 'es-MX', '14:30'],
    ['2 pm', 'en-US', '14:00'],
    ['14h30', 'fr-FR', '14:30'],
    ['14 h', 'fr-FR', '14:00'],
    ['14.30 Uhr', 'de-AT', '14:30'],
    ['下午2:30', 'zh-TW', '14:30'],
    ['٢:٣٠ م', 'ar-EG', '14:30'],
    ['12:00 am', 'en-US', '00:00'],
    ['12:05 pm', 'en-US', '12:05'],
    ['24:00', 'en-GB', 'unread: time'],
    ['9:60', 'en-GB', 'unread: time'],
    ['13:00 pm', 'en-GB', 'unread: time'],
    ['noon', 'en-GB', 'unread: time'],
    ['9:30 or so', 'en-GB', 'unread: time'],
    ['', 'en-GB', 'nothing'],
  ])('“%s” in %s is %s', (text, locale, expected) => {
    expect(told(readLocalTime(text, locale))).toBe(expected);
  });
});

describe('moments', () => {
  const read = (text: string, locale: string): string => told(readLocalMoment(text, { locale, today: TODAY, zone: ZONE }));

  // When the clocks change in Vienna is in the IANA time zone database.
  test.each([
    ['12 Mar 2027, 09:30', 'en-GB', '2027-03-12T08:30:00Z'],
    ['12 Mar 2027 9:30 am', 'en-GB', '2027-03-12T08:30:00Z'],
    ['2027-03-12T09:30', 'en-GB', '2027-03-12T08:30:00Z'],
    ['2027-03-12 09:30', 'en-GB', '2027-03-12T08:30:00Z'],
    ['2027-03-12T08:30:00Z', 'en-GB', '2027-03-12T08:30:00Z'],
    ['12. März 2027 um 09:30', 'de-AT', '2027-03-12T08:30:00Z'],
    ['12.3.2027 9.30 Uhr', 'de-AT', '2027-03-12T08:30:00Z'],
    ['2027年3月12日 14:30', 'ja-JP', '2027-03-12T13:30:00Z'],
    ['2027年3月12日 下午2:30', 'zh-TW', '2027-03-12T13:30:00Z'],
    ['tomorrow 9:30', 'en-GB', '2026-12-02T08:30:00Z'],
    ['28 Mar 2027, 02:30', 'en-GB', 'unread: skipped'],
    ['31 Oct 2027, 02:30', 'en-GB', '2027-10-31T00:30:00Z or 2027-10-31T01:30:00Z'],
    ['31 Oct 2027, 02:30 +01:00', 'en-GB', '2027-10-31T01:30:00Z'],
    ['31 Oct 2027, 02:30 +05:00', 'en-GB', 'unread: skipped'],
    ['28. März 2027, 14:3028.3.2027', 'de-AT', 'unread: moment'],
    ['12 Mar 2027', 'en-GB', 'unread: moment'],
    ['32 Jan 2027, 10:00', 'en-GB', 'unread: no-such-day'],
    ['10:00', 'en-GB', 'unread: moment'],
    ['', 'en-GB', 'nothing'],
  ])('“%s” in %s is %s', (text, locale, expected) => {
    expect(read(text, locale)).toBe(expected);
  });

  test('which of two equal times it was is shown', () => {
    const at = (iso: string): string => writeLocalMoment(readDateTime(iso, ZONE)!, { locale: 'en-GB', zone: ZONE });
    expect([at('2027-10-31T00:30:00Z'), at('2027-10-31T01:30:00Z'), at('2027-10-31T02:30:00Z')]).toEqual([
      '31 Oct 2027, 02:30 +02:00',
      '31 Oct 2027, 02:30 +01:00',
      '31 Oct 2027, 03:30',
    ]);
  });

  test('a wall clock that is none is shown as it is', () => {
    expect(writeLocalClock('2 Jan', 'en-GB')).toBe('2 Jan');
  });
});

describe('laws over locales: what is shown is read back', () => {
  const iso = fc
    .date({ min: new Date('0002-01-01'), max: new Date('9998-12-31'), noInvalidDate: true })
    .map((date) => date.toISOString());
  const locales = fc.constantFrom(...LOCALES);

  test('days', () => {
    fc.assert(
      fc.property(iso, locales, (at, locale) => {
        const day = at.slice(0, 10);
        const shown = writeLocalDay(day, locale);
        expect([shown, told(readLocalDay(shown, { locale, today: TODAY }))]).toEqual([shown, day]);
      }),
      { numRuns: 600 },
    );
  });

  test('times, to the thousandth of a second', () => {
    fc.assert(
      fc.property(iso, locales, fc.constantFrom(5, 8, 12), (at, locale, length) => {
        const time = at.slice(11, 11 + length);
        const shown = writeLocalTime(time, locale);
        const back = told(readLocalTime(shown, locale));
        expect([shown, readDateTime(`2027-01-01T${back}Z`, 'UTC')?.ms]).toEqual([
          shown,
          readDateTime(`2027-01-01T${time}Z`, 'UTC')?.ms,
        ]);
      }),
      { numRuns: 600 },
    );
  });

  test('moments in zones with and without summer time', () => {
    const later = fc.date({ min: new Date('1980-01-01'), max: new Date('2099-12-31'), noInvalidDate: true });
    fc.assert(
      fc.property(
        later,
        locales,
        fc.constantFrom('Europe/Vienna', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kolkata'),
        (at, locale, zone) => {
          const ms = at.getTime();
          const shown = writeLocalMoment({ kind: 'date-time', ms, zone: 'UTC' }, { locale, zone });
          expect([shown, told(readLocalMoment(shown, { locale, zone, today: TODAY }))]).toEqual([shown, writeInstant(ms)]);
        },
      ),
      { numRuns: 600 },
    );
  });

  test('wall clocks', () => {
    const clock = fc
      .date({ min: new Date('1980-01-01'), max: new Date('2099-12-31'), noInvalidDate: true })
      .map((at) => writeWallClock({ kind: 'date-time', ms: Math.floor(at.getTime() / 60_000) * 60_000, zone: 'UTC' }));
    fc.assert(
      fc.property(clock, locales, (at, locale) => {
        const shown = writeLocalClock(at, locale);
        expect([shown, told(readLocalClock(shown, { locale, today: TODAY }))]).toEqual([shown, at]);
      }),
    );
  });

  test('the beginning of what is shown is never read as another day of the same digits unsaid', () => {
    const cut = fc.tuple(iso, locales, fc.nat(40));
    fc.assert(
      fc.property(cut, ([at, locale, length]) => {
        const shown = writeLocalMoment({ kind: 'date-time', ms: Date.parse(at), zone: 'UTC' }, { locale, zone: ZONE });
        const reading = readLocalMoment(shown.slice(0, length), { locale, today: TODAY, zone: ZONE });
        expect(['nothing', 'value', 'either', 'unread']).toContain(reading.kind);
      }),
    );
  });
});
