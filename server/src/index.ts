import type { Server } from 'node:net'
import { type Clock, systemClock } from '@frustum/contract'
import { render, timeSpan } from '@frustum/core'
import getPort from 'get-port'
import pino, { type Logger } from 'pino'
import { GRACE_MS, Interruptions } from './alarms/interruptions.ts'
import { SensorAlarms } from './alarms/sensorAlarms.ts'
import { buildApp } from './app.ts'
import { Backups } from './backup/backups.ts'
import { needsLead, portProblem } from './begin.ts'
import { noteDone } from './changes/changes.ts'
import { watchClock } from './clockJumps.ts'
import { type Config, isOpenToOthers, readConfig } from './config.ts'
import { Finders } from './connections/finders.ts'
import type { ServerContext } from './context.ts'
import { type BegunDatabase, beginDatabase } from './database/begin.ts'
import { type Database, openDatabase } from './database/open.ts'
import { prepareTemplate } from './database/template.ts'
import { hasEnded } from './database/whole.ts'
import { Links } from './devices/links.ts'
import type { ServerExtension } from './extension.ts'
import { forgetOldActions } from './http/doneOnce.ts'
import { httpServer } from './http/httpServer.ts'
import { answerRequests } from './owner/requests.ts'
import { Access } from './people/access.ts'
import { StartProblem } from './problem.ts'
import { completeRecords } from './records/complete.ts'
import { takeBackUnfinished } from './records/takenIn.ts'
import { overview } from './rounds/overview.ts'
import { followOwnStandards } from './shelf/ownStandards.ts'
import { startTelling } from './telling/teller.ts'
import { VisitDesk } from './visits/desk.ts'
import { recordReadings } from './watching/recorder.ts'

export { type Config, prepareTemplate, readConfig, type ServerExtension, StartProblem }

const DEFAULT_PORT = 4170

export interface RunningServer {
  url: string
  /** Where it is reached from the local network, encrypted, and the SHA-256 of its own authority. */
  lan: { addresses: string[]; authority: string | null } | null
  stop(): Promise<void>
  /** Resolves when it can go on no longer, with what happened and what to do. */
  failed: Promise<string>
  /** Resolves when it asks to be stopped and started again, since its data were restored. */
  restart: Promise<void>
}

interface Parts {
  clock?: Clock
  extensions?: readonly ServerExtension[] | undefined
  /** That of the data folder, when it was set going before. */
  database?: Promise<BegunDatabase>
  /** Interruptions that follow each other within this time are one event, ms. */
  graceMs?: number
}

