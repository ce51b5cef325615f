import { defineConfig } from '@playwright/test'
import { CHROMIUM_FLAGS, chromiumPath } from '../scripts/chromium.ts'

export default defineConfig({
  testDir: './journeys',
  outputDir: '../test-results',
  // A whole calibration at twenty times real time takes half a minute; a busy machine may be several times slower.
  timeout: 5 * 60_000,
  // Two browsers and a database share what cores there are: a busy machine may be several times slower.
  expect: { timeout: 30_000 },
  workers: 2,
  fullyParallel: true,
  reporter: [['list']],
  globalSetup: './support/globalSetup.ts',
  use: {
    actionTimeout: 30_000,
    viewport: { width: 1280, height: 800 },
    trace: process.env.FRUSTUM_TRACE ? 'retain-on-failure' : 'off',
    launchOptions: { executablePath: chromiumPath() ?? 'chromium', args: [...CHROMIUM_FLAGS] },
  },
})
