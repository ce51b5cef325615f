import { type IngestView, isElsewhere } from '@frustum/contract'
import type { SensorReading } from '@frustum/core'
import { AT_MOST_EVERY_MS, DAY_MS, dayStart } from '@frustum/core'
import { and, asc, eq, gte, isNull, lte, or } from 'drizzle-orm'
import { relearn } from '../alarms/learned.ts'
import { hashedToken } from '../connections/lines.ts'
import type { Transaction } from '../database/open.ts'
import { connections, devices, ingestTokens, installations, positions, visits } from '../database/schema.ts'
import type { FollowedSensor } from '../devices/link.ts'
import { readingOf } from '../devices/mapping/readSensor.ts'
import { type MessageRecord, PayloadProblem } from '../devices/protocols/messages/message.ts'
import { AHEAD_MS, mainPlace } from '../devices/protocols/messages/messageSensors.ts'
import { readPayload } from '../devices/protocols/messages/payload.ts'
import { fieldMapping } from '../devices/protocols/messages/scheme.ts'
import { dataIn } from '../devices/protocols/push/pushConnection.ts'
import { findProtocol } from '../devices/protocols/registry.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { notFound, Problem } from '../problem.ts'
import { rangeState } from '../readings/rangeState.ts'
import { keepReadings, type Reading } from '../readings/readingStore.ts'

/** Of a reading older than this, what another sensor reads now says nothing, ms. */
const OF_NOW_MS = 60_000
const MOST_RECORDS = 50_000
/** So many are read at a time, so that others have their turn. */
const AT_ONCE = 500
const MOST_REFUSALS = 20
/** Readings up to this long before the first sensor are its backlog; older ones come from a clock that was never set, ms. */
const BACKLOG_MS = 366 * DAY_MS
/** That it was used is noted no more often than this, ms. */
const NOTE_USE_MS = 60_000

type Context = Pick<RouteContext, 'db' | 'links' | 'clock'>

interface Sent {
  sensor: FollowedSensor
  reading: SensorReading
}

/** One after the other of each device: two that overlap would each keep what the other has. */
const underWay = new Map<number, Promise<unknown>>()

/** Takes in what a device sends by itself; resolves when it is on disk. @throws Problem */
export async function ingest(context: Context, token: string, text: string): Promise<IngestView> {
  const { db } = context
  const [found] = await db
    .select({ device: devices, usedAt: ingestTokens.usedAt, protocol: connections.protocol })
    .from(ingestTokens)
    .innerJoin(devices, eq(ingestTokens.deviceId, devices.id))
    .leftJoin(connections, eq(devices.connectionId, connections.id))
    .where(eq(ingestTokens.token, hashedToken(token)))
  if (!found || found.device.archivedAt) throw notFound('address')
  const { device } = found
  const before = underWay.get(device.id) ?? Promise.resolve()
  const turn = before.catch(() => undefined).then(() => takeIn(context, found, text))
  underWay.set(device.id, turn)
  try {
    return await turn
  } finally {
    if (underWay.get(device.id) === turn) underWay.delete(device.id)
  }
}

async function takeIn(
  { db, links, clock }: Context,
  { device, usedAt, protocol }: { device: typeof devices.$inferSelect; usedAt: Date | null; protocol: string | null },
  text: string,
): Promise<IngestView> {
  const now = clock.now()
  // There before anything is known of it: whoever connects it looks for its fields in this.
  links.received.set(device.id, { text, at: now })
  if (usedAt === null || Math.abs(now - usedAt.getTime()) > NOTE_USE_MS)
    await db
      .update(ingestTokens)
      .set({ usedAt: new Date(now) })
      .where(eq(ingestTokens.deviceId, device.id))
  const sensors = protocol && findProtocol(protocol)?.ownAddress ? await sensorsOf(db, device) : []
  if (sensors.length === 0) {
    throw new Problem(409, 'not-mapped', 'Nothing of this device is mapped yet.', {
      detail: 'Nothing was kept.',
      hint: 'Say under Rig which of its fields is which sensor, and let it send again.',
    })
  }
  const bytes = Buffer.byteLength(text)
  const push = links.pushOf(sensors.map((s) => s.id))
  try {
    const { sent, newest, refused } = await readAll(sensors, text, now, (code) => links.live.temperatureAt(code))
    if (sent.length === 0) {
      const [why = 'None of the mapped fields is in it.'] = refused
      throw new PayloadProblem(why)
    }
    const { kept, nobodys } = await db.transaction((tx) => keep(tx, sent, now))
    for (const code of nobodys) refused.add(`${code}: no sensor was installed at that time. Check the device’s clock.`)
    const known = sent.length - kept.fresh - kept.nobodys
    const view = { kept: kept.fresh, known, refused: [...refused].slice(0, MOST_REFUSALS) }
    push?.came(bytes, `${sent.length} readings, ${kept.fresh} new`, text, newest)
    return view
  } catch (error) {
    if (!(error instanceof PayloadProblem)) throw error
    push?.refused(device.id, bytes, text, error.message)
    throw new Problem(400, 'unreadable', error.message, { detail: 'Nothing was kept.' })
  }
}

