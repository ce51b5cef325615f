import { existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { demoExtension } from '@frustum/demo'
import { buildDemoPages, buildWeb } from './buildWeb.ts'
import { runServer } from './runServer.ts'
import { startStandInProcess } from './standInProcess.ts'

const MARK = 'pellwick-demo'

/** The demo's data are relative to today: each day has its own folder, and older ones of the demo's own are cleared. */
function demoFolder(): string {
  if (process.env.FRUSTUM_DATA) return resolve(process.env.FRUSTUM_DATA)
  const root = resolve('data-demo')
  const today = join(root, new Date().toISOString().slice(0, 10))
  if (existsSync(root)) {
    for (const name of readdirSync(root)) {
      const folder = join(root, name)
      if (folder !== today && existsSync(join(folder, MARK))) rmSync(folder, { recursive: true, force: true })
    }
  }
  mkdirSync(today, { recursive: true })
  writeFileSync(join(today, MARK), 'Made by npm run demo; cleared when the demo runs on another day.\n')
  return today
}

const [webFolder, standIns] = await Promise.all([buildWeb(), startStandInProcess(), buildDemoPages()])
await runServer({
  env: { ...process.env, FRUSTUM_DATA: demoFolder() },
  webFolder,
  extensions: [demoExtension({ standInPort: standIns.port })],
  onStop: standIns.stop,
  greeting: (url) =>
    `Frustum shows Pellwick Shore Station at ${url}  (Ctrl-C ends it; stand-ins on port ${standIns.port})`,
})
