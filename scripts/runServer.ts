import type { ServerExtension } from '@frustum/server'
import { beginDatabase, readConfig, StartProblem } from '@frustum/server/begin'

interface Run {
  env: NodeJS.ProcessEnv
  webFolder: string | null
  greeting: (url: string) => string | Promise<string>
  extensions?: () => Promise<readonly ServerExtension[]>
  onStop?: () => void
}

/** Starts the server in this process, and ends everything on Ctrl-C or a termination signal. */
export async function runServer({ env, webFolder, greeting, extensions, onStop }: Run): Promise<void> {
  try {
    const config = readConfig(env, webFolder)
    const database = beginDatabase(config.dataFolder)
    const { startServer } = await import('@frustum/server')
    const server = await startServer(config, { database, extensions: await extensions?.() })
    console.log(await greeting(server.url))
    let stopping = false
    const stop = () => {
      if (stopping) return
      stopping = true
      onStop?.()
      void server.stop().finally(() => process.exit(0))
    }
    process.on('SIGINT', stop)
    process.on('SIGTERM', stop)
    void server.failed.then((why) => {
      onStop?.()
      console.error(why)
      process.exit(1)
    })
  } catch (error) {
    onStop?.()
    if (!(error instanceof StartProblem)) throw error
    console.error(error.message)
    process.exit(1)
  }
}
