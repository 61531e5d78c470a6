import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { expect, test } from '@jest/globals';

const source = path.resolve(import.meta.dirname, '..');
const styles = path.resolve(import.meta.dirname, '../../../../node_modules/@mantine/core/styles');

test('every component that is used has its styles', () => {
  const imported = readFileSync(path.join(import.meta.dirname, 'components.css'), 'utf8');
  const sources = readdirSync(source, { recursive: true, encoding: 'utf8' }).filter((file) => file.endsWith('.tsx'));
  const used = new Set(
    sources.flatMap((file) => {
      const text = readFileSync(path.join(source, file), 'utf8');
      const names = /import \{([^}]*)\} from '@mantine\/core'/.exec(text)?.[1] ?? '';
      return names.split(',').map((name) => name.trim());
    }),
  );
  const missing = [...used].filter(
    (name) => existsSync(path.join(styles, `${name}.css`)) && !imported.includes(`styles/${name}.css`),
  );
  expect(used.size).toBeGreaterThan(10);
  expect(missing).toEqual([]);
});
