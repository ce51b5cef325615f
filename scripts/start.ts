import { buildWeb } from './buildWeb.ts'
import { runServer } from './runServer.ts'

await runServer({
  env: process.env,
  webFolder: await buildWeb(),
  greeting: (url) => `Frustum runs at ${url}  (Ctrl-C ends it)`,
})
