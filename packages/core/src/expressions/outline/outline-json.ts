import { z } from 'zod';
import { parseExpression } from '../parse.ts';
import { printExpression } from '../print.ts';
import type { Node } from '../tree.ts';
import { COMPARISONS, type OutlineItem, type OutlineSubject } from './outline.ts';

/** An outline as JSON. Expressions stand in it as their text, so that it can be kept where trees can't. */
export type OutlineJson =
  | { readonly kind: 'group'; readonly which: 'all' | 'any' | 'none'; readonly of: readonly OutlineJson[] }
  | {
      readonly kind: 'clause';
      readonly subject: SubjectJson;
      readonly comparison: (typeof COMPARISONS)[number];
      readonly values: readonly string[];
    }
  | {
      readonly kind: 'rows';
      readonly which: 'some' | 'every';
      readonly item: string;
      readonly table: readonly string[];
      readonly where: OutlineJson;
    }
  | { readonly kind: 'text'; readonly node: string };
type SubjectJson =
  | { readonly kind: 'field'; readonly path: readonly string[] }
  | { readonly kind: 'count'; readonly table: readonly string[]; readonly where: OutlineJson | null }
  | { readonly kind: 'total'; readonly table: readonly string[]; readonly column: string };

const names = z.array(z.string()).min(1);
const subject: z.ZodType<SubjectJson> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('field'), path: names }),
    z.object({ kind: z.literal('count'), table: names, where: item.nullable() }),
    z.object({ kind: z.literal('total'), table: names, column: z.string() }),
  ]),
);
const item: z.ZodType<OutlineJson> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('group'), which: z.enum(['all', 'any', 'none']), of: z.array(item) }),
    z.object({ kind: z.literal('clause'), subject, comparison: z.enum(COMPARISONS), values: z.array(z.string()) }),
    z.object({ kind: z.literal('rows'), which: z.enum(['some', 'every']), item: z.string(), table: names, where: item }),
    z.object({ kind: z.literal('text'), node: z.string() }),
  ]),
);

/** Returns an outline, finished or not, as JSON that {@link readOutlineJson} reads back as the same outline. */
export function writeOutlineJson(outline: OutlineItem): OutlineJson {
  switch (outline.kind) {
    case 'group':
      return { ...outline, of: outline.of.map(writeOutlineJson) };
    case 'clause':
      return { ...outline, subject: writeSubjectJson(outline.subject), values: outline.values.map(printExpression) };
    case 'rows':
      return { ...outline, where: writeOutlineJson(outline.where) };
    case 'text':
      return { kind: 'text', node: printExpression(outline.node) };
    default:
      return outline satisfies never;
  }
}

const writeSubjectJson = (own: OutlineSubject): SubjectJson =>
  own.kind === 'count' ? { ...own, where: own.where && writeOutlineJson(own.where) } : own;

/** Returns the outline that JSON stands for; null if it isn't one, or if an expression in it can't be parsed. */
export function readOutlineJson(json: unknown): OutlineItem | null {
  const read = item.safeParse(json);
  return read.success ? outlineOf(read.data) : null;
}

function nodeOf(text: string): Node | null {
  const parsed = parseExpression(text);
  return parsed.ok ? parsed.value : null;
}

/** Returns the list without change if nothing in it is null, else null. */
const allOf = <T>(list: readonly (T | null)[]): readonly T[] | null => (list.includes(null) ? null : (list as readonly T[]));

function outlineOf(json: OutlineJson): OutlineItem | null {
  switch (json.kind) {
    case 'group': {
      const of = allOf(json.of.map(outlineOf));
      return of && { ...json, of };
    }
    case 'clause': {
      const values = allOf(json.values.map(nodeOf));
      const own = subjectOf(json.subject);
      return values && own && { ...json, subject: own, values };
    }
    case 'rows': {
      const where = outlineOf(json.where);
      return where && { ...json, where };
    }
    case 'text': {
      const node = nodeOf(json.node);
      return node && { kind: 'text', node };
    }
    default:
      return json satisfies never;
  }
}

function subjectOf(json: SubjectJson): OutlineSubject | null {
  if (json.kind !== 'count') return json;
  if (json.where === null) return { ...json, where: null };
  const where = outlineOf(json.where);
  return where && { ...json, where };
}
