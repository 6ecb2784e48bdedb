import node from '@astrojs/node';
import react from '@astrojs/react';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig, passthroughImageService } from 'astro/config';
import { pagesToBundledPackages } from './scripts/setup/bundled-packages.mjs';

/**
 * In browsers numbers are read by the plans of mobile phones, which are what is texted, at 15 kB less; the server, whose word counts, has all of them.
 */
const mobilePlansInBrowsers = {
  name: 'mobile-plans-in-browsers',
  enforce: 'pre',
  resolveId(id, from, { ssr } = {}) {
    return id === 'libphonenumber-js/max' && !ssr
      ? this.resolve('libphonenumber-js/mobile', from, { skipSelf: true })
      : null;
  },
};

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'middleware' }),
  integrations: [react()],
  // Astro's own check answers 403 to webhooks and to same-origin forms behind a port; src/middleware.ts has ours.
  security: { checkOrigin: false },
  devToolbar: { enabled: false },
  // The help's pictures are shown as they are.
  image: { service: passthroughImageService() },
  build: { inlineStylesheets: 'never' },
  vite: {
    plugins: [tailwindcss(), mobilePlansInBrowsers, pagesToBundledPackages],
    build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
    // Whose work it is stands in the packages, which are shipped whole; not again in each of fifty small files.
    esbuild: { legalComments: 'none' },
    server: { watch: { ignored: ['**/data/**'] } },
  },
});
