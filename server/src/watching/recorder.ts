import type { SensorReading } from '@frustum/core'
import { KeepRule, modelOf, type ReadingState } from '@frustum/core'
import { inArray, isNull } from 'drizzle-orm'
import type { Interruptions } from '../alarms/interruptions.ts'
import { LevelShifts } from '../alarms/levelShifts.ts'
import type { SensorAlarms } from '../alarms/sensorAlarms.ts'
import { freeOn, hasRoomForReadings, lookAtSite } from '../alarms/siteAlarms.ts'
import type { ServerContext } from '../context.ts'
import type { Database, Transaction } from '../database/open.ts'
import { holds, installations, visits } from '../database/schema.ts'
import { checkAllDeviceCalibrations } from '../devices/deviceCalibration.ts'
import { keepingOf } from '../readings/keeping.ts'
import { rangeState } from '../readings/rangeState.ts'
import { forgetReadings, keepReadings, packReadings, type Reading } from '../readings/readingStore.ts'
import { type Installed, installedSensors } from '../sensors.ts'

/** What was heard is on disk so soon after, ms: as much may be lost in a power cut. */
const WRITE_EVERY_MS = 5000
/** Which sensors are in a visit, or held, is looked up so often, ms. */
const LOOK_EVERY_MS = 2000
/** Devices are asked for their calibration, and what is over is packed, so often, ms. */
const CHECK_EVERY_MS = 10 * 60_000
/** The keeping of the site is looked at, and what is usual of one sensor learned, so often, ms. */
const SITE_EVERY_MS = 60_000
const LEARN_EVERY_MS = 3000
/** Readings of a sensor that wait while the database takes nothing: some ten minutes. */
const MOST_WAITING = 1000

interface Followed {
  installed: Installed
  rule: KeepRule
}

interface Recording {
  alarms: SensorAlarms
  interruptions: Interruptions
  dataFolder: string
}

/**
 * Keeps what sensors on a line read between visits: each move, and one a minute in any case, with what it was of. What
 * devices send by themselves is kept as it comes. Returns the way to stop it.
 */
export function recordReadings(
  { db, live, links, clock, room, log }: ServerContext,
  { alarms, interruptions, dataFolder }: Recording,
): () => Promise<void> {
  const levelShifts = new LevelShifts({ db, clock })
  const followed = new Map<number, Followed>()
  let inVisit = new Set<number>()
  let held = new Set<number>()
  /** By position: which sensor is there is known when they are written. */
  let waiting = new Map<number, Reading[]>()

  const look = async () => {
    const there = await installedSensors(db)
    // Before any sensor is followed: after a restart in mid-visit, a probe in a buffer raises nothing.
    const open = await db.select({ id: visits.installationId }).from(visits).where(isNull(visits.closedAt))
    inVisit = new Set(open.map((v) => v.id))
    const kept = await db.select({ id: holds.positionId }).from(holds).where(isNull(holds.releasedAt))
    held = new Set(kept.map((h) => h.id))
    await alarms.follow(there)
    for (const installed of there) {
      const { id } = installed.position
      const known = followed.get(id)
      // Another sensor, or another display, is followed anew.
      if (known && sameAs(known.installed, installed)) known.installed = installed
      else followed.set(id, { installed, rule: ruleOf(installed) })
    }
    for (const id of followed.keys()) if (!there.some((i) => i.position.id === id)) followed.delete(id)
    // A line that is gone says so once; that it lasts is seen by looking again.
    for (const { installed } of followed.values()) {
      const { blindSince } = live.current(installed.position.code)
      if (blindSince !== null) judge(installed, clock.now(), null)
    }
  }
  const judge = (installed: Installed, at: number, shown: number | null, isThere = shown !== null) => {
    const state = stateOf(installed, { shown, isThere, inVisit, held })
    alarms.push(installed.position.id, { at, value: shown, state })
    return state
  }
  const hear = (id: number, reading: SensorReading | null) => {
    const one = followed.get(id)
    if (!one) return
    const shown = reading && (reading.shown ?? live.workOut(id, reading))
    const at = reading?.at ?? clock.now()
    const state = judge(one.installed, at, shown, reading !== null)
    if (links.pushOf([id])) return
    if (!one.rule.isKept({ at, value: shown, state })) return
    const kept = { at, shown, signal: reading?.signal ?? null, temperature: reading?.temperature ?? null, state }
    waiting.set(id, [...(waiting.get(id) ?? []), kept])
  }
  const write = async () => {
    const now = waiting
    waiting = new Map()
    if (now.size === 0 || !room.forReadings) return
    const { unwritten, failed } = await writeReadings(db, now)
    for (const { positionId, error } of failed) log.error({ err: error, positionId }, 'reading not kept')
    for (const [id, all] of unwritten) waiting.set(id, [...all, ...(waiting.get(id) ?? [])].slice(-MOST_WAITING))
  }
  const lookAround = async () => {
    const freeBytes = await freeOn(dataFolder)
    room.forReadings = hasRoomForReadings(freeBytes)
    await lookAtSite({ db, clock }, freeBytes)
    // After an adjustment the days before are off by it, from then on.
    await alarms.weigh()
    await interruptions.look()
    await levelShifts.look()
  }
  const check = async () => {
    await checkAllDeviceCalibrations(db, links, await installedSensors(db), new Date(clock.now()))
    await packReadings(db, clock.now())
    await forgetReadings(db, clock.now(), await keepingOf(db))
  }
  const stopHearing = live.hearAll(hear)
  const stops = [
    repeat(look, LOOK_EVERY_MS, log),
    repeat(write, WRITE_EVERY_MS, log),
    repeat(lookAround, SITE_EVERY_MS / clock.rate, log),
    repeat(() => alarms.learn(), LEARN_EVERY_MS, log),
    repeat(check, CHECK_EVERY_MS / clock.rate, log),
  ]
  void Promise.all([look(), lookAround()]).catch((error) => log.error({ err: error }, 'sensors not followed'))
  return async () => {
    stopHearing()
    await Promise.all(stops.map((stop) => stop()))
    // What was heard last is written by an end that is not a power cut.
    await write().catch(() => undefined)
    await interruptions.look().catch(() => undefined)
    await alarms.idle()
  }
}

