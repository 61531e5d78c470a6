import { compileWorkflow, type Diagnostic, type Json, readWorkflow } from '@ypomet/core';
import type { DesignCase } from './format.ts';
import type { Outcome } from './outcome.ts';
import type { Workflows } from './run-workflows.ts';

/** What is found wrong with a workflow of the file once it is changed; its neighbours are the file's other workflows. */
export function runDesign(one: DesignCase, workflows: Workflows): Outcome {
  const base = workflows.get(one.workflow);
  if (!base) throw new Error(`no workflow "${one.workflow}" in the file`);
  const read = readWorkflow(mergePatch(base.definition as unknown as Json, one.change as Json));
  const found = read.ok
    ? compileWorkflow(read.value, (key) => workflows.get(key)?.definition ?? null).diagnostics
    : read.diagnostics;
  const lines = (list: readonly string[]): string => JSON.stringify([...list].sort());
  return { case: one.name, expected: lines(one.expect), found: lines(found.map(show)) };
}

const show = ({ path, code }: Diagnostic): string => `${path}: ${code}`;

type JsonObject = { readonly [key: string]: Json };
const isObject = (json: Json | undefined): json is JsonObject =>
  json !== null && typeof json === 'object' && !Array.isArray(json);

/** JSON merge patch, RFC 7396. */
function mergePatch(target: Json, patch: Json): Json {
  if (!isObject(patch)) return patch;
  const result: Record<string, Json> = isObject(target) ? { ...target } : {};
  for (const [key, value] of Object.entries(patch)) {
    if (value === null) delete result[key];
    else result[key] = mergePatch(result[key] ?? null, value);
  }
  return result;
}
