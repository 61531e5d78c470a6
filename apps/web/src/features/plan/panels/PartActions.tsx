import { Button, UnstyledButton } from '@mantine/core';
import {
  applyEdit,
  type Deletion,
  describeDiagnostic,
  describeTerm,
  findList,
  findPart,
  foreseeDeletion,
  joinPath,
  makeKey,
  nameOfPart,
  type Path,
  splitPath,
  type Term,
  termOfPart,
  usersOf,
} from '@ypomet/core';
import { type ReactNode, useMemo, useRef, useState } from 'react';
import { useDraft } from '../../drafts/draft-context.tsx';
import inspector from '../Inspector.module.css';
import { type Selection, selectionOf } from '../selection.ts';
import classes from './Panel.module.css';

/** The list a part stands in, its key there, and the keys there are. */
function useSiblings(part: Path) {
  const { definition } = useDraft();
  const steps = splitPath(part) ?? [];
  const list = joinPath(...steps.slice(0, -1));
  const keys = findList(definition, list)?.list.map((own) => String(own.key)) ?? [];
  return { list, key: steps.at(-1) ?? '', keys };
}

/** Moves a part one place on or back in its list. */
export function useMove(part: Path): { readonly earlier: (() => void) | null; readonly later: (() => void) | null } {
  const { store } = useDraft();
  const { key, keys } = useSiblings(part);
  const at = keys.indexOf(key);
  const move = (before: string | null) => () => void store.edit({ type: 'move-part', part, before });
  return {
    earlier: at > 0 ? move(keys[at - 1] ?? null) : null,
    later: at >= 0 && at < keys.length - 1 ? move(keys[at + 2] ?? null) : null,
  };
}

/** Deletes a part; where something uses it, that is said first, and asked. */
export function useDelete(part: Path, onGone: () => void): { readonly ask: () => void; readonly question: ReactNode } {
  const { store, definition } = useDraft();
  const [uses, setUses] = useState<{ readonly said: string; readonly deletion: Deletion } | null>(null);
  const asker = useRef<Element | null>(null);
  const remove = (withUses: boolean): void => {
    setUses(null);
    if (store.edit({ type: 'delete-part', part, withUses })) onGone();
  };
  const ask = (): void => {
    asker.current = document.activeElement;
    const asked = applyEdit(definition, { type: 'delete-part', part, withUses: false }, store.editing);
    const [why] = asked.ok ? [] : asked.diagnostics;
    const deletion = why?.code === 'edit/in-use' ? foreseeDeletion(definition, part, store.editing) : null;
    if (why && deletion) setUses({ said: describeDiagnostic(why), deletion });
    // If other parts use it but can't go without it, the edit is refused with the reason.
    else remove(why?.code === 'edit/in-use');
  };
  const keep = (): void => {
    setUses(null);
    if (asker.current instanceof HTMLElement) asker.current.focus();
  };
  const question = uses !== null && (
    <div className={classes.ask} role="alertdialog" aria-label="Delete with its uses" ref={showQuestion}>
      <span>{uses.said}</span>
      <Follows said="Goes with it" terms={uses.deletion.goes} />
      <Follows said="No longer names it" terms={uses.deletion.loses} />
      <Follows said="Stays, with an expression that is a fault until you mend it" terms={uses.deletion.breaks} />
      <span>
        <Button size="compact-sm" color="red" onClick={() => remove(true)}>
          {deleteWords(uses.deletion)}
        </Button>{' '}
        <Button size="compact-sm" variant="default" onClick={keep}>
          Keep it
        </Button>
      </span>
    </div>
  );
  return { ask, question };
}

/** Scrolls to the question, which stands at the end of a long panel, and gives the focus to its last button, *Keep it*. */
function showQuestion(question: HTMLElement | null): void {
  question?.scrollIntoView?.({ block: 'nearest' });
  const buttons = question?.querySelectorAll('button') ?? [];
  buttons[buttons.length - 1]?.focus({ preventScroll: true });
}

/** Returns the words of the button that deletes: they name how many faults the deletion leaves, if any. */
function deleteWords({ goes, breaks }: Deletion): string {
  if (breaks.length > 0)
    return breaks.length === 1 ? 'Delete it, leave 1 fault to mend' : `Delete it, leave ${breaks.length} faults to mend`;
  return goes.length > 0 ? 'Delete it with these' : 'Delete it';
}

function Follows({ said, terms }: { readonly said: string; readonly terms: readonly Term[] }) {
  return terms.length > 0 && <span>{`${said}: ${terms.map((one) => describeTerm(one)).join(', ')}.`}</span>;
}

/** Copies a part, moves it, or deletes it. */
export function PartActions({
  part,
  earlier,
  later,
  onGone,
  onCopied,
}: {
  readonly part: Path;
  /** What moving it is called; without them it isn't offered. */
  readonly earlier?: string;
  readonly later?: string;
  readonly onGone: () => void;
  readonly onCopied?: (key: string) => void;
}) {
  const { store, definition } = useDraft();
  const { key, keys } = useSiblings(part);
  const move = useMove(part);
  const { ask, question } = useDelete(part, onGone);
  const found = findPart(definition, part);
  if (!found) return null;
  const copy = (): void => {
    const name = `${nameOfPart(found.kind, found.part)} (copy)`.slice(0, 200);
    const copied = makeKey(key, new Set([...keys, ...definition.fields.map((own) => own.key)]), 'copy');
    if (store.edit({ type: 'duplicate-part', part, key: copied, name })) onCopied?.(copied);
  };
  return (
    <>
      {question}
      <div className={classes.actions}>
        {earlier && (
          <Button size="compact-sm" variant="default" disabled={!move.earlier} onClick={() => move.earlier?.()}>
            {earlier}
          </Button>
        )}
        {later && (
          <Button size="compact-sm" variant="default" disabled={!move.later} onClick={() => move.later?.()}>
            {later}
          </Button>
        )}
        {onCopied && (
          <Button size="compact-sm" variant="default" onClick={copy}>
            Duplicate
          </Button>
        )}
        <Button size="compact-sm" variant="default" onClick={ask}>
          Delete
        </Button>
      </div>
    </>
  );
}

/** What uses a part, by key or in an expression; a click leads there. */
export function UsedBy({ part, onSelect }: { readonly part: Path; readonly onSelect: (selection: Selection) => void }) {
  const { definition, used } = useDraft();
  const users = useMemo(() => usersOf(used, part), [used, part]);
  return (
    <section>
      <h3>Used by</h3>
      {users.length === 0 ? (
        <p className={inspector.soft}>Nothing names it.</p>
      ) : (
        <ul className={classes.uses}>
          {users.map((path) => {
            const words = describeTerm(termOfPart(definition, path));
            const selection = selectionOf(path);
            return (
              <li key={path}>
                {selection ? (
                  <UnstyledButton className={inspector.link} onClick={() => onSelect(selection)}>
                    {words}
                  </UnstyledButton>
                ) : (
                  words
                )}
              </li>
            );
          })}
        </ul>
      )}
    </section>
  );
}
