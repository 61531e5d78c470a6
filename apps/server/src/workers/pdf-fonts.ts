import { createRequire } from 'node:module';
import { type Font, openSync } from 'fontkit';

const require = createRequire(import.meta.url);

/** The faces of a document's text. */
export type Face = 'plain' | 'strong' | 'emphasis' | 'both';

/** A font file, under the name by which a document knows it. */
export type FontFile = { readonly name: string; readonly path: string };

const file = (name: string, inPackage: string): FontFile => ({
  name,
  path: require.resolve(`@expo-google-fonts/${inPackage}`),
});
const own = (style: string): FontFile => file(style, `atkinson-hyperlegible-next/${style}/AtkinsonHyperlegibleNext_${style}.ttf`);
const OWN: Readonly<Record<Face, FontFile>> = {
  plain: own('400Regular'),
  strong: own('700Bold'),
  emphasis: own('400Regular_Italic'),
  both: own('700Bold_Italic'),
};

type Weight = '400Regular' | '700Bold';
const noto = (script: string, weight: Weight): FontFile => {
  const words = script.split('-').map((word) => `${word.charAt(0).toUpperCase()}${word.slice(1)}`);
  return file(`${script} ${weight}`, `${script}/${weight}/${words.join('')}_${weight}.ttf`);
};
const KOSUGI = file('kosugi', 'kosugi/Kosugi_400Regular.ttf');
const SYMBOLS = file('symbols', 'noto-sans-symbols-2/400Regular/NotoSansSymbols2_400Regular.ttf');
const XIAO_WEI = file('xiao-wei', 'zcool-xiaowei/400Regular/ZCOOLXiaoWei_400Regular.ttf');
const SCRIPTS = ['noto-sans', 'noto-sans-hebrew', 'vazirmatn', 'noto-sans-devanagari', 'noto-sans-thai'] as const;

/**
 * The fonts that letters are looked for in, the document's own first: Greek, Cyrillic and Vietnamese, Hebrew, Arabic,
 * Devanagari, Thai, Japanese, Korean, Chinese, signs and emoji. Han letters have the forms of the locale's language.
 */
function fontsFor(face: Face, locale: string): readonly FontFile[] {
  const weight: Weight = face === 'strong' || face === 'both' ? '700Bold' : '400Regular';
  const han = locale.startsWith('zh') ? [XIAO_WEI, KOSUGI] : [KOSUGI, XIAO_WEI];
  const korean = file(`nanum ${weight}`, `nanum-gothic/${weight}/NanumGothic_${weight}.ttf`);
  const emoji = file(`emoji ${weight}`, `noto-emoji/${weight}/NotoEmoji_${weight}.ttf`);
  return [OWN[face], ...SCRIPTS.map((script) => noto(script, weight)), ...han, korean, SYMBOLS, emoji];
}

const opened = new Map<string, Font>();
function openFont(path: string): Font {
  const known = opened.get(path);
  if (known) return known;
  const font = openSync(path) as Font;
  opened.set(path, font);
  return font;
}

/** Chooses fonts for the letters of a document, and notes those that no font has. */
export class FontChoice {
  /** Letters that no font has, each once. */
  readonly missing = new Set<string>();
  private readonly fonts = new Map<Face, readonly FontFile[]>();
  private readonly chosen = new Map<string, FontFile>();

  constructor(private readonly locale: string) {}

  /** The font for one grapheme; the face's own where none has all of it. */
  fontFor(grapheme: string, face: Face): FontFile {
    const key = `${face} ${grapheme}`;
    const known = this.chosen.get(key);
    if (known) return known;
    const fonts = this.fonts.get(face) ?? fontsFor(face, this.locale);
    this.fonts.set(face, fonts);
    const points = [...grapheme].map((letter) => letter.codePointAt(0) as number);
    const found = fonts.find(({ path }) => points.every((point) => openFont(path).hasGlyphForCodePoint(point)));
    if (!found) this.missing.add(grapheme);
    const font = found ?? (fonts[0] as FontFile);
    this.chosen.set(key, font);
    return font;
  }
}

/** A document that holds letters for which there is no font. */
export class MissingLetters extends Error {
  constructor(readonly letters: readonly string[]) {
    super(`no font has ${letters.join(' ')}`);
  }
}
