import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'
import vuetify from 'vite-plugin-vuetify'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: { outDir: '../dastan/server/site', emptyOutDir: true, chunkSizeWarningLimit: 700 },
  test: { include: ['src/**/*.test.ts'] },
  server: { proxy: { '/api': 'http://127.0.0.1:8600' } },
})
