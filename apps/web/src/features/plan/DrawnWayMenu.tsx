import { Popover, UnstyledButton } from '@mantine/core';
import { type Edit, findStage, type Workflow } from '@ypomet/core';
import type { Point } from '../map/use-drawing.ts';
import classes from './DrawnWayMenu.module.css';
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
  const choose = (made: Added, selection: Selection): void => {
    onClose();
    make(made, selection);
  };
  return (
    <Popover opened onDismiss={onClose} position="bottom-start" shadow="md" trapFocus returnFocus withinPortal>
      <Popover.Target>
        <button
          type="button"
          tabIndex={-1}
          aria-label="The way that was drawn"
          className={classes.point}
          style={{ left: at.x, top: at.y }}
        />
      </Popover.Target>
      <Popover.Dropdown aria-label={`From ${source.name} to ${target.name}`} className={classes.menu}>
        <p>
          From {source.name} to {target.name}
        </p>
        {source.kind === 'end' && <p className={classes.soft}>Records rest at an end: nothing leads on from it.</p>}
        {source.kind !== 'end' && (source.kind !== 'junction' || own.length === 0) && (
          <UnstyledButton
            className={classes.choice}
            onClick={() => {
              const made = newHandOff(workflow, source, target);
              choose(made, { kind: 'hand-off', handOff: made.key });
            }}
          >
            A hand-off of its own
          </UnstyledButton>
        )}
        {source.kind !== 'end' &&
          own.map((handOff) => (
            <UnstyledButton
              key={handOff.key}
              className={classes.choice}
              onClick={() => {
                const made = newBranch(workflow, handOff, target);
                choose(made, { kind: 'branch', handOff: handOff.key, branch: made.key });
              }}
            >
              A branch of “{handOff.name}”
            </UnstyledButton>
          ))}
        <UnstyledButton className={classes.choice} onClick={onClose}>
          Nothing
        </UnstyledButton>
      </Popover.Dropdown>
    </Popover>
  );
}
