import { expect, type Locator, type Page } from '@playwright/test';

// Somebody who types for as long as one likes, and remembers what each input was meant to hold. The texts are written by the
// platform's own formats (ECMA-402), not by the product, so that the product's reading of them is checked from outside.

/** What is typed, and what is then meant: a stored value, or null where the text can't be read as one. */
type Entry = { readonly text: string; readonly meant: string | null };
/** An input of the form: how it is found, and what can be typed there. */
export type Place = { readonly id: string; readonly type: PlaceType };
export type PlaceType = 'text' | 'long-text' | 'number' | 'money' | 'date' | 'time' | 'date-time';

export const PLACE_TYPES: readonly PlaceType[] = ['text', 'long-text', 'number', 'money', 'date', 'time', 'date-time'];

export type Numbers = (below: number) => number;

const WORDS = ['Tide', 'lantern', 'Übergröße', 'Œuvre', '№ 7', 'a, b', '"quoted"', 'naïve', '0042', 'null', '岸', 'e\u0301tude'];
const two = (number: number): string => String(number).padStart(2, '0');

/** Makes entries of every type: values in the forms that people of a locale write, and texts that are no such value. */
function makeEntry(type: PlaceType, locale: string, below: Numbers): Entry {
  const pick = <T>(from: readonly T[]): T => from[below(from.length)] as T;
  const unread = (...texts: readonly string[]): Entry => ({ text: pick(texts), meant: null });
  const [month, day, hour, minute] = [1 + below(12), 1 + below(28), below(24), below(60)];
  const iso = `${2020 + below(20)}-${two(month)}-${two(day)}`;
  const utcDay = new Date(`${iso}T12:00:00Z`);
  const days = [iso, ...(['medium', 'long'] as const).map((dateStyle) => write({ dateStyle }, utcDay))];
  function write(options: Intl.DateTimeFormatOptions, at: Date): string {
    return new Intl.DateTimeFormat(locale, { ...options, timeZone: 'UTC' }).format(at);
  }
  switch (type) {
    case 'text':
    case 'long-text': {
      const words = Array.from({ length: 1 + below(5) }, () => pick(WORDS)).join(' ');
      return { text: below(5) === 0 ? `  ${words} ` : words, meant: words.normalize('NFC') };
    }
    case 'number':
    case 'money': {
      if (below(8) === 0) return unread('12 abc', '-', 'about 5', '1..2', '€');
      const value = ((below(2) === 0 ? 1 : -1) * below(pick([10, 100_000, 2_000_000_000]))) / pick([1, 10, 100]);
      const isGrouped = below(2) === 0;
      const text = new Intl.NumberFormat(locale, { maximumFractionDigits: 2, useGrouping: isGrouped }).format(value);
      return { text, meant: String(value === 0 ? 0 : value) };
    }
    case 'date':
      return below(8) === 0 ? unread('2027-02-30', 'soon', '31.31.2027', '12') : { text: pick(days), meant: iso };
    case 'time':
      return below(8) === 0
        ? unread('25:00', 'noonish', '9:75')
        : { text: pick([`${hour}:${two(minute)}`, `${two(hour)}:${two(minute)}`]), meant: `${two(hour)}:${two(minute)}` };
    case 'date-time': {
      if (below(8) === 0) return unread('2027-02-30 10:00', 'tomorrowish', '10:00');
      // Winter alone, when Vienna is an hour before universal time.
      const winter = `${iso.slice(0, 4)}-${pick(['01', '02', '12'])}-${two(day)}`;
      const at = new Date(`${winter}T${two(hour)}:${two(minute)}:00Z`);
      const text = pick([`${winter} ${two(hour)}:${two(minute)}`, write({ dateStyle: 'medium', timeStyle: 'short' }, at)]);
      return { text, meant: new Date(at.getTime() - 3_600_000).toISOString().replace('.000Z', 'Z') };
    }
    default:
      return type satisfies never;
  }
}

/** Types into a form's inputs at random, goes away and comes back, and holds what is shown against what was meant. */
export class Typist {
  /** What each input was meant to hold: by its id. `shown`: what stands there once it is left. */
  readonly meant = new Map<string, Entry>();
  readonly log: string[] = [];

  constructor(
    private page: Page,
    private readonly address: string,
    private readonly locale: string,
    private readonly places: readonly Place[],
    private readonly below: Numbers,
  ) {}

  private input(id: string): Locator {
    return this.page.locator(`[id="${id}"]`);
  }

