import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import vuetify from 'vite-plugin-vuetify'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  build: { chunkSizeWarningLimit: 1500 },
  // For work on the front end: `npm run dev` beside a running bin/start.
  server: { proxy: { '/api': 'http://127.0.0.1:8420' } },
})
