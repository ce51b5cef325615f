import { createServer, type Server } from 'node:http'
import getPort from 'get-port'
import pino from 'pino'
import { type Config, readConfig } from './config.ts'
import { openDatabase } from './database/open.ts'
import { seedDemo } from './demo/seed.ts'
import { buildApp } from './http/app.ts'
import { openLink } from './links/link.ts'
import { LiveValues } from './links/liveValues.ts'
import { StartProblem } from './problem.ts'
import { recordReadings } from './readings/recorder.ts'
import { installedSensors } from './sensors.ts'
import { wakeStandIns } from './standins/standIns.ts'
import { VisitDesk } from './visits/desk.ts'
import { LiveDesks } from './visits/liveDesks.ts'

export { readConfig, StartProblem }

const DEFAULT_PORT = 4170

/** Starts everything; resolves once it answers. @throws StartProblem with one clear line */
export async function startServer(config: Config): Promise<{ url: string; stop(): Promise<void> }> {
  const log = pino({ level: process.env.LOG_LEVEL ?? 'warn' })
  const database = await openDatabase(config.dataFolder)
  const { db } = database
  if (config.demo) await seedDemo(db, config.standInPort, Date.now())

  const live = new LiveValues(config.pollMs, log)
  for (const { position, device } of await installedSensors(db)) {
    if (device.link) live.add(position.code, openLink(device.link, position.kind))
  }
  const desks = new LiveDesks(db, live)
  const desk = new VisitDesk(db, live, desks)
  if (config.demo) await wakeStandIns(db, live, desks, log)
  const stopRecording = recordReadings(db, live, log)
  const server = createServer(buildApp({ db, live, desk, desks, log, demo: config.demo, webFolder: config.webFolder }))
  const stop = async () => {
    stopRecording()
    live.stop()
    server.closeAllConnections()
    await new Promise((resolve) => server.close(resolve))
    await database.close()
  }
  try {
    const port = await listen(server, config)
    return { url: `http://${config.host === '0.0.0.0' ? 'localhost' : config.host}:${port}`, stop }
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
