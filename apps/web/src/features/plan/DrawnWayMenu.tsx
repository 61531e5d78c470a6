import { Menu } from '@mantine/core';
import { type Edit, findStage, type Workflow } from '@ypomet/core';
import type { Point } from '../map/use-drawing.ts';
import { type Added, newBranch, newHandOff } from './panels/new-parts.ts';
import type { Selection } from './selection.ts';

/** What a way that was drawn from a stage to another is to be: a hand-off of its own, or a branch of one that is there. */
export function DrawnWayMenu({
  workflow,
  from,
  to,
  at,
  onEdit,
  onSelect,
  onClose,
}: {
  readonly workflow: Workflow;
  readonly from: string;
  readonly to: string;
  readonly at: Point;
  readonly onEdit: (edit: Edit) => boolean;
  readonly onSelect: (selection: Selection) => void;
  readonly onClose: () => void;
}) {
  const [source, target] = [findStage(workflow, from), findStage(workflow, to)];
  if (!source || !target) return null;
  const own = workflow.handOffs.filter((handOff) => handOff.from === from);
  const make = (made: Added, selection: Selection): void => {
    if (onEdit(made.edit)) onSelect(selection);
  };
  const addHandOff = (): void => {
    const made = newHandOff(workflow, source, target);
    make(made, { kind: 'hand-off', handOff: made.key });
  };
  return (
    <Menu opened onClose={onClose} position="bottom-start" shadow="md" withinPortal>
      <Menu.Target>
        <span style={{ position: 'absolute', left: at.x, top: at.y }} />
      </Menu.Target>
      <Menu.Dropdown aria-label={`From ${source.name} to ${target.name}`}>
        <Menu.Label>
          From {source.name} to {target.name}
        </Menu.Label>
        {source.kind === 'end' ? (
          <Menu.Item disabled>Records rest at an end: nothing leads on from it</Menu.Item>
        ) : (
          <>
            {(source.kind !== 'junction' || own.length === 0) && (
              <Menu.Item onClick={addHandOff}>A hand-off of its own</Menu.Item>
            )}
            {own.map((handOff) => (
              <Menu.Item
                key={handOff.key}
                onClick={() => {
                  const made = newBranch(workflow, handOff, target);
                  make(made, { kind: 'branch', handOff: handOff.key, branch: made.key });
                }}
              >
                A branch of “{handOff.name}”
              </Menu.Item>
            ))}
          </>
        )}
      </Menu.Dropdown>
    </Menu>
  );
}
