/** Headers that belong to the connection (RFC 9110, section 7.6.1; RFC 9112): whoever sends a request can't choose them. */
const OF_THE_CONNECTION: ReadonlySet<string> = new Set([
  'connection',
  'content-length',
  'expect',
  'host',
  'keep-alive',
  'te',
  'trailer',
  'transfer-encoding',
  'upgrade',
]);

/** Whether a header is set by the connection, whatever a design says. `name`: in whatever case. */
export const isConnectionHeader = (name: string): boolean => OF_THE_CONNECTION.has(name.toLowerCase());
