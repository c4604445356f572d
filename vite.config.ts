import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

const OFFLINE = 'sw.js';

/** Tells the offline worker which files the build has made. */
const builtFiles: Plugin = {
  name: 'built-files',
  generateBundle(_, bundle) {
    const worker = bundle[OFFLINE];
    if (worker?.type !== 'chunk') return;
    const files = Object.keys(bundle).filter((f) => f.startsWith('assets/'));
    worker.code = worker.code.replace('__BUILT_FILES__', JSON.stringify(files.map((f) => `/${f}`)));
  },
};

export default defineConfig({
  plugins: [react(), tailwindcss(), builtFiles],
  build: {
    target: 'es2022',
    sourcemap: false,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    rolldownOptions: {
      input: { index: 'index.html', offline: 'src/web/offline.sw.ts' },
      output: { entryFileNames: (chunk) => (chunk.name === 'offline' ? OFFLINE : 'assets/[name]-[hash].js') },
    },
  },
  worker: { format: 'es' },
  server: { proxy: { '/api': 'http://127.0.0.1:4173' } },
});
