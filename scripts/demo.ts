import { randomBytes } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { INGEST_PATH } from '@frustum/contract'
import type { ServerExtension } from '@frustum/server'
import { buildDemoPages, buildWeb, WEB_FOLDER } from './buildWeb.ts'
import { Progress } from './progress.ts'
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

const progress = new Progress()
progress.say('Starting')
// The pages are built and the stand-ins start while this process loads the server and makes the data.
const pages = Promise.all([buildWeb(), buildDemoPages()])
const starting = startStandInProcess()
/** The first request finds the pages built. */
const pagesBuilt: ServerExtension = {
  name: 'pages',
  start: async () => {
    progress.say('Building the pages')
    await pages
  },
}
const loggerToken = randomBytes(24).toString('base64url')
const folder = demoFolder()
const ahead = !existsSync(folder) || readdirSync(folder).every((name) => name === MARK)
await runServer({
  env: { ...process.env, FRUSTUM_DATA: folder },
  webFolder: WEB_FOLDER,
  extensions: async () => {
    const { demoExtension } = await import('@frustum/demo')
    const parts = { standIns: starting, loggerToken, ahead, onProgress: (what: string) => progress.say(what) }
    return [demoExtension(parts), pagesBuilt]
  },
  onStop: () => void starting.then((s) => s.stop()),
  greeting: async ({ url }) => {
    const { port, post, logTo } = await starting
    logTo(`${url}${INGEST_PATH}${loggerToken}`)
    progress.end()
    return `Frustum shows Pellwick Shore Station at ${url}  (Ctrl-C ends it; stand-ins on port ${port}, what it tells at http://127.0.0.1:${post?.hooks})`
  },
})
