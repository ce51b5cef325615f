import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['{core,contract,demo,server,standins,scripts,web}/**/*.test.{ts,tsx}'],
    testTimeout: 60_000,
    hookTimeout: 60_000,
  },
})
