import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['{core,contract,demo,server,standins,scripts,web,e2e}/**/*.test.{ts,tsx}'],
    globalSetup: './e2e/support/globalSetup.ts',
    testTimeout: 60_000,
    hookTimeout: 60_000,
  },
})
