/** A stretch of text with one look. Line breaks are kept. */
export type Run = {
  readonly text: string;
  readonly isStrong?: true;
  readonly isEmphasis?: true;
  /** An address of http, https or mailto. */
  readonly link?: string;
};

/** A filled-in passage. */
export type RichBlock =
  | { readonly kind: 'paragraph'; readonly runs: readonly Run[] }
  | { readonly kind: 'heading'; readonly level: 1 | 2 | 3; readonly runs: readonly Run[] }
  | { readonly kind: 'list'; readonly isOrdered: boolean; readonly items: readonly (readonly Run[])[] }
  | { readonly kind: 'table'; readonly head: readonly string[]; readonly rows: readonly (readonly string[])[] }
  /** Names of fields with what they hold. */
  | { readonly kind: 'fields'; readonly entries: readonly FieldEntry[] };

export type FieldEntry = { readonly name: string; readonly text: string };

/** A filled-in template: plain data, from which mails, pages and PDFs are made. */
export type RichText = readonly RichBlock[];

const textOf = (runs: readonly Run[]): string => runs.map(({ text }) => text).join('');

/** The same as plain text: a blank line between passages, what is linked with its address behind it. */
export function writePlain(text: RichText): string {
  const ofRuns = (runs: readonly Run[]): string =>
    runs.map((run) => (run.link && !run.link.endsWith(run.text) ? `${run.text} (${run.link})` : run.text)).join('');
  const ofBlock = (block: RichBlock): string => {
    switch (block.kind) {
      case 'paragraph':
      case 'heading':
        return ofRuns(block.runs);
      case 'list':
        return block.items.map((item, index) => `${block.isOrdered ? `${index + 1}.` : '-'} ${ofRuns(item)}`).join('\n');
      case 'table':
        return block.rows.map((row) => row.filter((cell) => cell !== '').join(' · ')).join('\n');
      case 'fields':
        return block.entries.map(({ name, text: own }) => `${name}: ${own.includes('\n') ? `\n${own}` : own}`).join('\n');
      default:
        return block satisfies never;
    }
  };
  return text.map(ofBlock).join('\n\n');
}

const ESCAPES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };
const escapeHtml = (text: string): string => text.replace(/[&<>"']/g, (character) => ESCAPES[character] as string);

const CELL = 'padding:4px 10px 4px 0;vertical-align:top;text-align:left;border-bottom:1px solid #d9d5cb';

/**
 * The same as HTML, for mails: only the tags written here, every value escaped (the five characters of HTML 5.3, section
 * 13.1.2.3 and what stands in attributes).
 */
export function writeHtml(text: RichText): string {
  const ofRun = ({ text: own, isStrong, isEmphasis, link }: Run): string => {
    let html = escapeHtml(own).replace(/\n/g, '<br>');
    if (isEmphasis) html = `<em>${html}</em>`;
    if (isStrong) html = `<strong>${html}</strong>`;
    return link ? `<a href="${escapeHtml(link)}">${html}</a>` : html;
  };
  const ofRuns = (runs: readonly Run[]): string => runs.map(ofRun).join('');
  const cell = (tag: 'td' | 'th', own: string): string =>
    `<${tag}${tag === 'th' ? ' scope="col"' : ''} style="${CELL}">${escapeHtml(own).replace(/\n/g, '<br>')}</${tag}>`;
  const ofBlock = (block: RichBlock): string => {
    switch (block.kind) {
      case 'paragraph':
        return `<p>${ofRuns(block.runs)}</p>`;
      case 'heading':
        return `<h${block.level}>${ofRuns(block.runs)}</h${block.level}>`;
      case 'list': {
        const tag = block.isOrdered ? 'ol' : 'ul';
        return `<${tag}>${block.items.map((item) => `<li>${ofRuns(item)}</li>`).join('')}</${tag}>`;
      }
      case 'table': {
        const head = `<thead><tr>${block.head.map((own) => cell('th', own)).join('')}</tr></thead>`;
        const rows = block.rows.map((row) => `<tr>${row.map((own) => cell('td', own)).join('')}</tr>`).join('');
        return `<table style="border-collapse:collapse">${head}<tbody>${rows}</tbody></table>`;
      }
      case 'fields': {
        const rows = block.entries
          .map((entry) => `<tr><th scope="row" style="${CELL}">${escapeHtml(entry.name)}</th>${cell('td', entry.text)}</tr>`)
          .join('');
        return `<table style="border-collapse:collapse"><tbody>${rows}</tbody></table>`;
      }
      default:
        return block satisfies never;
    }
  };
  return text.map(ofBlock).join('\n');
}

/** Whether there is nothing to read in it. */
export const isBlank = (text: RichText): boolean =>
  text.every((block) =>
    block.kind === 'paragraph' || block.kind === 'heading'
      ? textOf(block.runs).trim() === ''
      : block.kind === 'list'
        ? block.items.length === 0
        : block.kind === 'table'
          ? block.rows.length === 0
          : block.entries.length === 0,
  );

/** Plain text as it is: a paragraph for each of its parts between blank lines. */
export const readRich = (text: string): RichText =>
  text
    .split(/\n{2,}/)
    .filter((part) => part.trim() !== '')
    .map((part) => ({ kind: 'paragraph', runs: [{ text: part }] }));
