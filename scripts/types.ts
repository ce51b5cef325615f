import { spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const ROOT = fileURLToPath(new URL('..', import.meta.url))

/**
 * What is checked as one program. Core and contract always by themselves, for they know neither Node.js nor a browser.
 * All the rest is one program, that of the journeys; without the demo and its stand-ins there are none, and server and
 * pages are checked alone.
 */
const whole = ['demo', 'standins'].every((folder) => existsSync(join(ROOT, folder)))
for (const folder of ['contract', ...(whole ? ['e2e'] : ['server', 'web'])]) {
  const { status } = spawnSync('npx', ['tsc', '--noEmit', '-p', folder], { cwd: ROOT, stdio: 'inherit' })
  if (status !== 0) process.exit(status ?? 1)
}
