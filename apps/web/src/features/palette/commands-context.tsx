import { createContext, lazy, type ReactNode, Suspense, useContext, useEffect, useMemo, useRef, useState } from 'react';
import type { Command } from './commands.ts';

/** Loaded when it is first asked for: participants never need it. */
const OpenPalette = lazy(() => import('./OpenPalette.tsx').then((module) => ({ default: module.OpenPalette })));

type Registered = { readonly open: () => void; readonly offer: (commands: () => readonly Command[]) => () => void };
const CommandsContext = createContext<Registered>({ open: () => {}, offer: () => () => {} });

/** Opens the palette, from anywhere, with Ctrl K; pages offer what can be done on them while they are open. */
export function CommandsProvider({ children }: { readonly children: ReactNode }) {
  const [isOpen, setOpen] = useState(false);
  const offers = useRef(new Set<() => readonly Command[]>());
  const registered = useMemo(
    () => ({
      open: () => setOpen(true),
      offer: (commands: () => readonly Command[]) => {
        offers.current.add(commands);
        return () => void offers.current.delete(commands);
      },
    }),
    [],
  );
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'k') return;
      event.preventDefault();
      setOpen(true);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <CommandsContext value={registered}>
      {children}
      {isOpen && (
        <Suspense>
          <OpenPalette own={[...offers.current].flatMap((commands) => commands())} onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </CommandsContext>
  );
}

export const useCommands = (): Registered => useContext(CommandsContext);

/** Offers commands while the page is open. They are made when the palette opens. */
export function useOffer(commands: () => readonly Command[]): void {
  const { offer } = useCommands();
  const latest = useRef(commands);
  latest.current = commands;
  useEffect(() => offer(() => latest.current()), [offer]);
}
