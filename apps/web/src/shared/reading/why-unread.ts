import type { WhyUnread } from '@ypomet/core';

/** Why a text can't be read, for whoever wrote it. `example`: how a value is written here. */
export function tellWhyUnread(why: WhyUnread, example: string): string {
  switch (why) {
    case 'number':
      return `This is not a number. Write it like ${example}.`;
    case 'digits':
      return 'This number has more than 34 digits. Shorten it.';
    case 'currency':
      return `Another currency or unit stands beside this number. Write it like ${example}.`;
    case 'day':
      return `This is not a day. Write it like ${example}.`;
    case 'no-such-day':
      return `There is no such day in the calendar. Write it like ${example}.`;
    case 'time':
      return `This is not a time of day. Write it like ${example}.`;
    case 'moment':
      return `This is not a day with a time. Write it like ${example}.`;
    case 'skipped':
      return 'The clocks are put forward over this time on that day, so it doesn’t exist. Choose another time.';
    case 'yes-no':
      return 'Write yes or no.';
    case 'option':
      return 'This is none of the options.';
    case 'options':
      return 'Not all of these are options.';
    case 'by-hand':
      return 'This is chosen, not written.';
    default:
      return why satisfies never;
  }
}
