import { joinPath, type Path, type Workflow } from '@ypomet/core';

/** Something to go to or to do. */
export type Command = {
  readonly id: string;
  readonly name: string;
  /** What kind of thing it is, and where. */
  readonly group: string;
  readonly run: () => void;
};

/** A command for every part of a workflow that can be selected. */
export function partCommands(workflow: Workflow, goTo: (part: Path) => void): readonly Command[] {
  const command = (part: Path, name: string, group: string): Command => ({ id: part, name, group, run: () => goTo(part) });
  const sectionName = (key: string): string => workflow.sections.find((own) => own.key === key)?.name ?? key;
  const stageName = (key: string): string => workflow.stages.find((own) => own.key === key)?.name ?? key;
  return [
    ...workflow.fields.flatMap((field) => [
      command(joinPath('fields', field.key), field.name, `Field of ${sectionName(field.section)}`),
      ...(field.type === 'table'
        ? field.fields.map((own) =>
            command(joinPath('fields', field.key, 'fields', own.key), own.name, `Column of ${field.name}`),
          )
        : []),
    ]),
    ...workflow.stages.map((stage) => command(joinPath('stages', stage.key), stage.name, 'Stage')),
    ...workflow.handOffs.flatMap((handOff) => [
      command(joinPath('handOffs', handOff.key), handOff.name, `Hand-off of ${stageName(handOff.from)}`),
      ...handOff.branches.map((branch) =>
        command(joinPath('handOffs', handOff.key, 'branches', branch.key), branch.name, `Branch of “${handOff.name}”`),
      ),
    ]),
    ...workflow.checks.map((one) => command(joinPath('checks', one.key), one.name, 'Check')),
    ...workflow.decisionTables.map((one) => command(joinPath('decisionTables', one.key), one.name, 'Decision table')),
    ...workflow.handOffs.flatMap((handOff) => [
      ...handOff.deliveries.map((one) =>
        command(joinPath('handOffs', handOff.key, 'deliveries', one.key), one.name, `Delivery of “${handOff.name}”`),
      ),
      ...handOff.followUps.map((one) =>
        command(joinPath('handOffs', handOff.key, 'followUps', one.key), one.name, `Follow-up of “${handOff.name}”`),
      ),
    ]),
    ...workflow.adjustments.map((one) => command(joinPath('adjustments', one.key), one.name, 'Adjustment')),
  ];
}
