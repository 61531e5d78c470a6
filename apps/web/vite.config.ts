import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

const WORKER = 'virtual:draft-worker';
const SOURCE = '/src/workers/draft-worker.ts';

/**
 * The worker as an entry of the same build as the pages, under an address that pages import: it shares their chunks, so that
 * the core comes over the wire once. Vite's own way would build it apart, with a core of its own.
 */
function sharedWorker(): Plugin {
  let reference: string | null = null;
  return {
    name: 'shared-worker',
    buildStart() {
      if (!this.meta.watchMode) reference = this.emitFile({ type: 'chunk', id: `${import.meta.dirname}${SOURCE}` });
    },
    resolveId: (id) => (id === WORKER ? id : null),
    load(id) {
      if (id !== WORKER) return null;
      return `export default ${reference ? `import.meta.ROLLUP_FILE_URL_${reference}` : `'${SOURCE}?worker_file&type=module'`}`;
    },
  };
}

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), sharedWorker()],
  build: { outDir: 'dist', emptyOutDir: true, target: 'es2022', chunkSizeWarningLimit: 900, modulePreload: { polyfill: false } },
  server: { proxy: { '/api': process.env.YPOMET_API ?? 'http://127.0.0.1:4180' } },
});
