import type { Browser, Page } from '@playwright/test';
import type { RunningServer } from '../e2e/running-server.ts';

const PEOPLE = { analyst: 'Ines Halvard', borrower: 'Beryl Quist' } as const;
export const PAUSE_MS = 200;

/** Signs somebody of the demo in. */
export async function signIn(page: Page, server: RunningServer, who: keyof typeof PEOPLE): Promise<void> {
  await page.goto(`${server.base}/sign-in`);
  await page.getByRole('button', { name: new RegExp(PEOPLE[who]) }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));
}

/** A page of a browser that has nothing in its cache. */
export async function freshPage(browser: Browser): Promise<Page> {
  const context = await browser.newContext();
  return context.newPage();
}

/** The value that 95 of a hundred don't exceed. */
export const p95 = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[Math.ceil(values.length * 0.95) - 1] ?? 0;

export type Painted = { readonly durations: number[]; readonly long: number[] };

/** Notes how long keys take until they are painted (Event Timing, W3C; in steps of 8 ms, and 16 at the least), and long tasks. */
export const watchPainting = (page: Page): Promise<void> =>
  page.evaluate(() => {
    const painted: Painted = { durations: [], long: [] };
    Object.assign(globalThis, { painted });
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) if (entry.name === 'keydown') painted.durations.push(entry.duration);
    }).observe({ type: 'event', durationThreshold: 16 } as PerformanceObserverInit);
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) painted.long.push(entry.duration);
    }).observe({ type: 'longtask' });
  });

/** What was noted since the last look. Keys that took less than a frame aren't told of: they count as one. */
export async function takePainted(page: Page, keys: number): Promise<Painted> {
  const { durations, long } = await page.evaluate(() => {
    const { painted } = globalThis as unknown as { painted: Painted };
    const taken = { durations: [...painted.durations], long: [...painted.long] };
    painted.durations.length = 0;
    painted.long.length = 0;
    return taken;
  });
  return { durations: [...durations, ...Array.from({ length: Math.max(0, keys - durations.length) }, () => 16)], long };
}

/** Presses keys one after another, each once the page has come to rest. */
export async function pressEach(page: Page, keys: readonly string[]): Promise<Painted> {
  for (const key of keys) {
    await page.keyboard.press(key);
    await page.waitForTimeout(PAUSE_MS);
  }
  return takePainted(page, keys.length);
}

/** Milliseconds between the frames that are drawn while the plan is scrolled through. */
export const scrollThrough = (page: Page): Promise<readonly number[]> =>
  page.evaluate(async () => {
    const scroller = [...document.querySelectorAll<HTMLElement>('*')].find(
      (element) => element.scrollHeight > element.clientHeight + 500 && getComputedStyle(element).overflowY === 'auto',
    );
    const gaps: number[] = [];
    let last = performance.now();
    for (let frame = 0; frame < 120; frame++) {
      if (scroller) scroller.scrollTop += 40;
      if (scroller && frame % 3 === 0) scroller.scrollLeft += 25;
      await new Promise((resolve) => requestAnimationFrame(resolve));
      const now = performance.now();
      gaps.push(now - last);
      last = now;
    }
    return gaps;
  });

/** Milliseconds between the frames that are drawn while what the pointer holds is moved by `to`, and from letting go until that is painted. */
export async function drag(page: Page, what: string, to: { readonly x: number; readonly y: number }): Promise<Dragged> {
  const dragged = page.locator(what).first();
  await dragged.scrollIntoViewIfNeeded();
  const [name, box] = [await dragged.textContent(), await dragged.boundingBox()];
  if (!box) throw new Error(`nothing to drag: ${what}`);
  const from = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.evaluate(() => {
    const dragged: Dragged & { isOver: boolean } = { gaps: [], drops: [], isOver: false };
    Object.assign(globalThis, { dragged });
    void (async () => {
      let last = performance.now();
      while (!dragged.isOver) {
        const now = await new Promise<number>((resolve) => requestAnimationFrame(resolve));
        dragged.gaps.push(now - last);
        last = now;
      }
    })();
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) if (entry.name === 'pointerup') dragged.drops.push(entry.duration);
    }).observe({ type: 'event', durationThreshold: 16 } as PerformanceObserverInit);
  });
  await page.mouse.move(from.x + to.x, from.y + to.y, { steps: 60 });
  await page.evaluate(() => {
    Object.assign((globalThis as unknown as { dragged: object }).dragged, { isOver: true });
  });
  await page.mouse.up();
  await page.waitForTimeout(PAUSE_MS * 3);
  if ((await dragged.textContent()) === name) throw new Error(`${what} wasn’t moved`);
  return page.evaluate(() => (globalThis as unknown as { dragged: Dragged }).dragged);
}

export type Dragged = { readonly gaps: number[]; readonly drops: number[] };

/** Notes when workers tell what is wrong with a draft. For pages that are opened afterwards. */
export async function watchFaults(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const told: number[] = [];
    Object.assign(globalThis, { told });
    const Plain = globalThis.Worker;
    globalThis.Worker = class extends Plain {
      constructor(address: string | URL, options?: WorkerOptions) {
        super(address, options);
        this.addEventListener('message', ({ data }: MessageEvent<{ type?: string }>) => {
          if (data.type === 'found') requestAnimationFrame(() => told.push(performance.now()));
        });
      }
    };
  });
}

/** Milliseconds from a key until what is wrong is known again and drawn, for each of some keys. */
export async function timeFaults(page: Page, keys: readonly string[]): Promise<readonly number[]> {
  const taken: number[] = [];
  for (const key of keys) {
    const [before, at] = await page.evaluate(() => {
      const { told } = globalThis as unknown as { told: number[] };
      const began: { at: number } = { at: 0 };
      Object.assign(globalThis, { began });
      window.addEventListener('keydown', (event) => Object.assign(began, { at: event.timeStamp }), { once: true, capture: true });
      return [told.length, performance.now()];
    });
    await page.keyboard.press(key);
    await page.waitForFunction((count) => (globalThis as unknown as { told: number[] }).told.length > count, before);
    taken.push(
      await page.evaluate(
        ([count, since]) => {
          const { told, began } = globalThis as unknown as { told: number[]; began: { at: number } };
          return (told[count] ?? since) - began.at;
        },
        [before, at] as const,
      ),
    );
    await page.waitForTimeout(PAUSE_MS);
  }
  return taken;
}
