import { defineConfig } from '@playwright/test'
import { CHROMIUM_FLAGS, chromiumPath } from '../scripts/chromium.ts'

export default defineConfig({
  testDir: './journeys',
  outputDir: '../test-results',
  // A whole calibration at ten times real time takes a minute; a busy machine may be several times slower.
  timeout: 10 * 60_000,
  // Two browsers and a database share what cores there are: a busy machine may be several times slower.
  expect: { timeout: 60_000 },
  // One more than cores: the journey in real time only waits.
  workers: 3,
  fullyParallel: true,
  // What mostly waits begins first.
  projects: [
    { name: 'in real time', testMatch: 'demoInRealTime.spec.ts' },
    { name: 'whole calibrations', testMatch: ['calibrate.spec.ts', 'kinds.spec.ts'] },
    { name: 'journeys', testIgnore: ['demoInRealTime.spec.ts', 'calibrate.spec.ts', 'kinds.spec.ts'] },
  ],
  reporter: [['list']],
  globalSetup: './support/globalSetup.ts',
  use: {
    actionTimeout: 60_000,
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: 'reduce' },
    trace: process.env.FRUSTUM_TRACE ? 'retain-on-failure' : 'off',
    launchOptions: { executablePath: chromiumPath() ?? 'chromium', args: [...CHROMIUM_FLAGS] },
  },
})
