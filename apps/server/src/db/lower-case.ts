/**
 * Returns how texts are brought to lower case in SQL for a search. PostgreSQL makes the Turkish İ a plain i, so that a search for
 * İ would find every text with an i: only where it is searched for, it becomes i with a dot above (Unicode, SpecialCasing.txt).
 */
export const loweredFor = (find: string): ((sql: string) => string) =>
  find.includes('İ') ? (sql) => `lower(replace(${sql}, 'İ', U&'i\\0307'))` : (sql) => `lower(${sql})`;
