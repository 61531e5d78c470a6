import { runProgram } from '../expressions/condition-program.ts';
import { type Frame, makeFrame } from '../expressions/frame.ts';
import type { Field } from '../model/field.ts';
import { approximate } from '../values/exact.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import { toOutsideJson, writeFormValue } from '../values/write-json.ts';
import type { CompiledLine, CompiledTemplate, TemplatePart } from './compile-template.ts';
import { formatValue, type Style } from './format-value.ts';
import type { Block, Inline } from './parse-template.ts';
import type { FieldEntry, RichBlock, RichText, Run } from './rich-text.ts';

/** What a template needs to be filled in for one reader, or for several who may read the same. */
export type Filling = {
  readonly frame: Frame;
  /** Where the present row goes in passages over rows. */
  readonly rowSlot: number;
  readonly style: Style;
  /** Returns whether the reader may not read everything that an expression is made from. */
  readonly isWithheld: (part: Pick<TemplatePart, 'expression' | 'table'>) => boolean;
  /** Every field shown to whoever gets the text. */
  readonly fields: () => readonly FieldEntry[];
};

/** Where a line goes; each place writes values in its own way. */
export type LineMedium =
  /** One line: a value can't begin another header (RFC 5322, section 2.2). */
  | 'header'
  /** Values percent-encoded (RFC 3986), as machines read them. */
  | 'address'
  /** Values without what file systems don't take, days by number. */
  | 'file-name';

/**
 * Fills in a template. What is made from a withheld value stays empty. A passage under a withheld condition is unknown: neither
 * the passage nor its `#else` is written, since each of them would say something about the value.
 */
export const fillTemplate = (template: CompiledTemplate, filling: Filling): RichText =>
  new Filler(template.parts, filling).blocks(template.blocks);

/** Fills in a template of one line. */
export function fillLine(line: CompiledLine, filling: Filling, medium: LineMedium): string {
  const write = WRITERS[medium];
  const runs = new Filler(line.parts, filling, (value, part) => write(value, part, filling.style)).runs(line.children, {});
  const text = runs.map((run) => run.text).join('');
  return medium === 'header' ? oneLine(text) : text.trim();
}

const oneLine = (text: string): string => text.replace(/\s+/g, ' ').trim();

type Write = (value: Value, part: TemplatePart, style: Style) => string;
const formatted: Write = (value, { field }, style) => formatValue(value, field, style);

/** A value as machines read it: codes, decimals, ISO 8601; lists with commas, rows and other records by their ids. */
function plainValue(value: Value): string {
  if (isList(value)) return value.map(plainValue).join(',');
  const isContext = value !== null && typeof value === 'object' && value.kind === 'context';
  return isContext ? (value.id ?? '') : writeFormValue(toOutsideJson(value));
}

const isPlainInNames = (value: Value): boolean =>
  value !== null && typeof value === 'object' && !isList(value) && ['number', 'date', 'time', 'date-time'].includes(value.kind);

const WRITERS: Readonly<Record<LineMedium, Write>> = {
  header: (value, part, style) => oneLine(formatted(value, part, style)),
  address: (value) => encodeURIComponent(plainValue(value)),
  'file-name': (value, part, style) =>
    (isPlainInNames(value) ? plainValue(value) : formatted(value, part, style))
      .normalize('NFC')
      .replace(/[^\p{L}\p{N}._-]+/gu, '-')
      .replace(/^[-.]+|[-.]+$/g, ''),
};

type Look = Pick<Run, 'isStrong' | 'isEmphasis' | 'link'>;

/** A passage that depends on a condition, as whole blocks or within a line. */
type Passage<T> = {
  readonly condition: { readonly start: number };
  readonly then: readonly T[];
  readonly otherwise: readonly T[];
};

class Filler {
  private readonly plurals: Intl.PluralRules;
  private frame: Frame;

  constructor(
    private readonly parts: ReadonlyMap<number, TemplatePart>,
    private readonly filling: Filling,
    private readonly write: (value: Value, part: TemplatePart) => string = (value, part) => formatted(value, part, filling.style),
  ) {
    this.frame = filling.frame;
    this.plurals = new Intl.PluralRules(filling.style.locale);
  }

  blocks(blocks: readonly Block[]): RichText {
    const filled: RichBlock[] = [];
    for (const block of blocks) for (const one of this.block(block)) put(filled, one);
    return filled;
  }

  private block(block: Block): RichText {
    switch (block.kind) {
      case 'paragraph': {
        const table = this.tableAlone(block.children);
        if (table) return table;
        const runs = this.runs(block.children, {});
        return runs.some(({ text }) => text.trim() !== '') ? [{ kind: 'paragraph', runs }] : [];
      }
      case 'heading':
        return [{ kind: 'heading', level: block.level, runs: this.runs(block.children, {}) }];
      case 'list':
        return [{ kind: 'list', isOrdered: block.isOrdered, items: block.items.map((item) => this.runs(item, {})) }];
      case 'when':
        return this.blocks(this.sideOf(block));
      case 'each':
        return this.rowsOf(block.rows.start).flatMap((row) => this.inRow(row, () => this.blocks(block.body)));
      case 'fields': {
        const entries = this.filling.fields();
        return entries.length > 0 ? [{ kind: 'fields', entries }] : [];
      }
      default:
        return block satisfies never;
    }
  }

