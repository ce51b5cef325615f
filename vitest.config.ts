import { defineConfig } from 'vitest/config'

const soak = process.env.FRUSTUM_SOAK === '1'

export default defineConfig({
  test: {
    include: ['{core,contract,server,web,lab,demo,scripts,e2e}/**/*.test.{ts,tsx}'],
    globalSetup: './e2e/support/globalSetup.ts',
    provide: { soak },
    // Most files are quick, and most of their time was the loading of the same modules.
    pool: 'threads',
    isolate: false,
    maxWorkers: 2,
    // Only limits: a busy machine may be many times slower.
    testTimeout: soak ? 3_600_000 : 300_000,
    hookTimeout: 300_000,
    expect: { poll: { timeout: 30_000 } },
  },
})
