import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['{core,contract,demo,server,standins,scripts,web,e2e}/**/*.test.{ts,tsx}'],
    globalSetup: './e2e/support/globalSetup.ts',
    provide: { soak: process.env.FRUSTUM_SOAK === '1' },
    // Most files are quick, and most of their time was the loading of the same modules.
    pool: 'threads',
    isolate: false,
    maxWorkers: 2,
    testTimeout: 60_000,
    hookTimeout: 60_000,
  },
})
