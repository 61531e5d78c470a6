/** Whether a text holds whole characters only: no half of a surrogate pair, and not U+0000, which PostgreSQL can't keep. */
export const isWellFormed = (text: string): boolean => !/\0|\p{Surrogate}/u.test(text);
