import { type FieldType, makeKey } from '@ypomet/core';
import Papa from 'papaparse';

/** A field that somebody means, guessed from what they pasted; to be confirmed before it is kept. */
export type MeantField = {
  readonly key: string;
  readonly name: string;
  readonly type: FieldType;
  /** For choices: what occurred in the samples. */
  readonly options: readonly string[];
  /** For amounts: the currency that occurred, and the places. */
  readonly scale: number;
  /** For tables: their columns. */
  readonly columns: readonly MeantField[];
};

/** What was left out, and why. */
export type LeftOut = { readonly name: string; readonly why: 'twice' | 'too-many' };
export type MeantFields = { readonly fields: readonly MeantField[]; readonly leftOut: readonly LeftOut[] };

export const MAX_FIELDS_AT_ONCE = 300;
const MAX_COLUMNS = 100;
const MAX_NAME = 200;
const MAX_OPTIONS = 12;
const MAX_LISTED = 200;
const MAX_SAMPLES = 200;

/** Words that people write behind a field's name for its type. */
const TYPE_WORDS: readonly (readonly [RegExp, FieldType])[] = [
  [/^(long text|memo|paragraph|multi-?line)$/, 'long-text'],
  [/^(text|string|words?)$/, 'text'],
  [/^(number|integer|decimal|count|quantity)$/, 'number'],
  [/^(money|amount|price|currency)$/, 'money'],
  [/^(yes\/?no|boolean|checkbox|flag)$/, 'yes-no'],
  [/^(date)$/, 'date'],
  [/^(time)$/, 'time'],
  [/^(date ?-?time|date and time|timestamp)$/, 'date-time'],
  [/^(choice|select|option|dropdown|list)$/, 'choice'],
  [/^(several choices|multi-?choice|multi-?select)$/, 'multi-choice'],
  [/^(member|person|user|colleague)$/, 'member'],
  [/^(files?|attachments?|upload|document)$/, 'file'],
  [/^(sign-?off|signature)$/, 'sign-off'],
  [/^(note|hint|heading)$/, 'note'],
  [/^(table|rows|repeated)$/, 'table'],
];

/** What a name alone lets one guess. */
const NAME_HINTS: readonly (readonly [RegExp, FieldType])[] = [
  [/\b(e-?mail|phone|address|name|title|reference|number of|no\.?)\b/i, 'text'],
  [/\b(date|from|until|deadline|due|birthday|day)\b/i, 'date'],
  [/\b(price|value|amount|cost|fee|premium|total|budget)\b/i, 'money'],
  [/\b(count|quantity|how many|pieces|lux|weight|height|width|length|percent)\b/i, 'number'],
  [/^(is|has|are|may|needs?)\b|\?$/i, 'yes-no'],
  [/\b(description|remarks?|comment|reason|notes?)\b/i, 'long-text'],
  [/\b(file|report|attachment|photo|image|scan|document)\b/i, 'file'],
  [/\b(kind|type|category|status|class)\b/i, 'text'],
];

const found = (list: readonly (readonly [RegExp, FieldType])[], text: string): FieldType | null =>
  list.find(([pattern]) => pattern.test(text))?.[1] ?? null;

