import { readDateTime, writeLocalMoment } from '@ypomet/core';

/** An instant as people read it, by the workspace's clock and in its language: "25 Nov 2026, 11:17". */
export function formatInstant(iso: string, style: { readonly zone: string; readonly locale: string }): string {
  const instant = readDateTime(iso, style.zone);
  if (instant === null) return iso;
  // Pages tell when something happened to the minute.
  return writeLocalMoment({ ...instant, ms: Math.floor(instant.ms / 60_000) * 60_000 }, style);
}
