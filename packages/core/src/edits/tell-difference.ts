import { splitFieldPath } from '../model/field-path.ts';
import { joinPath, splitPath } from '../model/path.ts';
import type { PartKind } from '../model/shape.ts';
import type { Part } from '../model/walk.ts';
import type { Workflow } from '../model/workflow.ts';
import { type TermCode, term, termOfProperty } from '../shared/terms.ts';
import type { Difference } from '../structure/differences.ts';
import { findList, findPart } from '../structure/places.ts';
import type { EditSentence } from './edit.ts';
import { nameOfPart, placeOf } from './naming.ts';

/**
 * What differs, as the sentence of the edit that would have made it: "made “Lux limit” required at Conservation review". `before`
 * and `after` are the definitions that were compared.
 */
export function tellDifference(difference: Difference, before: Workflow, after: Workflow): EditSentence {
  switch (difference.kind) {
    case 'added':
      return ofListed('add-part', difference.path, difference.value, after);
    case 'removed':
      return ofListed('delete-part', difference.path, difference.value, before);
    case 'moved': {
      const list = findList(after, difference.path);
      const named = (key: string | null): string => {
        const part = key === null ? null : findPart(after, joinPath(...(splitPath(difference.path) ?? []), key));
        return part ? nameOfPart(part.kind, part.part) : (key ?? '');
      };
      const part = term(`part/${list?.kind ?? 'any'}`);
      const place = placeOf(after, difference.path);
      const name = named(difference.key);
      return difference.to === null
        ? { code: 'move-part-to-end', params: { part, name, place } }
        : { code: 'move-part', params: { part, name, place, next: named(difference.to) } };
    }
    case 'changed':
      return ofChanged(difference, before, after);
    default:
      return difference satisfies never;
  }
}

function ofListed(code: 'add-part' | 'delete-part', path: string, value: Part, definition: Workflow): EditSentence {
  const kind: PartKind = findList(definition, path)?.kind ?? 'workflow';
  return { code, params: { part: term(`part/${kind}`), name: nameOfPart(kind, value), place: placeOf(definition, path) } };
}

function ofChanged(difference: Extract<Difference, { kind: 'changed' }>, before: Workflow, after: Workflow): EditSentence {
  const [list, row] = splitPath(difference.path) ?? [];
  const fieldName = (path: string): string => {
    const { field, sub } = splitFieldPath(path);
    const found =
      findPart(after, joinPath('fields', field, ...(sub === null ? [] : ['fields', sub]))) ??
      findPart(before, joinPath('fields', field, ...(sub === null ? [] : ['fields', sub])));
    return found ? nameOfPart(found.kind, found.part) : path;
  };
  if (list === 'plan' && row !== undefined) {
    const stage =
      findPart(after, joinPath('stages', difference.property)) ?? findPart(before, joinPath('stages', difference.property));
    const treatment = term(`treatment/${(difference.to as string | undefined) ?? 'default'}` as TermCode);
    const stages = [stage ? nameOfPart(stage.kind, stage.part) : difference.property];
    return { code: 'set-treatments', params: { field: fieldName(row), treatment, stages } };
  }
  if (list === 'submitterSees') {
    const treatment = term(`treatment/${(difference.to as string | undefined) ?? 'default'}` as TermCode);
    return { code: 'set-submitter-sees', params: { fields: [fieldName(difference.property)], treatment } };
  }
  // Texts of a rule are cells of its table: the part around the path is the one that is named.
  const steps = splitPath(difference.path) ?? [];
  for (let length = steps.length; length >= 0; length--) {
    const path = joinPath(...steps.slice(0, length));
    const found = findPart(after, path) ?? findPart(before, path);
    if (!found || found.kind === 'arrival') continue;
    const part = term(`part/${found.kind}`);
    const params = { part, name: nameOfPart(found.kind, found.part), place: placeOf(after, path) };
    return { code: 'change-part', params: { ...params, properties: [termOfProperty(steps[length] ?? difference.property)] } };
  }
  return {
    code: 'change-part',
    params: {
      part: term('part/workflow'),
      name: after.name,
      place: term('place/none'),
      properties: [termOfProperty(difference.property)],
    },
  };
}
