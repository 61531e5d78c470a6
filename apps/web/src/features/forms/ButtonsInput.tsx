import { UnstyledButton } from '@mantine/core';
import { type KeyboardEvent, useRef } from 'react';
import classes from './ButtonsInput.module.css';
import type { Told } from './form-world.tsx';

type Option = { readonly value: string; readonly label: string };

type Props = Told & {
  readonly id: string;
  /** Instead of a visible label, in cells of a table. */
  readonly label: string | undefined;
  readonly layout: 'row' | 'column';
  readonly options: readonly Option[];
  readonly value: string | null;
  readonly onEnter: (value: string | null) => void;
};

const STEPS: Readonly<Record<string, number>> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };

/**
 * A few options as buttons, of which one or none is chosen: a group of radio buttons (ARIA Authoring Practices). Arrow keys
 * choose the next one; Delete, or the button behind them, leaves the question open. Pressing the chosen one again changes nothing.
 */
export function ButtonsInput({ id, label, layout, options, value, onEnter, ...told }: Props) {
  const group = useRef<HTMLDivElement>(null);
  const at = options.findIndex((option) => option.value === value);
  const choose = (index: number): void => {
    const option = options[(index + options.length) % options.length];
    if (!option) return;
    onEnter(option.value);
    group.current?.querySelectorAll<HTMLElement>('[role="radio"]')[options.indexOf(option)]?.focus();
  };
  const onKey = (event: KeyboardEvent): void => {
    const step = STEPS[event.key];
    if (step !== undefined) choose(at < 0 ? (step > 0 ? 0 : -1) : at + step);
    else if (event.key === 'Delete' || event.key === 'Backspace') onEnter(null);
    else return;
    event.preventDefault();
  };
  return (
    <div className={classes.row}>
      <div
        {...told}
        ref={group}
        id={id}
        role="radiogroup"
        className={classes.group}
        data-layout={layout}
        {...(label ? { 'aria-label': label } : { 'aria-labelledby': `${id}-label` })}
        onKeyDown={onKey}
      >
        {options.map((option, index) => (
          <UnstyledButton
            key={option.value}
            role="radio"
            className={classes.option}
            aria-checked={index === at}
            // Roving tabindex: Tab stops once in the group, at the chosen option or at the first one.
            tabIndex={index === Math.max(0, at) ? 0 : -1}
            onClick={() => onEnter(option.value)}
          >
            <span className={classes.mark} aria-hidden="true">
              {index === at ? '●' : '○'}
            </span>{' '}
            <span>{option.label}</span>
          </UnstyledButton>
        ))}
      </div>
      {value !== null && (
        <UnstyledButton className={classes.clear} tabIndex={-1} onClick={() => onEnter(null)}>
          Clear
        </UnstyledButton>
      )}
    </div>
  );
}
