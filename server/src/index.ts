import { createServer, type Server } from 'node:http'
import { type Clock, systemClock } from '@frustum/contract'
import getPort from 'get-port'
import pino from 'pino'
import { buildApp } from './app.ts'
import { type Config, readConfig } from './config.ts'
import type { ServerContext } from './context.ts'
import { type BegunDatabase, beginDatabase } from './database/begin.ts'
import { openDatabase } from './database/open.ts'
import { prepareTemplate } from './database/template.ts'
import { hasEnded } from './database/whole.ts'
import type { ServerExtension } from './extension.ts'
import { forgetOldActions } from './http/doneOnce.ts'
import { LiveValues } from './links/liveValues.ts'
import { openLink } from './links/openLink.ts'
import { StartProblem } from './problem.ts'
import { recordReadings } from './readings/recorder.ts'
import { completeRecords } from './records/complete.ts'
import { takeBackUnfinished } from './records/takenIn.ts'
import { overview } from './rounds/overview.ts'
import { installedSensors } from './sensors.ts'
import { followOwnStandards } from './shelf/ownStandards.ts'
import { VisitDesk } from './visits/desk.ts'

export { type Config, prepareTemplate, readConfig, type ServerExtension, StartProblem }

const DEFAULT_PORT = 4170

export interface RunningServer {
  url: string
  stop(): Promise<void>
  /** Resolves when it can go on no longer, with what happened and what to do. */
  failed: Promise<string>
}

interface Parts {
  clock?: Clock
  extensions?: readonly ServerExtension[] | undefined
  /** That of the data folder, when it was set going before. */
  database?: Promise<BegunDatabase>
}

/** Starts everything; resolves once it answers. @throws StartProblem with one clear line */
export async function startServer(
  config: Config,
  { clock = systemClock, extensions = [], database: begun = beginDatabase(config.dataFolder) }: Parts = {},
): Promise<RunningServer> {
  const log = pino({ level: process.env.LOG_LEVEL ?? 'warn' })
  const database = await openDatabase(begun)
  const { db } = database
  for (const extension of extensions) await extension.prepare?.({ db, clock })
  await takeBackUnfinished(db)
  await followOwnStandards(db)
  await completeRecords(db)
  await forgetOldActions(db, clock.now())

  const live = new LiveValues(config.pollMs, log, clock)
  for (const { position, device } of await installedSensors(db)) {
    if (device.link) live.add(position.code, openLink(device.link, position.kind, clock))
  }
  // What the first look at Rounds is made of is computed while the lines open.
  const firstLook = overview(db, live, clock.now()).catch((error) => log.warn({ why: String(error) }, 'no first look'))
  const context: ServerContext = { db, clock, live, desk: new VisitDesk(db, live, clock), log }
  for (const extension of extensions) await extension.start?.(context)
  const stopRecording = recordReadings(context)
  const server = createServer(buildApp({ context, extensions, config }))
  const stop = async () => {
    // Requests that are cut off by the end fail as they must; nobody waits for their answers.
    log.level = 'silent'
    stopRecording()
    live.stop()
    for (const extension of extensions) await extension.stop?.()
    server.closeAllConnections()
    await new Promise((resolve) => server.close(resolve))
    await firstLook
    await database.close()
  }
  try {
    const port = await listen(server, config)
    return {
      url: `http://${config.host === '0.0.0.0' ? 'localhost' : config.host}:${port}`,
      stop,
      failed: db.$client.failed.then(({ message }) => hasEnded(config.dataFolder, message)),
    }
  } catch (error) {
    await stop().catch(() => undefined)
    throw error
  }
}

async function listen(server: Server, { host, port }: Config): Promise<number> {
  // A port that was asked for is taken or refused; the default gives way to the next free one.
  const wanted = port ?? (await getPort({ port: [DEFAULT_PORT, DEFAULT_PORT + 1, DEFAULT_PORT + 2], host }))
  await new Promise<void>((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      reject(
        new StartProblem(
          error.code === 'EADDRINUSE'
            ? `Port ${wanted} is taken by another program. Stop that one, or set PORT to a free port.`
            : `Port ${wanted} on ${host} cannot be used (${error.code ?? error.message}).`,
        ),
      ),
    )
    server.listen(wanted, host, resolve)
  })
  return wanted
}
