const formats = new Map<string, Intl.DateTimeFormat>();

/** An instant as people read it, in the workspace's zone: "25 Nov 2026, 11:17". */
export function formatInstant(iso: string, zone: string): string {
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short', timeZone: zone });
    formats.set(zone, format);
  }
  return format.format(new Date(iso));
}
