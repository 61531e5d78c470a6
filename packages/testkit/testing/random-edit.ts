import { type Edit, findList, findPart, TREATMENTS, type Workflow, walkDefinition } from '@ypomet/core';
import fc from 'fast-check';

/** Numbers by which an edit is chosen among those that a definition allows. */
export type EditChoice = { readonly kind: number; readonly part: number; readonly other: number; readonly text: string };

export const editChoice: fc.Arbitrary<EditChoice> = fc.record({
  kind: fc.nat(),
  part: fc.nat(),
  other: fc.nat(),
  text: fc.constantFrom('One', 'Two', 'Three words here', 'é', 'x'),
});

const pick = <T>(list: readonly T[], choice: number): T | undefined => list[choice % list.length];

/** The paths of all parts that stand in a list, and of all lists. */
export function placesOf(definition: Workflow): { readonly parts: readonly string[]; readonly lists: readonly string[] } {
  const parts: string[] = [];
  const lists: string[] = [];
  walkDefinition(definition, {
    part: ({ part, path }) => {
      parts.push(path);
      return part;
    },
    list: (_, __, path) => lists.push(path),
  });
  return { parts, lists };
}

/** An edit of any kind, of any part that there is; some of them can't be made. */
export function editOf(definition: Workflow, { kind, part: at, other, text }: EditChoice): Edit {
  const { parts, lists } = placesOf(definition);
  const path = pick(parts, at) ?? '';
  const siblings = findList(definition, path.replace(/\.(?:[^."]+|"(?:[^"\\]|\\.)*")$/, ''))?.list ?? [];
  const keys = siblings.map((own) => String(own.key ?? own.code));
  const before = other % 3 === 0 ? null : (pick(keys, other) ?? null);
  const fresh = `fresh${other % 50}`;
  switch (kind % 9) {
    case 0:
      return { type: 'delete-part', part: path, withUses: other % 2 === 0 };
    case 1:
      return { type: 'move-part', part: path, before };
    case 2:
      return { type: 'duplicate-part', part: path, key: fresh, name: text };
    case 3:
      return { type: 'rename-key', part: path, key: fresh };
    case 4: {
      const list = pick(lists, at) ?? 'fields';
      const sample = pick(findList(definition, list)?.list ?? [], other);
      const named = sample && 'code' in sample ? { code: fresh } : { key: fresh };
      return { type: 'add-part', to: list, part: { ...sample, ...named } as never, before: null };
    }
    case 5: {
      const property = findPart(definition, path)?.part.name === undefined ? 'label' : 'name';
      return { type: 'change-part', part: path, set: { [property]: text } };
    }
    case 6: {
      const field = pick(definition.fields, at)?.key ?? '';
      const stage = pick(definition.stages, other)?.key ?? '';
      const treatment = other % 4 === 0 ? null : (pick(TREATMENTS, other) ?? null);
      return { type: 'set-treatments', cells: [{ field, stage, treatment }] };
    }
    case 7: {
      const table = pick(definition.decisionTables, at);
      const [rule, column] = [pick(table?.rules ?? [], other), pick(table?.inputs ?? [], other)];
      const cell = {
        rule: rule?.key ?? 'none',
        side: 'when' as const,
        column: column?.key ?? 'none',
        text: other % 2 ? '> 5' : null,
      };
      return { type: 'set-cells', table: table?.key ?? 'none', cells: [cell] };
    }
    default:
      return {
        type: 'set-submitter-sees',
        cells: [{ field: pick(definition.fields, at)?.key ?? '', sees: other % 2 ? 'shown' : null }],
      };
  }
}