async function sensorsOf(db: Context['db'], device: typeof devices.$inferSelect): Promise<FollowedSensor[]> {
  const rows = await db.select().from(positions).where(eq(positions.deviceId, device.id)).orderBy(asc(positions.code))
  return rows.flatMap(({ id, code, kind, mapping, archivedAt }) =>
    mapping && !archivedAt ? [{ id, code, kind, setting: device.setting, mapping }] : [],
  )
}

/** Every reading in what came, and the newest record of each sensor. @throws PayloadProblem */
async function readAll(
  sensors: readonly FollowedSensor[],
  text: string,
  now: number,
  temperatureAt: (code: string) => number | null,
) {
  const sent: Sent[] = []
  const refused = new Set<string>()
  const newest = new Map<number, { record: MessageRecord; at: number }>()
  const read = new Map<string, MessageRecord[]>()
  let done = 0
  for (const sensor of sensors) {
    const { format = 'json', time } = fieldMapping(sensor.mapping)
    const key = `${format} ${time?.field}`
    const records = read.get(key) ?? readPayload(text, { format, time: time?.field, now })
    read.set(key, records)
    if (records.length > MOST_RECORDS)
      throw new PayloadProblem(`${records.length} moments at once are too many: at most ${MOST_RECORDS}.`)
    const field = mainPlace(sensor)?.field
    if (field === undefined) continue
    for (const record of records) {
      if (++done % AT_ONCE === 0) await new Promise((resolve) => setImmediate(resolve))
      if (record.find(field) === undefined) continue
      const at = record.at ?? now
      const last = newest.get(sensor.id)
      if (!last || at >= last.at) newest.set(sensor.id, { record, at })
      if (at > now + AHEAD_MS) {
        refused.add(`${sensor.code}: it is dated ahead of this server’s clock.`)
        continue
      }
      try {
        sent.push({ sensor, reading: readingOf(ofThen(sensor, now - at), dataIn(record), { at, temperatureAt }) })
      } catch (error) {
        refused.add(`${sensor.code}: ${(error as Error).message}`)
      }
    }
  }
  return { sent, newest, refused }
}

/** What another sensor reads now is no temperature of what was read before. */
const ofThen = (sensor: FollowedSensor, age: number): FollowedSensor => {
  const { temperature } = sensor.mapping
  return age > OF_NOW_MS && temperature && isElsewhere(temperature)
    ? { ...sensor, mapping: { ...sensor.mapping, temperature: undefined } }
    : sensor
}

/**
 * Keeps of each ten seconds the first reading that there is, whatever the order in which they come, in the series of the
 * sensor that was in place then. Returns how many of them are new, and whose were of a time without a sensor.
 */
async function keep(tx: Transaction, sent: readonly Sent[], now: number) {
  const kept = { fresh: 0, nobodys: 0 }
  const nobodys = new Set<string>()
  for (const sensor of new Map(sent.map((one) => [one.sensor.id, one.sensor])).values()) {
    const { id, code } = sensor
    let own = sent.filter((s) => s.sensor.id === id).map((s) => s.reading)
    const stays = await tx
      .select()
      .from(installations)
      .where(eq(installations.positionId, id))
      .orderBy(asc(installations.installedAt))
    for (const [i, stay] of stays.entries()) {
      // A logger is often older than the site: its backlog belongs to the first known sensor.
      const from = stay.installedAt.getTime() - (i === 0 ? BACKLOG_MS : 0)
      const to = stay.removedAt?.getTime() ?? Number.POSITIVE_INFINITY
      const isThere = ({ at }: SensorReading) => at >= from && at < to
      const all = await withStates(tx, stay.id, own.filter(isThere), sensor)
      const fresh = await keepReadings(tx, stay.id, { all, apartMs: AT_MOST_EVERY_MS })
      if (fresh > 0 && all.some(({ at }) => at < dayStart(now))) await relearn(tx, stay.id)
      kept.fresh += fresh
      own = own.filter((reading) => !isThere(reading))
    }
    if (own.length > 0) nobodys.add(code)
    kept.nobodys += own.length
  }
  return { kept, nobodys }
}

/** What each was of, by the visits that there were. */
async function withStates(
  tx: Transaction,
  installationId: number,
  all: readonly SensorReading[],
  { kind, setting }: FollowedSensor,
): Promise<Reading[]> {
  if (all.length === 0) return []
  const [first, last] = [Math.min(...all.map((r) => r.at)), Math.max(...all.map((r) => r.at))]
  const there = await tx
    .select({ from: visits.startedAt, to: visits.closedAt })
    .from(visits)
    .where(
      and(
        eq(visits.installationId, installationId),
        lte(visits.startedAt, new Date(last)),
        or(isNull(visits.closedAt), gte(visits.closedAt, new Date(first))),
      ),
    )
  const inVisit = (at: number) =>
    there.some(({ from, to }) => at >= from.getTime() && at <= (to?.getTime() ?? Number.POSITIVE_INFINITY))
  return all.map(({ at, shown, signal, temperature }) => ({
    at,
    shown,
    signal,
    temperature,
    state: inVisit(at) ? 'in-visit' : rangeState(kind, setting, shown),
  }))
}