const SAMPLE_TYPES: readonly (readonly [RegExp, FieldType])[] = [
  [/^(yes|no|true|false|y|n)$/i, 'yes-no'],
  [/^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}/, 'date-time'],
  [/^(\d{4}-\d{2}-\d{2}|\d{1,2}[./]\d{1,2}[./]\d{4})$/, 'date'],
  [/^\d{1,2}:\d{2}(:\d{2})?$/, 'time'],
  [/^(?:[€$£]\s?-?[\d.,' ]+|-?[\d.,' ]+\s?(?:€|\$|£|EUR|USD|GBP|CHF))$/, 'money'],
  [/^-?\d{1,3}(?:[,' ]\d{3})*(?:\.\d+)?$|^-?\d+(?:[.,]\d+)?$/, 'number'],
];

/** The type that all samples of a column have; a choice where few texts recur. */
function guessFromSamples(samples: readonly string[]): Pick<MeantField, 'type' | 'options' | 'scale'> | null {
  const given = samples.map((sample) => sample.trim()).filter((sample) => sample !== '');
  if (given.length === 0) return null;
  const kinds = new Set(given.map((sample) => found(SAMPLE_TYPES, sample)));
  const [kind = null] = kinds;
  if (kinds.size === 1 && kind !== null) {
    const places = given.map((sample) => /[.,](\d{1,15})\D*$/.exec(sample)?.[1]?.length ?? 0);
    return { type: kind, options: [], scale: kind === 'money' ? 2 : Math.max(...places) };
  }
  const different = [...new Set(given)];
  const recur = given.length >= 4 && different.length <= Math.min(MAX_OPTIONS, given.length / 2);
  if (recur && different.every((one) => one.length <= 60)) return { type: 'choice', options: different, scale: 0 };
  return {
    type: given.some((sample) => sample.length > 120 || sample.includes('\n')) ? 'long-text' : 'text',
    options: [],
    scale: 0,
  };
}

/**
 * Fields from pasted text. Lines of one cell are names, one a field, with a type behind a semicolon or colon where one is
 * given (`Insured value; money`, `Kind; choice: loan, gift`); indented lines are the columns of the table named above them. Rows of several cells are a header and samples, from which types are guessed. Names that are
 * there already, or come twice, are left out.
 */
export function readFields(text: string, taken: ReadonlySet<string>, names: ReadonlySet<string>): MeantFields {
  const rows = rowsOf(text);
  const [header = []] = rows;
  const guessed: readonly Guessed[] =
    header.length > 1 ? header.map((name, index) => fromColumn(name, rows.slice(1), index)) : fromLines(rows.flat());
  return named(guessed, taken, names, MAX_FIELDS_AT_ONCE);
}

/** Gives keys, and leaves out what there is already and what is too much. */
function named(guessed: readonly Guessed[], taken: ReadonlySet<string>, names: ReadonlySet<string>, atMost: number): MeantFields {
  const keys = new Set(taken);
  const known = new Set([...names].map((name) => name.toLowerCase()));
  const fields: MeantField[] = [];
  const leftOut: LeftOut[] = [];
  for (const { name, columns, ...own } of guessed) {
    if (name === '') continue;
    if (known.has(name.toLowerCase())) leftOut.push({ name, why: 'twice' });
    else if (fields.length >= atMost) leftOut.push({ name, why: 'too-many' });
    else {
      known.add(name.toLowerCase());
      const key = makeKey(name, keys, 'field');
      keys.add(key);
      const inner = named(columns, new Set(), new Set(), MAX_COLUMNS);
      fields.push({ key, name, ...own, columns: inner.fields });
      leftOut.push(...inner.leftOut);
    }
  }
  return { fields, leftOut };
}

const IS_INDENTED = /^(?: {2,}|\t)\s*\S/;

/** Fields by line; indented lines under one that says `table` are its columns. */
function fromLines(lines: readonly string[]): readonly Guessed[] {
  const found: Guessed[] = [];
  for (const line of lines) {
    const over = found.at(-1);
    const own = fromLine(line.trim());
    if (over?.type !== 'table' || !IS_INDENTED.test(line)) found.push(own);
    else found[found.length - 1] = { ...over, columns: [...over.columns, own] };
  }
  return found;
}

/** Cells by row. What is pasted from a sheet has tabs; a file's commas or semicolons count where there is a header of several. */
function rowsOf(text: string): readonly (readonly string[])[] {
  const plain = text.replace(/^\uFEFF/, '');
  if (/\S.*\t/.test(plain)) return Papa.parse<string[]>(plain, { delimiter: '\t', skipEmptyLines: 'greedy' }).data;
  const [first = ''] = plain.split(/\r\n|\r|\n/);
  // A line with a type and its options is no header.
  const delimiter = /;[^;,]*:/.test(first) ? undefined : [',', ';'].find((one) => first.split(one).length > 2);
  if (delimiter) return Papa.parse<string[]>(plain, { delimiter, skipEmptyLines: 'greedy' }).data;
  return plain
    .split(/\r\n|\r|\n/)
    .map((line) => [line])
    .filter(([line = '']) => line.trim() !== '');
}

const cleaned = (name: string): string =>
  name
    .replace(/^\s*(?:[-*•–]|\d+[.)])\s+/, '')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, MAX_NAME);

type Guessed = Omit<MeantField, 'key' | 'columns'> & { readonly columns: readonly Guessed[] };

function fromLine(line: string): Guessed {
  const [, named, kind = '', listed = ''] = /^(.*?)\s*;\s*([^;:]+):\s*(.+)$/.exec(line) ?? [];
  const chosen = found(TYPE_WORDS, kind.trim().toLowerCase());
  if (named !== undefined && (chosen === 'choice' || chosen === 'multi-choice'))
    return { name: cleaned(named), type: chosen, options: optionsIn(listed), scale: 0, columns: [] };
  const [, before = line, word = ''] = /^(.*?)\s*[;:]\s*([^;:]*)$/.exec(line) ?? [];
  const type = found(TYPE_WORDS, word.trim().toLowerCase());
  const name = cleaned(type ? before : line.replace(/[;:]\s*$/, ''));
  return { name, type: type ?? found(NAME_HINTS, name) ?? 'text', options: [], scale: 0, columns: [] };
}

const optionsIn = (listed: string): readonly string[] =>
  [...new Set(listed.split(',').map((option) => option.trim()))].filter((option) => option !== '').slice(0, MAX_LISTED);

function fromColumn(header: string, rows: readonly (readonly string[])[], index: number): Guessed {
  const name = cleaned(header);
  const guessed = guessFromSamples(rows.slice(0, MAX_SAMPLES).map((row) => row[index] ?? ''));
  return { name, ...(guessed ?? { type: found(NAME_HINTS, name) ?? 'text', options: [], scale: 0 }), columns: [] };
}