  /** One thing that people do. Returns the page, which can be another one. */
  async act(): Promise<Page> {
    const place = this.places[this.below(this.places.length)] as Place;
    const dice = this.below(40);
    if (dice < 28) await this.enter(place);
    else if (dice < 32) await this.clear(place);
    else if (dice < 34) await this.passBy(place);
    else if (dice === 34) await this.whileOffline(() => this.enter(place));
    else if (dice === 35) await this.whileOffline(() => this.reopen());
    else if (dice < 38) await this.comeBack();
    else await this.reopen();
    return this.page;
  }

  private async enter(place: Place): Promise<void> {
    const entry = makeEntry(place.type, this.locale, this.below);
    const input = await this.goTo(place);
    await input.press('ControlOrMeta+a');
    if (this.below(3) === 0) await this.page.keyboard.insertText(entry.text);
    else await input.pressSequentially(entry.text);
    this.log.push(`${place.id}: ${JSON.stringify(entry.text)}`);
    this.meant.set(place.id, entry);
    await this.leave();
  }

  private async clear(place: Place): Promise<void> {
    const input = await this.goTo(place);
    await input.press('ControlOrMeta+a');
    await input.press(this.below(2) === 0 ? 'Delete' : 'Backspace');
    this.log.push(`${place.id}: cleared`);
    this.meant.delete(place.id);
    await this.leave();
  }

  /** Goes through an input with the tab key, which enters nothing. */
  private async passBy(place: Place): Promise<void> {
    await this.goTo(place);
    this.log.push(`${place.id}: passed`);
    await this.page.keyboard.press('Tab');
  }

  private async goTo(place: Place): Promise<Locator> {
    const input = this.input(place.id);
    await input.focus();
    return input;
  }

  /** Leaves an input by key, or stays in it: what comes next may be a reload. */
  private async leave(): Promise<void> {
    const way = this.below(4);
    if (way < 2) await this.page.keyboard.press('Tab');
    else if (way === 2) await this.page.keyboard.press('Shift+Tab');
  }

  private async whileOffline(act: () => Promise<void>): Promise<void> {
    this.log.push('offline');
    await this.page.context().setOffline(true);
    await act();
    await this.page.context().setOffline(false);
    this.log.push('online');
    // A page that was asked for without a connection is none: it is asked for again.
    if ((await this.input((this.places[0] as Place).id).count()) === 0) await this.open();
  }

  /** Goes to the desk within the application, and comes back. */
  private async comeBack(): Promise<void> {
    this.log.push('to the desk and back');
    await this.page
      .getByRole('link', { name: /^(Desk|Begin)/ })
      .first()
      .click();
    await this.open();
    await this.check();
  }

  /** Reloads the page, or closes its window and opens another. */
  private async reopen(): Promise<void> {
    if (this.below(2) === 0) {
      this.log.push('closed and opened');
      const { page } = this;
      this.page = await page.context().newPage();
      await page.close({ runBeforeUnload: false });
    } else this.log.push('reloaded');
    await this.open().catch((error: unknown) => {
      if (!/ERR_INTERNET_DISCONNECTED/.test(String(error))) throw error;
    });
  }

  private async open(): Promise<void> {
    await this.page.goto(this.address);
    await this.untilThere();
  }

  /** Waits for the last input: a long form is drawn in parts. */
  async untilThere(): Promise<void> {
    await this.input((this.places.at(-1) as Place).id).waitFor({ state: 'attached' });
  }

  /** Holds every input against what it was meant to hold. Reading back what is shown is left to `expectStored`. */
  async check(): Promise<void> {
    const held = await this.page.evaluate(
      (ids) => {
        const others = ids.filter((id) => id !== document.activeElement?.id);
        return others.map((id) => [id, (document.getElementById(id) as HTMLInputElement | null)?.value ?? null] as const);
      },
      this.places.map(({ id }) => id),
    );
    for (const [id, value] of held) {
      const entry = this.meant.get(id);
      if (!entry) expect(value, this.told(id)).toBe('');
      else if (entry.meant === null) expect(value, this.told(id)).toBe(entry.text);
      else expect(value, this.told(id)).not.toBe('');
    }
  }

  /** Puts what can't be read right, as a person would before handing on. */
  async mend(): Promise<void> {
    for (const place of this.places) {
      if (this.meant.get(place.id)?.meant === null) await this.clear(place);
    }
  }

  told(id: string): string {
    return `${id}, after:\n${this.log.slice(-40).join('\n')}`;
  }
}