/** Starts everything; resolves once it answers. @throws StartProblem with one clear line */
export async function startServer(
  config: Config,
  {
    clock = systemClock,
    extensions = [],
    database: begun = beginDatabase(config.dataFolder),
    graceMs = GRACE_MS,
  }: Parts = {},
): Promise<RunningServer> {
  const log = pino({ level: process.env.LOG_LEVEL ?? 'warn' })
  const database = await openDatabase(begun)
  const { db } = database
  for (const extension of extensions) await extension.prepare?.({ db, clock })
  const { access, openLan } = await mayStart(config, db, clock, log).catch(async (error) => {
    await database.close()
    throw error
  })
  await takeBackUnfinished(db)
  await followOwnStandards(db)
  await completeRecords(db)
  await forgetOldActions(db, clock.now())

  const links = new Links({ db, pollMs: config.pollMs, log, clock })
  const { live } = links
  await links.follow()
  // What the first look at Rounds is made of is computed while the lines open.
  const firstLook = overview(db, live, clock.now()).catch((error) => log.warn({ why: String(error) }, 'no first look'))
  const alarms = new SensorAlarms(db, clock, log)
  const context: ServerContext = {
    db,
    clock,
    live,
    links,
    desk: new VisitDesk(db, links, clock),
    alarms,
    room: { forReadings: true },
    log,
  }
  const interruptions = new Interruptions(db, clock, graceMs)
  const finders = new Finders(context)
  for (const extension of extensions) await extension.start?.(context)
  const { dataFolder } = config
  const backups = new Backups({ db, clock, log, dataFolder, mustSignIn: access.mustSignIn })
  const stopRecording = recordReadings(context, { alarms, interruptions, dataFolder })
  let ownAddress: string | null = null
  const stopTelling = startTelling(context, { ownAddress: () => ownAddress, backupWarning: () => backups.warning() })
  const stopNights = backups.everyNight()
  const stopWatch = watchClock((jump) => {
    const by = render([timeSpan(Math.abs(jump))])
    // A machine that sleeps looks as one whose clock is set forward.
    const what =
      jump < 0 ? `The server's clock was set back by ${by}` : `The server slept, or its clock was set forward, by ${by}`
    const line = { operator: 'The server', at: new Date(clock.now()) }
    interruptions.clockChanged(jump)
    noteDone(db, { subject: 'site', id: null }, line, what).catch((error) => log.error({ err: error }, what))
  })
  const stopSettling = context.desk.writes.settleAll()
  const stopRequests = answerRequests(config.dataFolder, context, backups)
  let restart = () => {}
  const restarts = new Promise<void>((resolve) => {
    restart = resolve
  })
  const app = buildApp({ context, finders, access, backups, restart, extensions, config })
  const lan = openLan?.(app)
  const plain = lan ? null : httpServer(app)
  const server: Server = lan?.server ?? (plain as Server)
  const stop = async () => {
    // Requests that are cut off by the end fail as they must; nobody waits for their answers.
    log.level = 'silent'
    const closed = new Promise((resolve) => server.close(resolve))
    lan?.stop()
    plain?.closeAllConnections()
    stopNights()
    stopWatch()
    stopSettling()
    stopRequests()
    finders.stop()
    links.stop()
    await stopTelling()
    await stopRecording()
    for (const extension of extensions) await extension.stop?.()
    // Whatever came in before the port was closed.
    lan?.stop()
    plain?.closeAllConnections()
    await closed
    await firstLook
    await backups.idle()
    await database.close()
  }
  try {
    const port = await listen(server, config)
    const url = `${lan ? 'https' : 'http'}://${hostInUrl(config.host)}:${port}`
    const addresses = lan?.addresses(port) ?? []
    ownAddress = addresses[0] ?? behindProxy(config) ?? url
    return {
      url,
      lan: lan ? { addresses, authority: lan.fingerprint } : null,
      stop,
      restart: restarts,
      failed: db.$client.failed.then(({ message }) => hasEnded(config.dataFolder, message)),
    }
  } catch (error) {
    await stop().catch(() => undefined)
    throw error
  }
}

/** Looks for what must be there before others may reach the server. @throws StartProblem */
async function mayStart(config: Config, db: Database, clock: Clock, log: Logger) {
  const access = await Access.open(db, clock, isOpenToOthers(config))
  if (access.mustSignIn && !(await access.hasLead())) throw needsLead(config)
  // Few need it, and it makes certificates: loaded only then.
  const openLan = config.lan ? await (await import('./network/lan.ts')).prepareLan(config, db, log) : null
  return { access, openLan }
}

/** The name under which a proxy, which has the encryption, is reached. */
const behindProxy = ({ names, proxies }: Config): string | null =>
  proxies && proxies.length > 0 && names?.[0] ? `https://${names[0]}` : null

/** All addresses are reached by this machine's own; an IPv6 one stands in brackets. */
const hostInUrl = (host: string): string =>
  host === '0.0.0.0' || host === '::' ? 'localhost' : host.includes(':') ? `[${host}]` : host

async function listen(server: Server, { host, port }: Config): Promise<number> {
  // A port that was asked for is taken or refused; the default gives way to the next free one.
  const wanted = port ?? (await getPort({ port: [DEFAULT_PORT, DEFAULT_PORT + 1, DEFAULT_PORT + 2], host }))
  await new Promise<void>((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => reject(portProblem(wanted, host, error)))
    server.listen(wanted, host, resolve)
  })
  return wanted
}
