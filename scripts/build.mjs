import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import path from 'node:path';
import { promisify } from 'node:util';
import { brotliCompress, constants, gzip } from 'node:zlib';
import { run, step } from './steps.mjs';

function* filesUnder(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.name === 'node_modules' || entry.name === 'dist' || entry.name.endsWith('.test.ts')) continue;
    const at = path.join(folder, entry.name);
    if (entry.isDirectory()) yield* filesUnder(at);
    else if (statSync(at).isFile()) yield at;
  }
}

/** A digest of the sources a build is made from, so that an unchanged tree isn't built again. */
function digest(folders) {
  const hash = createHash('sha256');
  for (const folder of folders) for (const file of [...filesUnder(folder)].sort()) hash.update(file).update(readFileSync(file));
  return hash.update(readFileSync('package-lock.json')).digest('hex');
}

async function unlessBuilt(output, folders, build) {
  const stamp = path.join(output, '.sources');
  const wanted = digest(folders);
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  await build();
  mkdirSync(output, { recursive: true });
  writeFileSync(stamp, wanted);
}

/** The web application, by Vite, into `apps/web/dist`. */
export const buildWeb = () =>
  unlessBuilt('apps/web/dist', ['apps/web', 'packages/core', 'packages/contract'], async () => {
    step('Building the web application …');
    await run('npx', ['vite', 'build', 'apps/web', '--config', 'apps/web/vite.config.ts', '--logLevel', 'warn'], { quiet: true });
    await compressUnder('apps/web/dist/assets');
  });

/** Text is compressed once, as well as it can be, beside each file: `x.js.br` and `x.js.gz`. */
async function compressUnder(folder) {
  const best = { params: { [constants.BROTLI_PARAM_QUALITY]: constants.BROTLI_MAX_QUALITY } };
  const texts = readdirSync(folder).filter((file) => /\.(m?js|css|svg)$/.test(file));
  await Promise.all(
    texts.map(async (file) => {
      const at = path.join(folder, file);
      const content = readFileSync(at);
      await writeFile(`${at}.br`, await promisify(brotliCompress)(content, best));
      await writeFile(`${at}.gz`, await promisify(gzip)(content, { level: 9 }));
    }),
  );
}

/** The server as one file, by esbuild: it starts in half the time that loading the sources one by one takes. */
export const buildServer = () =>
  unlessBuilt('apps/server/dist', ['apps/server', 'packages/core', 'packages/contract'], async () => {
    step('Building the server …');
    const { build } = await import('esbuild');
    const { dependencies } = JSON.parse(readFileSync('apps/server/package.json', 'utf8'));
    await build({
      // The others run in threads of their own.
      entryPoints: [
        'apps/server/src/main.ts',
        'apps/server/src/workers/definition-worker.ts',
        'apps/server/src/workers/pdf-worker.ts',
        'apps/server/src/workers/sheet-worker.ts',
      ],
      outdir: 'apps/server/dist',
      entryNames: '[name]',
      bundle: true,
      platform: 'node',
      format: 'esm',
      target: 'node20',
      sourcemap: true,
      external: Object.keys(dependencies)
        .filter((name) => !name.startsWith('@ypomet/'))
        .flatMap((name) => [name, `${name}/*`]),
      logLevel: 'warning',
    });
  });
