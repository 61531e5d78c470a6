import { useEffect } from 'react';

/** Gives the focus back, once what this is called in is closed, to what had it when that was opened. */
export function useFocusBack(): void {
  useEffect(() => {
    const opener = window.document.activeElement;
    return () => {
      // The dialog is taken away in this frame, and the focus falls with it.
      requestAnimationFrame(() => {
        if (opener instanceof HTMLElement && opener.isConnected && window.document.activeElement === window.document.body)
          opener.focus();
      });
    };
  }, []);
}
