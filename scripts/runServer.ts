import type { RunningServer, ServerExtension } from '@frustum/server'
import { beginDatabase, checkLead, checkPort, readConfig, StartProblem } from '@frustum/server/begin'

interface Run {
  env: NodeJS.ProcessEnv
  webFolder: string | null
  greeting: (server: RunningServer) => string | Promise<string>
  /** How it is served to the local network; null where it is not. */
  lan?: () => Parameters<typeof readConfig>[2] | null
  extensions?: () => Promise<readonly ServerExtension[]>
  onStop?: () => void
}

/** Starts the server in this process, and ends everything on Ctrl-C or a termination signal. */
export async function runServer({ env, webFolder, greeting, extensions, onStop, lan }: Run): Promise<void> {
  try {
    const config = readConfig(env, webFolder, lan?.() ?? null)
    await checkPort(config)
    // An extension may bring its own people.
    if (!extensions) await checkLead(config)
    // The database opens while the program that uses it is loaded.
    const first = beginDatabase(config.dataFolder)
    const { startServer } = await import('@frustum/server')
    const start = async (port = config.port, database = beginDatabase(config.dataFolder)) =>
      startServer({ ...config, port }, { database, extensions: await extensions?.() })
    let server = await start(config.port, first)
    console.log(await greeting(server))
    let stopping = false
    const stop = () => {
      if (stopping) return
      stopping = true
      onStop?.()
      void server.stop().finally(() => process.exit(0))
    }
    process.on('SIGINT', stop)
    process.on('SIGTERM', stop)
    for (;;) {
      const why = await Promise.race([server.failed, server.restart.then(() => null)])
      if (why !== null) throw new StartProblem(why)
      // Under the same address, with what was restored.
      await server.stop()
      server = await start(Number(new URL(server.url).port))
      console.log(await greeting(server))
    }
  } catch (error) {
    onStop?.()
    if (!(error instanceof StartProblem)) throw error
    console.error(error.message)
    process.exit(1)
  }
}
