import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, statSync, unlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants } from 'node:zlib';
import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig, type Plugin } from 'vite';

// Compresses what browsers load once, at the build and not at every request. Names hold a hash of the contents, so what was
// compressed before is kept: the core alone takes a third of a minute. A quality less takes half the time, and the core then
// comes to more than is promised with its first press.
function compress(): Plugin {
  return {
    name: 'compress',
    apply: 'build',
    closeBundle() {
      const folder = 'built/app/assets';
      const kept = 'node_modules/.compressed';
      mkdirSync(kept, { recursive: true });
      for (const name of readdirSync(folder)) {
        const file = join(folder, name);
        if (!/\.(js|css|wasm|svg|icc)$/.test(name) || statSync(file).size < 1024) continue;
        const params = { [constants.BROTLI_PARAM_QUALITY]: 11, [constants.BROTLI_PARAM_LGWIN]: 22 };
        const packed = join(kept, `${name}.br`);
        if (!existsSync(packed)) writeFileSync(packed, brotliCompressSync(readFileSync(file), { params }));
        copyFileSync(packed, `${file}.br`);
        if (statSync(file).size > 64 << 10) unlinkSync(file); // the server unpacks it for whoever asks for it plain
      }
    },
  };
}

export default defineConfig({
  plugins: [tailwindcss(), svelte(), compress()],
  worker: { format: 'es' },
  build: {
    outDir: 'built/app',
    chunkSizeWarningLimit: 2000, // kB; the page of the contract is one package
    emptyOutDir: true,
    rollupOptions: {
      input: { app: 'index.html', slip: 'slip.html', reference: 'reference.html', 'slip-worker': 'src/slip/worker.ts' },
      // A service worker has one address for good.
      output: { entryFileNames: (c) => (c.name === 'slip-worker' ? 'slip-worker.js' : 'assets/[name]-[hash].js') },
    },
  },
  server: {
    proxy: {
      '/api': 'http://127.0.0.1:7180',
      '/notices.txt': 'http://127.0.0.1:7180',
      '/typefaces': 'http://127.0.0.1:7180',
      '/b/': 'http://127.0.0.1:7180',
      '/slip/': 'http://127.0.0.1:7180',
    },
  },
});
