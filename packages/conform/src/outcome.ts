/** The clock of a file's cases. */
export type Clock = { readonly now: number; readonly zone: string };

/** One case with what it should have come to and what it came to, both as text; they are equal where it conforms. */
export type Outcome = { readonly case: string; readonly expected: string; readonly found: string };
