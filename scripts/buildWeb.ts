import { spawn } from 'node:child_process'
import { existsSync, readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { writeLicenses } from './licenses.ts'

const ROOT = fileURLToPath(new URL('..', import.meta.url))
/** What the pages of each workspace are made of, besides its own folder. */
const SHARED = ['core/src', 'contract/src', 'package-lock.json']

function newest(path: string): number {
  const stat = statSync(path)
  if (!stat.isDirectory()) return stat.mtimeMs
  return Math.max(0, ...readdirSync(path).map((name) => newest(join(path, name))))
}

/** When what all pages share was changed last. */
let sharedSince: number | null = null

/** Where the product's built pages are. */
export const WEB_FOLDER = join(ROOT, 'web', 'dist')

/** Builds a workspace's pages unless the built ones are newer than all their sources. */
async function buildIfStale(workspace: string, sources: readonly string[], product: string): Promise<void> {
  const built = join(ROOT, workspace, 'dist', product)
  const builtAt = existsSync(built) ? statSync(built).mtimeMs : 0
  const newestOf = (paths: readonly string[]) => Math.max(...paths.map((path) => newest(join(ROOT, path))))
  sharedSince ??= newestOf(SHARED)
  if (builtAt < Math.max(sharedSince, newestOf(sources))) {
    // A process of its own: the bundler's memory must not stay with the server.
    const bundler = spawn('npx', ['vite', 'build', '--logLevel', 'warn'], {
      cwd: join(ROOT, workspace),
      stdio: ['ignore', 'inherit', 'inherit'],
    })
    const status = await new Promise((resolve) => bundler.once('exit', resolve))
    if (status !== 0) throw new Error(`The pages of ${workspace} could not be built; see above.`)
  }
}

/** The product's pages, and the licenses of what is in them and in the server. */
export async function buildWeb(): Promise<void> {
  await buildIfStale('web', ['web/src', 'web/index.html', 'web/vite.config.ts'], 'index.html')
  const licenses = join(WEB_FOLDER, 'licenses.txt')
  if (!existsSync(licenses)) await writeLicenses(licenses)
}

/** The demo's part of the pages. */
export const buildDemoPages = () => buildIfStale('demo', ['demo/web', 'demo/src', 'demo/vite.config.ts'], 'strip.js')
