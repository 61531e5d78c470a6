const UNITS = ['bytes', 'kB', 'MB', 'GB'];

/** A size as people read it: 1.2 MB. */
export function formatSize(bytes: number): string {
  const unit = Math.min(UNITS.length - 1, Math.floor(Math.log10(Math.max(1, bytes)) / 3));
  const size = bytes / 1000 ** unit;
  return `${unit === 0 ? size : size.toFixed(1)} ${UNITS[unit]}`;
}
