import { buildWeb, WEB_FOLDER } from './buildWeb.ts'
import { runServer } from './runServer.ts'

await buildWeb()
await runServer({
  env: process.env,
  webFolder: WEB_FOLDER,
  greeting: (url) => `Frustum runs at ${url}  (Ctrl-C ends it)`,
})
