import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, test } from '@jest/globals';

const root = path.resolve(import.meta.dirname, '..');
const docs = readdirSync(path.join(root, 'docs'), { recursive: true, encoding: 'utf8' })
  .filter((file) => file.endsWith('.md'))
  .map((file) => `docs/${file}`);
const documents = ['README.md', 'CONTRIBUTING.md', 'CHANGELOG.md', ...docs];
const read = (document: string): string => readFileSync(path.join(root, document), 'utf8');
/** What commands write, and a fresh checkout has not. */
const MADE = new Set(['bench/results.json']);
const SOURCES = [
  'packages/core/src',
  'packages/contract/src',
  'packages/conform/src',
  'apps/server/src',
  'apps/web/src',
  'apps/web/testing',
  'e2e',
];
const tests = SOURCES.filter((folder) => existsSync(path.join(root, folder))).flatMap((folder) =>
  readdirSync(path.join(root, folder), { recursive: true, encoding: 'utf8' })
    .filter((file) => /\.(test|spec)\.tsx?$/.test(file))
    .map((file) => `${folder}/${file}`),
);
const isThere = (place: string): boolean => MADE.has(place) || /[*<]/.test(place) || existsSync(path.join(root, place));

describe.each(documents)('%s', (document) => {
  const text = read(document);
  const all = (pattern: RegExp): readonly string[] => [...text.matchAll(pattern)].map(([, found = '']) => found);

  test('names folders, files and tests that there are', () => {
    const places = all(/`((?:packages|apps|docs|e2e|scripts|bench|conformance)\/[^`\s]*)`/g);
    expect(places.filter((place) => !isThere(place) && !tests.some((file) => file.endsWith(`/${place}`)))).toEqual([]);
    const named = all(/`([\w./-]+\.(?:test|spec)\.tsx?)`/g);
    expect(named.filter((name) => !tests.some((file) => `/${file}`.endsWith(`/${name}`)))).toEqual([]);
  });

  test('links to documents and pictures that there are', () => {
    // Examples of how links are written stand in code.
    const prose = text.replace(/`[^`]*`/g, '');
    const linked = [...prose.matchAll(/\]\(([^)#:\s]+)(?:#[^)]*)?\)/g)].map(([, target = '']) => target);
    expect(linked.filter((target) => !existsSync(path.join(root, path.dirname(document), target)))).toEqual([]);
  });

  test('names commands that there are', () => {
    const { scripts } = JSON.parse(read('package.json')) as { readonly scripts: Readonly<Record<string, string>> };
    expect(all(/npm run ([a-z]+)/g).filter((name) => !Object.hasOwn(scripts, name))).toEqual([]);
  });
});
