import { type RefObject, useEffect } from 'react';

const PRODUCT = 'Ypomet';

/** Names the window after the heading of the page that is shown within an element, as soon as that is there. */
export function usePageTitle(within: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    const element = within.current;
    if (!element) return;
    let frame = 0;
    const name = (): void => {
      frame = 0;
      const heading = element.querySelector('h1')?.textContent?.trim() ?? '';
      const title = heading === '' || heading.toLowerCase() === PRODUCT.toLowerCase() ? PRODUCT : `${heading} · ${PRODUCT}`;
      if (window.document.title !== title) window.document.title = title;
    };
    // Pages draw many things at once: they are looked at once a frame.
    const observer = new MutationObserver(() => {
      if (frame === 0) frame = requestAnimationFrame(name);
    });
    observer.observe(element, { childList: true, subtree: true, characterData: true });
    name();
    return () => {
      cancelAnimationFrame(frame);
      observer.disconnect();
    };
  }, [within]);
}
