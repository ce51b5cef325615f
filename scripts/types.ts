import { spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const ROOT = fileURLToPath(new URL('..', import.meta.url))

/**
 * The journeys' program holds all the others; without the demo and its stand-ins there is none, and server and pages are
 * checked alone. That core and contract know neither Node.js nor a browser is a rule of the lint.
 */
const whole = ['demo', 'standins'].every((folder) => existsSync(join(ROOT, folder)))
for (const folder of whole ? ['e2e'] : ['contract', 'server', 'web']) {
  const { status } = spawnSync('npx', ['tsc', '--noEmit', '-p', folder], { cwd: ROOT, stdio: 'inherit' })
  if (status !== 0) process.exit(status ?? 1)
}
