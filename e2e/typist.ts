import { expect, type Locator, type Page } from '@playwright/test';

// A simulated person who types into a form at random and remembers what each input should hold. The texts are written by the
// platform's Intl formats (ECMA-402), not by the product, so that the product's reading of them is checked against something else.

/** A text to type, and the value that should be stored for it; null if the text is no value of the input's type. */
type Entry = { readonly text: string; readonly meant: string | null };
/** An input of the form: its element id, and the type of its values. */
export type Place = { readonly id: string; readonly type: PlaceType };
export type PlaceType = 'text' | 'long-text' | 'number' | 'money' | 'date' | 'time' | 'date-time';

export const PLACE_TYPES: readonly PlaceType[] = ['text', 'long-text', 'number', 'money', 'date', 'time', 'date-time'];

export type Numbers = (below: number) => number;

const WORDS = ['Tide', 'lantern', 'Übergröße', 'Œuvre', '№ 7', 'a, b', '"quoted"', 'naïve', '0042', 'null', '岸', 'e\u0301tude'];
const two = (number: number): string => String(number).padStart(2, '0');

/** Makes a random entry: a value as people of the locale write it, or now and then a text that is no value of the type. */
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
      // Only dates in winter, when the workspace's zone, Vienna, is exactly one hour ahead of UTC.
      const winter = `${iso.slice(0, 4)}-${pick(['01', '02', '12'])}-${two(day)}`;
      const at = new Date(`${winter}T${two(hour)}:${two(minute)}:00Z`);
      const text = pick([`${winter} ${two(hour)}:${two(minute)}`, write({ dateStyle: 'medium', timeStyle: 'short' }, at)]);
      return { text, meant: new Date(at.getTime() - 3_600_000).toISOString().replace('.000Z', 'Z') };
    }
    default:
      return type satisfies never;
  }
}

/** Types into a form at random, leaves the page and comes back, and checks that the form still shows what was typed. */
export class Typist {
  /** The last entry typed into each input, by the input's id. Inputs that were cleared have no entry. */
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

  /** Does one random action. Returns the page, which is a new one if the window was closed and opened again. */
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

  /** Moves through an input with the tab key, which must not change it. */
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

  /** Moves the focus on by key, or, one time in four, leaves it in the input, so that the next action can be a reload in mid-typing. */
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
    // A reload without a connection shows the browser's error page, so the form is opened again once there is a connection.
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

  /** Waits until the last input is drawn: a long form is drawn in parts. */
  async untilThere(): Promise<void> {
    await this.input((this.places.at(-1) as Place).id).waitFor({ state: 'attached' });
  }

  /** Expects every input to show what was typed: unreadable texts as they are, values in whichever form the product writes them. */
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

  /** Clears every input whose text can't be read, as a person would before handing on. */
  async mend(): Promise<void> {
    for (const place of this.places) {
      if (this.meant.get(place.id)?.meant === null) await this.clear(place);
    }
  }

  told(id: string): string {
    return `${id}, after:\n${this.log.slice(-40).join('\n')}`;
  }
}
