import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

/** The demo's part in the browser: one module with all it needs, loaded by the product's pages when the server names it. */
export default defineConfig({
  plugins: [react()],
  define: { 'process.env.NODE_ENV': '"production"' },
  build: {
    target: 'es2022',
    lib: { entry: 'web/standInPart.tsx', formats: ['es'], fileName: () => 'strip.js' },
  },
})
