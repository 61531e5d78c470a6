import {
  createContext,
  lazy,
  type ReactNode,
  Suspense,
  useCallback,
  useContext,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from 'react';
import type { Command } from './commands.ts';

/** Loaded when it is first asked for: participants never need it. */
const OpenPalette = lazy(() => import('./OpenPalette.tsx').then((module) => ({ default: module.OpenPalette })));

type Registered = { readonly open: () => void; readonly offer: (commands: () => readonly Command[]) => () => void };
const CommandsContext = createContext<Registered>({ open: () => {}, offer: () => () => {} });

/** Opens the palette, from anywhere, with Ctrl K; pages offer what can be done on them while they are open. */
export function CommandsProvider({ children }: { readonly children: ReactNode }) {
  const [isOpen, setOpen] = useState(false);
  const close = useCallback(() => setOpen(false), []);
  const takeTyped = useEarlyTyping(isOpen, close);
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
          <OpenPalette own={[...offers.current].flatMap((commands) => commands())} takeTyped={takeTyped} onClose={close} />
        </Suspense>
      )}
    </CommandsContext>
  );
}

/** Longest time for which keys are held back. */
const HELD_BACK_MS = 5000;

/**
 * Holds back the keys that are pressed after Ctrl K until the palette's input, which is loaded first, has the focus. Without this
 * they would act on whatever had the focus before: a letter sets a cell of the plan. Returns a function that yields the letters
 * typed so far and lets later keys through.
 */
function useEarlyTyping(isOpen: boolean, onCancel: () => void): () => string {
  const typed = useRef<string | null>(null);
  useLayoutEffect(() => {
    typed.current = isOpen ? '' : null;
    if (!isOpen) return;
    const onKey = (event: KeyboardEvent): void => {
      if (typed.current === null) return;
      event.stopPropagation();
      if (event.key === 'Escape') onCancel();
      else if (event.key === 'Backspace') typed.current = typed.current.slice(0, -1);
      else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey) typed.current += event.key;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey, { capture: true });
    // Without a connection the palette may never load: then the page gets its keys back.
    const timer = setTimeout(() => {
      typed.current = null;
    }, HELD_BACK_MS);
    return () => {
      clearTimeout(timer);
      window.removeEventListener('keydown', onKey, { capture: true });
    };
  }, [isOpen, onCancel]);
  return useCallback(() => {
    const kept = typed.current ?? '';
    typed.current = null;
    return kept;
  }, []);
}

export const useCommands = (): Registered => useContext(CommandsContext);

/** Offers commands while the page is open. They are made when the palette opens. */
export function useOffer(commands: () => readonly Command[]): void {
  const { offer } = useCommands();
  const latest = useRef(commands);
  latest.current = commands;
  useEffect(() => offer(() => latest.current()), [offer]);
}