  runs(children: readonly Inline[], look: Look): readonly Run[] {
    const runs: Run[] = [];
    for (const child of children)
      for (const run of this.run(child, look)) {
        const last = runs.at(-1);
        if (last && last.isStrong === run.isStrong && last.isEmphasis === run.isEmphasis && last.link === run.link)
          runs[runs.length - 1] = { ...last, text: last.text + run.text };
        else if (run.text !== '') runs.push(run);
      }
    return runs;
  }

  private run(inline: Inline, look: Look): readonly Run[] {
    switch (inline.kind) {
      case 'text':
        return [{ ...look, text: inline.text }];
      case 'value': {
        const part = this.parts.get(inline.expression.start);
        return part ? [{ ...look, text: this.write(this.valueOf(part), part) }] : [];
      }
      case 'plural':
        return [{ ...look, text: this.pluralOf(inline) }];
      case 'strong':
        return this.runs(inline.children, { ...look, isStrong: true });
      case 'emphasis':
        return this.runs(inline.children, { ...look, isEmphasis: true });
      case 'link': {
        const address = this.runs(inline.address, {})
          .map(({ text }) => text)
          .join('')
          .trim();
        return this.runs(inline.children, isLink(address) ? { ...look, link: address } : look);
      }
      case 'when':
        return this.runs(this.sideOf(inline), look);
      default:
        return inline satisfies never;
    }
  }

  /** A paragraph that is a table field and nothing else is a table. */
  private tableAlone(children: readonly Inline[]): RichText | null {
    const [only] = children;
    if (children.length !== 1 || only?.kind !== 'value') return null;
    const part = this.parts.get(only.expression.start);
    if (part?.field?.type !== 'table') return null;
    const value = this.valueOf(part);
    const rows = isList(value) ? (value as readonly ContextValue[]) : [];
    if (rows.length === 0) return [];
    const { fields } = part.field as Extract<Field, { type: 'table' }>;
    const shown = fields.filter((own) => rows.some((row) => (row.entries[own.key] ?? null) !== null));
    const cells = rows.map((row) => shown.map((own) => formatValue(row.entries[own.key] ?? null, own, this.filling.style)));
    return [{ kind: 'table', head: shown.map(({ name }) => name), rows: cells }];
  }

  private pluralOf({ expression, forms }: Extract<Inline, { kind: 'plural' }>): string {
    const part = this.parts.get(expression.start);
    if (part && this.filling.isWithheld(part)) return '';
    const value = part ? this.valueOf(part) : null;
    if (value === null || typeof value !== 'object' || isList(value) || value.kind !== 'number') return forms.at(-1) ?? '';
    const own = CATEGORIES.filter((one) => this.plurals.resolvedOptions().pluralCategories.includes(one));
    const at = own.indexOf(this.plurals.select(approximate(value)));
    return forms[Math.min(Math.max(at, 0), forms.length - 1)] ?? '';
  }

  private valueOf(part: TemplatePart): Value {
    return this.filling.isWithheld(part) ? null : part.expression.evaluate(this.frame);
  }

  /** Returns the side of a passage that is written. If the condition is withheld, neither is: the result is empty. */
  private sideOf<T>(passage: Passage<T>): readonly T[] {
    const part = this.parts.get(passage.condition.start);
    if (part && this.filling.isWithheld(part)) return [];
    return part && runProgram(part.expression.program, this.frame) ? passage.then : passage.otherwise;
  }

  private rowsOf(start: number): readonly ContextValue[] {
    const part = this.parts.get(start);
    const value = part ? this.valueOf(part) : null;
    return isList(value) ? (value as readonly ContextValue[]) : [];
  }

  private inRow<T>(row: ContextValue, fill: () => T): T {
    const { frame } = this;
    const slots = [...frame.slots];
    slots[this.filling.rowSlot] = row;
    this.frame = makeFrame(slots, frame.environment, frame.overruns);
    const filled = fill();
    this.frame = frame;
    return filled;
  }
}

/** In the order in which forms are written: those of them that the language has (CLDR's plural categories). */
const CATEGORIES = ['zero', 'one', 'two', 'few', 'many', 'other'] as const;

const isLink = (address: string): boolean => /^(https?:\/\/|mailto:)[^\s]+$/i.test(address);

/** Lists that follow each other are one: rows of a table write an item each. */
function put(blocks: RichBlock[], block: RichBlock): void {
  const last = blocks.at(-1);
  if (block.kind === 'list' && last?.kind === 'list' && last.isOrdered === block.isOrdered)
    blocks[blocks.length - 1] = { ...last, items: [...last.items, ...block.items] };
  else blocks.push(block);
}
