import { spawn, spawnSync } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, symlinkSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { SiteView } from '@frustum/contract'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { freePort } from '../e2e/support/freePort.ts'
import { heavy } from '../lab/src/fixtures/heavy.ts'

const ROOT = fileURLToPath(new URL('..', import.meta.url))
const folder = mkdtempSync(join(tmpdir(), 'frustum-without-demo-'))

/** What is not copied: the demo and the lab, and what is made or installed. */
const LEFT_OUT = ['demo', 'lab', 'node_modules', '.git', 'dist', 'data', 'data-demo', 'test-results']

beforeAll(() => {
  for (const name of readdirSync(ROOT).filter((n) => !LEFT_OUT.includes(n))) {
    cpSync(join(ROOT, name), join(folder, name), {
      recursive: true,
      filter: (path) => !LEFT_OUT.includes(basename(path)),
    })
  }
  // Packages are shared; the workspaces among them are the copy's own.
  const packages = join(folder, 'node_modules')
  mkdirSync(join(packages, '@frustum'), { recursive: true })
  for (const name of readdirSync(join(ROOT, 'node_modules')).filter((n) => n !== '@frustum' && n !== '.vite')) {
    symlinkSync(join(ROOT, 'node_modules', name), join(packages, name))
  }
  for (const name of ['core', 'contract', 'server', 'web', 'e2e']) {
    symlinkSync(join(folder, name), join(packages, '@frustum', name))
    const own = join(ROOT, name, 'node_modules')
    if (existsSync(own)) symlinkSync(own, join(folder, name, 'node_modules'))
  }
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const run = (script: string) =>
  spawnSync(process.execPath, ['--import', 'tsx', script], { cwd: folder, encoding: 'utf8' })

it('without the demo and the lab the product is built, and starts on an empty folder', async () => {
  const built = run('scripts/build.ts')
  expect(built.status, built.stderr).toBe(0)
  expect(existsSync(join(folder, 'web', 'dist', 'index.html'))).toBe(true)

  const port = await freePort()
  const server = spawn(process.execPath, ['--import', 'tsx', 'scripts/start.ts'], {
    cwd: folder,
    env: { ...process.env, PORT: String(port), FRUSTUM_DATA: join(folder, 'data') },
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  const ended = new Promise((resolve) => server.once('exit', resolve))
  await new Promise((resolve) => server.stdout.once('data', resolve))
  const site = (await (await fetch(`http://127.0.0.1:${port}/api/site`)).json()) as SiteView
  expect(site.extensions).toEqual([])
  const page = await (await fetch(`http://127.0.0.1:${port}/`)).text()
  expect(page).toContain('<div id="root">')
  const licenses = await (await fetch(`http://127.0.0.1:${port}/licenses`)).text()
  for (const name of ['react', '@electric-sql/pglite', 'daisyui', '@fontsource/atkinson-hyperlegible-next'])
    expect(licenses).toMatch(new RegExp(`^${name} \\d`, 'm'))
  server.kill('SIGTERM')
  expect(await ended).toBe(0)
}, 120_000)

// The types of the copy take as long as those of the whole: in full numbers only; the lint forbids the imports always.
it.runIf(heavy(false, true))('its types hold without them too', { timeout: 300_000 }, () => {
  const checked = run('scripts/types.ts')
  expect(checked.status, checked.stdout).toBe(0)
})
