import { compilePattern } from '#pattern-engine';
import { MAX_TEXT_VALUE } from '../tree.ts';
import type { Pattern } from './pattern-engine.ts';

const MAX_PATTERN = 500;
const patterns = new Map<string, Pattern | null>();

/**
 * Compiles a pattern for the linear-time engine: no pattern can run away. XPath's `x` flag removes white space.
 * Null for a pattern that isn't one, is longer than 500 characters, or needs what no linear-time engine has.
 */
export function findPattern(pattern: string, flags = ''): Pattern | null {
  const key = `${flags}/${pattern}`;
  const known = patterns.get(key);
  if (known !== undefined) return known;
  const text = flags.includes('x') ? pattern.replace(/\s+/g, '') : pattern;
  const compiled = text.length > MAX_PATTERN ? null : compilePattern(text, flags);
  if (patterns.size > 500) patterns.clear();
  patterns.set(key, compiled);
  return compiled;
}

/** A replacement as XPath and XQuery Functions 3.1, 5.6.4 reads it: texts, and the numbers of groups. */
export type Replacement = readonly (string | number)[];

/**
 * Reads a replacement: `$1` is a group, `$0` all that matched, `\$` and `\\` the signs themselves. Digits belong to a group's
 * number as long as there is such a group; a group that isn't there gives nothing. Null where `$` or `\` stands alone.
 */
export function readReplacement(text: string, groups: number): Replacement | null {
  const parts: (string | number)[] = [];
  for (let at = 0; at < text.length; ) {
    const sign = text[at] as string;
    const next = text[at + 1] ?? '';
    if (sign === '\\') {
      if (next !== '\\' && next !== '$') return null;
      parts.push(next);
      at += 2;
    } else if (sign === '$') {
      if (!/[0-9]/.test(next)) return null;
      let end = at + 2;
      while (/[0-9]/.test(text[end] ?? '') && Number(text.slice(at + 1, end + 1)) <= groups) end += 1;
      parts.push(Number(text.slice(at + 1, end)));
      at = end;
    } else {
      parts.push(sign);
      at += 1;
    }
  }
  return parts;
}

/** The text with every match replaced; null where it would be longer than `MAX_TEXT_VALUE`, which is noticed before it is built. */
export function replaceMatches(pattern: Pattern, text: string, replacement: Replacement): string | null {
  const matcher = pattern.matcher(text);
  const groups = pattern.groupCount();
  let result = '';
  let end = 0;
  while (matcher.find()) {
    result += text.slice(end, matcher.start());
    for (const part of replacement) {
      if (typeof part === 'string') result += part;
      else if (part <= groups) result += matcher.group(part) ?? '';
      if (result.length > MAX_TEXT_VALUE) return null;
    }
    end = matcher.end();
  }
  return result + text.slice(end);
}
