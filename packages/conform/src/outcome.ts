import type { WorkingCalendar } from '@ypomet/core';

/** The clock of a file's cases, with the calendar its working days are counted in. */
export type Clock = { readonly now: number; readonly zone: string; readonly calendar: WorkingCalendar };

/** One case with what it should have come to and what it came to, both as text; they are equal where it conforms. */
export type Outcome = { readonly case: string; readonly expected: string; readonly found: string };
