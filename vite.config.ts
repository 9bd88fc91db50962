import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

const at = (path: string): string => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  root: at('src/app'),
  plugins: [react(), tailwindcss()],
  build: {
    outDir: at('dist'),
    emptyOutDir: true,
    assetsInlineLimit: 0,
    target: 'es2023',
    chunkSizeWarningLimit: 900,
    rollupOptions: { input: { index: at('src/app/index.html'), headless: at('src/app/headless.html') } },
  },
  worker: { format: 'es' },
});
