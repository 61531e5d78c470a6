import type { Json } from '@ypomet/core';

/** A file as a field names it. */
export type FileJson = { readonly name: string; readonly mediaType: string; readonly bytes: number; readonly sha256: string };

export const toFiles = (value: Json): readonly FileJson[] =>
  Array.isArray(value) ? (value as unknown as readonly FileJson[]) : [];
