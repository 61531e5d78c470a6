const formats = new Map<string, Intl.DateTimeFormat>();

/** An instant as people read it, by the workspace's clock and in its language: "25 Nov 2026, 11:17". */
export function formatInstant(iso: string, { zone, locale }: { readonly zone: string; readonly locale: string }): string {
  const key = `${locale} ${zone}`;
  let format = formats.get(key);
  if (!format) {
    format = new Intl.DateTimeFormat(locale, { dateStyle: 'medium', timeStyle: 'short', timeZone: zone });
    formats.set(key, format);
  }
  return format.format(new Date(iso));
}
