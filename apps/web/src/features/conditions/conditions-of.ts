import { joinPath, type Workflow } from '@ypomet/core';

export type NamedText = { readonly path: string; readonly name: string; readonly text: string };

/** The conditions of a workflow that have a name: of branches, adjustments, checks and computed yes/no fields. */
export function conditionsOf({ handOffs, adjustments, checks, fields }: Workflow): readonly NamedText[] {
  return [
    ...handOffs.flatMap((handOff) => [
      ...(handOff.offeredWhen === null
        ? []
        : [
            {
              path: joinPath('handOffs', handOff.key, 'offeredWhen'),
              name: `${handOff.name} offered`,
              text: handOff.offeredWhen,
            },
          ]),
      ...handOff.branches.map((branch) => ({
        path: joinPath('handOffs', handOff.key, 'branches', branch.key, 'when'),
        name: `${handOff.name}: ${branch.name}`,
        text: branch.when,
      })),
    ]),
    ...adjustments.map((one) => ({ path: joinPath('adjustments', one.key, 'when'), name: one.name, text: one.when })),
    ...checks.map((one) => ({ path: joinPath('checks', one.key, 'condition'), name: one.name, text: one.condition })),
    ...fields.flatMap((field) =>
      field.type === 'yes-no' && field.expression !== null
        ? [{ path: joinPath('fields', field.key, 'expression'), name: field.name, text: field.expression }]
        : [],
    ),
  ];
}
