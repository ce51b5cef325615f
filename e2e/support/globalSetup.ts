import { SEEDED } from './seeded.ts'

/** The whole station is seeded once for all tests of a run; the server is loaded only where that was not done yet. */
export default async function globalSetup() {
  if (process.env[SEEDED]) return undefined
  const { seedOnce } = await import('./station.ts')
  return seedOnce()
}
