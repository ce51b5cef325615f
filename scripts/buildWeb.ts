import { spawnSync } from 'node:child_process'
import { existsSync, readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const ROOT = fileURLToPath(new URL('..', import.meta.url))
const WEB = join(ROOT, 'web')
const BUILT = join(WEB, 'dist', 'index.html')
const SOURCES = ['web/src', 'web/index.html', 'web/vite.config.ts', 'core/src', 'contract/src', 'package-lock.json']

function newest(path: string): number {
  const stat = statSync(path)
  if (!stat.isDirectory()) return stat.mtimeMs
  return Math.max(0, ...readdirSync(path).map((name) => newest(join(path, name))))
}

/** Builds the web application unless the built one is newer than all its sources. Returns its folder. */
export function buildWebIfStale(): string {
  const built = existsSync(BUILT) ? statSync(BUILT).mtimeMs : 0
  if (built < Math.max(...SOURCES.map((path) => newest(join(ROOT, path))))) {
    console.log('Building the web application, a few seconds ...')
    // A process of its own: the bundler's memory must not stay with the server.
    const built = spawnSync('npx', ['vite', 'build', '--logLevel', 'warn'], { cwd: WEB, stdio: 'inherit' })
    if (built.status !== 0) throw new Error('The web application could not be built; see above.')
  }
  return join(WEB, 'dist')
}
