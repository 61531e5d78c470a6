import { lazy, Suspense, useEffect, useState } from 'react';

const KeySheet = lazy(() => import('./KeySheet.tsx').then((module) => ({ default: module.KeySheet })));

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** The sheet of keys, loaded when it is opened: with a question mark, or from elsewhere. */
export function Keys() {
  const [isOpen, setOpen] = useState(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (event.key === '?' && !isTyping(event.target)) setOpen(true);
    };
    const onAsk = (): void => setOpen(true);
    window.addEventListener('keydown', onKey);
    window.addEventListener('ypomet:keys', onAsk);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('ypomet:keys', onAsk);
    };
  }, []);
  if (!isOpen) return null;
  return (
    <Suspense>
      <KeySheet onClose={() => setOpen(false)} />
    </Suspense>
  );
}

/** Opens the sheet from elsewhere. */
export const showKeys = (): void => void window.dispatchEvent(new Event('ypomet:keys'));
