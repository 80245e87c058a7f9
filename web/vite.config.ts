import vue from '@vitejs/plugin-vue'
import vuetify from 'vite-plugin-vuetify'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  build: {
    chunkSizeWarningLimit: 1500,
    // The second page is what clients see: small, and nothing of the first.
    rollupOptions: { input: ['index.html', 'shown.html'] },
  },
  // Components import their styles, which node does not understand.
  test: { server: { deps: { inline: ['vuetify'] } } },
  // For work on the front end: bin/dev says where the server is; else it is supposed to be a running bin/start.
  server: { host: '127.0.0.1', proxy: { '/api': process.env.KITE_BACKEND ?? 'http://127.0.0.1:8420' } },
})
