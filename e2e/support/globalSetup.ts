import { startApp } from './app.ts'

/** One demo for all journeys; each works on sensors of its own. */
export default async function globalSetup() {
  const app = await startApp()
  process.env.FRUSTUM_URL = app.url
  return () => app.stop()
}
