import { randomBytes } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { acceleratedClock, type Clock, INGEST_PATH, systemClock } from '@frustum/contract'
import { demoExtension, fleet, standInUnits } from '@frustum/demo'
import { startStandIns } from '@frustum/lab/stand-ins'
import { startServer } from '@frustum/server'
import { freePort } from './freePort.ts'
import { SEEDED, seededFolder } from './seeded.ts'

export interface StationOptions {
  /** Positions of the sensors that it has; the whole demo station when none are named. */
  sensors?: readonly string[]
  /** A folder without a site, and no demo. */
  empty?: boolean
  /** Seconds of the station in one second of the wall clock. */
  rate?: number
  webFolder?: string | null
  /** A data folder to go on with; a new one that is cleared at the end unless given. */
  folder?: string
}

export interface Station {
  url: string
  folder: string
  clock: Clock
  standInPort: number
  /** Its clock goes on by so much, ms. */
  pass(ms: number): void
  stop(): Promise<void>
}

/** Real milliseconds between two looks at a device: the same at every rate, for the line is real. */
const POLL_MS = 120

/** A station in this process: stand-ins, server and data, on a clock of its own. */
export async function openStation(options: StationOptions = {}): Promise<Station> {
  const { empty = false, rate = 1, webFolder = null } = options
  const wanted = empty ? [] : options.sensors
  const sensors = fleet().filter((s) => !wanted || wanted.includes(s.code))
  const running = rate === 1 ? systemClock : acceleratedClock(rate, Date.now())
  let passed = 0
  const clock = { rate, now: () => running.now() + passed }
  const folder = options.folder ?? (wanted ? mkdtempSync(join(tmpdir(), 'frustum-station-')) : seededFolder())
  const standIns = await startStandIns(standInUnits(sensors), { clock })
  const loggerToken = randomBytes(24).toString('base64url')
  const server = await startServer(
    { host: '127.0.0.1', port: await freePort(), dataFolder: folder, pollMs: rate === 1 ? 500 : POLL_MS, webFolder },
    { clock, extensions: empty ? [] : [demoExtension({ standIns, loggerToken, sensors })] },
  )
  standIns.startLogger(`${server.url}${INGEST_PATH}${loggerToken}`)
  return {
    url: server.url,
    folder,
    clock,
    standInPort: standIns.port,
    pass: (ms) => {
      passed += ms
    },
    stop: async () => {
      await server.stop()
      await standIns.close()
      if (!options.folder) rmSync(folder, { recursive: true, force: true })
    },
  }
}

/** Makes the data of the whole station once, to be copied by every station of this run. Returns the way to clear it. */
export async function seedOnce(): Promise<() => void> {
  if (process.env[SEEDED]) return () => undefined
  const folder = mkdtempSync(join(tmpdir(), 'frustum-seeded-'))
  const station = await openStation({ folder })
  await station.stop()
  process.env[SEEDED] = folder
  return () => rmSync(folder, { recursive: true, force: true })
}
