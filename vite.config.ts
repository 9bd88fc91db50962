import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';
import { VitePWA } from 'vite-plugin-pwa';

const at = (path: string): string => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  root: at('src/app'),
  plugins: [
    react(),
    tailwindcss(),
    // The app without its server: src/app/stores/version.ts registers what is made here.
    VitePWA({
      injectRegister: null,
      registerType: 'prompt',
      manifest: {
        name: 'Akmeon',
        short_name: 'Akmeon',
        description: 'Finds hit moments in footage and sound and puts timed accent effects on them.',
        start_url: '/',
        display: 'standalone',
        theme_color: '#101b22',
        background_color: '#0b1418',
        icons: [{ src: '/icon.svg', sizes: 'any', type: 'image/svg+xml', purpose: 'any' }],
      },
      workbox: {
        // A script of its own would be a string that becomes code, which the server's policy refuses.
        inlineWorkboxRuntime: true,
        globPatterns: ['**/*.{js,css,html,svg,woff2,wasm,tflite,binarypb,data}'],
        globIgnores: ['headless.html', '**/headless-*'],
        maximumFileSizeToCacheInBytes: 16 << 20,
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/(demo|job|copies)\//, /\.[^/]+$/],
      },
    }),
  ],
  publicDir: at('src/app/public'),
  build: {
    outDir: at('dist'),
    emptyOutDir: true,
    assetsInlineLimit: 0,
    target: 'es2023',
    chunkSizeWarningLimit: 900,
    rollupOptions: {
      input: Object.fromEntries(['index', 'headless', 'people'].map((name) => [name, at(`src/app/${name}.html`)])),
    },
  },
  worker: { format: 'es' },
});
