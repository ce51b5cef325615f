import { buildWebIfStale } from './buildWeb.ts'
import { runServer } from './runServer.ts'

await runServer({
  env: process.env,
  webFolder: buildWebIfStale(),
  onStop: () => undefined,
  greeting: (url) => `Frustum runs at ${url}  (Ctrl-C ends it)`,
})