/** Readings by position. */
type ByPosition = ReadonlyMap<number, readonly Reading[]>

/**
 * Writes readings to the sensors that were at their positions at the time. One that can't be written costs no other one:
 * what failed together is tried position by position, then reading by reading.
 * @returns what is still to be written, where the database takes nothing at all; and what it refuses alone
 */
export async function writeReadings(
  db: Database,
  all: ByPosition,
): Promise<{ unwritten: ByPosition; failed: { positionId: number; error: unknown }[] }> {
  const write = (some: ByPosition) => db.transaction((tx) => keepAt(tx, some))
  const done = await write(all).then(
    () => true,
    () => false,
  )
  if (done) return { unwritten: new Map(), failed: [] }
  const failed: { positionId: number; error: unknown }[] = []
  let written = 0
  for (const [positionId, readings] of all) {
    for (const reading of readings) {
      await write(new Map([[positionId, [reading]]])).then(
        () => written++,
        (error: unknown) => failed.push({ positionId, error }),
      )
    }
  }
  return written > 0 ? { unwritten: new Map(), failed } : { unwritten: all, failed: [] }
}

async function keepAt(tx: Transaction, all: ByPosition): Promise<void> {
  const stays = await tx
    .select()
    .from(installations)
    .where(inArray(installations.positionId, [...all.keys()]))
  const of = (positionId: number, at: number) =>
    stays.find(
      (s) =>
        s.positionId === positionId &&
        s.installedAt.getTime() <= at &&
        (s.removedAt === null || s.removedAt.getTime() > at),
    )
  for (const [positionId, readings] of all) {
    const byStay = new Map<number, Reading[]>()
    for (const reading of readings) {
      const stay = of(positionId, reading.at)
      // Between two sensors nothing was read of either.
      if (stay) byStay.set(stay.id, [...(byStay.get(stay.id) ?? []), reading])
    }
    for (const [installationId, own] of byStay) await keepReadings(tx, installationId, { all: own, apartMs: 1 })
  }
}

/** Does something again and again, never twice at once. Returns the way to stop it, which waits for its end. */
function repeat(work: () => Promise<void>, everyMs: number, log: ServerContext['log']): () => Promise<void> {
  let running: Promise<void> | null = null
  const timer = setInterval(() => {
    running ??= work()
      .catch((error) => log.error({ err: error }, 'readings not kept'))
      .finally(() => {
        running = null
      })
  }, everyMs)
  return async () => {
    clearInterval(timer)
    await running
  }
}

const ruleOf = (installed: Installed) =>
  new KeepRule({ step: stepOf(installed), everyMs: 1000 * installed.position.keepSeconds })

const sameAs = (a: Installed, b: Installed): boolean =>
  a.installation.id === b.installation.id &&
  a.position.keepSeconds === b.position.keepSeconds &&
  JSON.stringify(a.device.setting) === JSON.stringify(b.device.setting)

/** What one step of its display is worth. */
const stepOf = ({ position, device }: Installed): number =>
  10 ** -modelOf(position.kind).shownScale(device.setting).decimals

interface Circumstances {
  shown: number | null
  isThere: boolean
  /** Installations, and positions. */
  inVisit: ReadonlySet<number>
  held: ReadonlySet<number>
}

/** What a reading was of. */
function stateOf(
  { position, installation, device }: Installed,
  { shown, isThere, inVisit, held }: Circumstances,
): ReadingState {
  if (!isThere) return 'blind'
  if (inVisit.has(installation.id)) return 'in-visit'
  if (held.has(position.id)) return 'held'
  return rangeState(position.kind, device.setting, shown)
}
