import { Button } from '@mantine/core';
import { useEffect, useState } from 'react';
import classes from './Walk.module.css';

type Step = { readonly at: string; readonly title: string; readonly text: string };

/** What one is shown first, in the order in which one works. */
export const STEPS: readonly Step[] = [
  {
    at: '[aria-label="Stage map"]',
    title: 'The map',
    text: 'Tracks and stages, in the order of the columns below. Point at a station to see every way out of it and back to it; drag from one station to another to draw a way.',
  },
  {
    at: '[aria-label="Field plan"]',
    title: 'The plan',
    text: 'A row a field, a column a stage. Each cell says what the stage does with the field. Choose a cell and press R, N, O, V or H; Shift and the arrows take several at once.',
  },
  {
    at: '[aria-label="Inspector"]',
    title: 'The inspector',
    text: 'Edits what is selected: a field’s type and limits, a stage’s roles, a hand-off’s branches and their conditions. Nothing needs to be applied; everything can be undone.',
  },
  {
    at: 'a[href$="/rehearse"]',
    title: 'Rehearse',
    text: 'Try a record through the draft as participants will: their form, where it goes, what is sent, and why. Alt R leads there and back from anywhere.',
  },
  {
    at: 'a[href$="/versions"]',
    title: 'Versions',
    text: 'Publishing makes a version that never changes; records under way stay on theirs. Every change of the draft is listed here, and any state of it can be looked at and restored.',
  },
];

const KEY = 'ypomet.walked';

/** Whether the walk was taken, or turned down, in this browser. */
function readWalked(): boolean {
  try {
    return window.localStorage.getItem(KEY) !== null;
  } catch {
    // A browser that keeps nothing is not asked again on every page.
    return true;
  }
}

/** Offers a walk through the page to whoever is here for the first time; shows one thing after another. */
export function Walk() {
  const [step, setStep] = useState<number | null>(null);
  const [isOffered, setOffered] = useState(() => !readWalked());
  const end = (): void => {
    setStep(null);
    setOffered(false);
    try {
      window.localStorage.setItem(KEY, 'yes');
    } catch {
      // It is offered again another time: that is all.
    }
  };
  const current = step === null ? undefined : STEPS[step];
  useEffect(() => {
    const target = current && window.document.querySelector<HTMLElement>(current.at);
    if (!target) return;
    target.classList.add(classes.shown ?? '');
    return () => target.classList.remove(classes.shown ?? '');
  }, [current]);
  if (step === null || !current)
    return isOffered ? (
      <span className={classes.offer}>
        <Button size="compact-sm" variant="subtle" onClick={() => setStep(0)}>
          Show me around
        </Button>
        <Button size="compact-sm" variant="subtle" color="gray" aria-label="No, thank you" onClick={end}>
          ×
        </Button>
      </span>
    ) : null;
  const isLast = step === STEPS.length - 1;
  return (
    <section className={classes.card} role="dialog" aria-label="A walk through the plan">
      <h3>{current.title}</h3>
      <p>{current.text}</p>
      <div className={classes.ways}>
        <span>
          {step + 1} of {STEPS.length}
        </span>
        <Button size="compact-sm" variant="default" onClick={end}>
          Enough
        </Button>
        <Button size="compact-sm" onClick={() => (isLast ? end() : setStep(step + 1))} data-autofocus>
          {isLast ? 'To work' : 'Next'}
        </Button>
      </div>
    </section>
  );
}
