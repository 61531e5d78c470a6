import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, test } from '@jest/globals';

const root = path.resolve(import.meta.dirname, '..');
const documents = ['README.md', 'CONTRIBUTING.md', 'docs/architecture.md'];
/** What commands write, and a fresh checkout has not. */
const MADE = new Set(['bench/results.json']);
const read = (document: string): string => readFileSync(path.join(root, document), 'utf8');

describe.each(documents)('%s', (document) => {
  test('names folders and files that there are', () => {
    const named = [...read(document).matchAll(/`((?:packages|apps|docs|e2e|scripts|bench|conformance)\/[^`\s]*)`/g)].map(
      ([, place = '']) => place,
    );
    const missing = named.filter((place) => !/[*<]/.test(place) && !MADE.has(place) && !existsSync(path.join(root, place)));
    expect(missing).toEqual([]);
  });

  test('links to documents and pictures that there are', () => {
    const linked = [...read(document).matchAll(/\]\(([^)#:]+)(?:#[^)]*)?\)/g)].map(([, target = '']) => target);
    expect(linked.length).toBeGreaterThan(0);
    expect(linked.filter((target) => !existsSync(path.join(root, path.dirname(document), target)))).toEqual([]);
  });

  test('names commands that there are', () => {
    const { scripts } = JSON.parse(read('package.json')) as { readonly scripts: Readonly<Record<string, string>> };
    const named = [...read(document).matchAll(/npm run ([a-z]+)/g)].map(([, name = '']) => name);
    expect(named.filter((name) => !Object.hasOwn(scripts, name))).toEqual([]);
  });
});
