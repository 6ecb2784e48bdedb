// The practice desk's own page: apart from Pine Bell's pages, served by the practice process.

import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  root: 'src/practice/page',
  plugins: [react(), tailwindcss()],
  build: { outDir: '../../../build/practice-page', emptyOutDir: true, assetsInlineLimit: 0 },
});
