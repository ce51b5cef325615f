import type { ConnectionPageView, ConnectionView, ExchangeView, KeptView, LineView } from '@frustum/contract'
import { CHANNELS } from '@frustum/contract'
import { DAY_MS, median, modelOf, type SensorKind } from '@frustum/core'
import { and, asc, eq, isNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { connectionSecrets, connections, devices, ingestTokens, installations, positions } from '../database/schema.ts'
import type { Exchange } from '../devices/exchanges.ts'
import { isLinked, isRegistered, type Links } from '../devices/links.ts'
import { wantedUnits } from '../devices/mapping/readSensor.ts'
import { unitsFor } from '../devices/mapping/units.ts'
import { protocolOf, protocols } from '../devices/protocols/registry.ts'
import { notFound } from '../problem.ts'
import { readingsBetween } from '../readings/readingStore.ts'
import { connectionText } from './lines.ts'
import { ownProfiles } from './profiles.ts'

type Row = typeof connections.$inferSelect & { hasSecret: boolean }

interface On {
  position: typeof positions.$inferSelect
  device: typeof devices.$inferSelect
}

/** Positions with the devices that read them, those that are in use. */
const standing = (db: Database): Promise<On[]> =>
  db
    .select({ position: positions, device: devices })
    .from(positions)
    .innerJoin(devices, eq(positions.deviceId, devices.id))
    .where(isNull(positions.archivedAt))
    .orderBy(asc(positions.code))

export async function connectionViews(db: Database, links: Links): Promise<ConnectionView[]> {
  const rows = await connectionRows(db)
  const there = await standing(db)
  return rows.map((row) => viewOf(row, there, links))
}

/** All that are in use; whether a secret is kept, and never which. */
async function connectionRows(db: Database): Promise<Row[]> {
  const rows = await db
    .select({ connection: connections, secretOf: connectionSecrets.connectionId })
    .from(connections)
    .leftJoin(connectionSecrets, eq(connectionSecrets.connectionId, connections.id))
    .where(and(isNull(connections.archivedAt), isRegistered()))
    .orderBy(asc(connections.name))
  return rows.map(({ connection, secretOf }) => ({ ...connection, hasSecret: secretOf !== null }))
}

function viewOf({ id, name, protocol, settings, hasSecret }: Row, there: readonly On[], links: Links): ConnectionView {
  const on = there.filter(({ device }) => device.connectionId === id)
  const driver = on.some(isLinked) ? links.driver(id) : null
  const state = driver?.state()
  return {
    id,
    name,
    protocol,
    reached: connectionText({ protocol, settings }),
    polled: protocolOf(protocol).polled,
    settings,
    hasSecret,
    state: state?.kind ?? null,
    since: state?.since ?? null,
    why: state?.why ?? null,
    answerMs: driver?.exchanges.answerMs() ?? null,
    failuresAnHour: driver?.exchanges.failuresAnHour() ?? 0,
    devices: [...new Map(on.map(({ device }) => [device.id, device])).values()].map((device) => ({
      id: device.id,
      name: device.name,
      where: protocolOf(protocol).addressText(device.address),
      sensors: on
        .filter((o) => o.device.id === device.id)
        .map(({ position }) => ({ id: position.id, code: position.code })),
    })),
  }
}

/** @throws Problem 404 */
async function connectionRow(db: Database, id: number): Promise<Row> {
  const row = (await connectionRows(db)).find((r) => r.id === id)
  if (!row) throw notFound('connection')
  return row
}

export async function connectionPage(
  db: Database,
  links: Links,
  { id, now }: { id: number; now: number },
): Promise<ConnectionPageView> {
  const row = await connectionRow(db, id)
  const there = await standing(db)
  const read = there.filter((on) => on.device.connectionId === id && isLinked(on))
  const protocol = protocolOf(row.protocol)
  return {
    ...viewOf(row, there, links),
    sensors: await Promise.all(
      read.map(async ({ position: { id: on, code, kind } }) => {
        const { at, why } = links.live.current(code)
        const kept = protocol.ownAddress ? await keptOf(db, on, now) : null
        return { id: on, code, kind, at, why, raw: links.raw(on), kept }
      }),
    ),
    exchanges: links.driver(id)?.exchanges.list().map(exchangeView) ?? [],
  }
}

/** So many stretches are shown, each at least as long as one reading is kept in, and as the device sends. */
const STRETCHES = 60
const LEAST_MS = 60_000
const PERIODS = 1.5
/** Fewer say nothing of how a device sends. */
const ENOUGH_GAPS = 3
const LATEST_GAPS = 9

async function keptOf(db: Database, positionId: number, now: number): Promise<KeptView> {
  const stays = await db.select().from(installations).where(eq(installations.positionId, positionId))
  const recent = await readingsBetween(
    db,
    stays.map((stay) => stay.id),
    { from: now - DAY_MS, to: now },
  )
  const times = recent.map(({ at }) => at).reverse()
  // How it sends of late: what was kept before may be of another line.
  const gaps = times.slice(1, 1 + LATEST_GAPS).map((at, i) => (times[i] as number) - at)
  const period = gaps.length >= ENOUGH_GAPS ? median(gaps) : 0
  const eachMs = period > PERIODS * LEAST_MS ? Math.ceil((PERIODS * period) / LEAST_MS) * LEAST_MS : LEAST_MS
  const from = (Math.floor(now / eachMs) - STRETCHES + 1) * eachMs
  const there = Array.from({ length: STRETCHES }, () => false)
  for (const at of times) if (at >= from && at <= now) there[Math.floor((at - from) / eachMs)] = true
  return { from, eachMs, there }
}

const hex = (bytes: Buffer) =>
  bytes
    .toString('hex')
    .toUpperCase()
    .replace(/(..)(?=.)/g, '$1 ')

const exchangeView = ({ at, words, outcome, failed, sent, received, took }: Exchange): ExchangeView => ({
  at,
  words,
  outcome,
  failed,
  sent: hex(sent),
  received: hex(received),
  took: took === null ? null : Math.round(took),
})

/** What a position is read by. @throws Problem 404 */
export async function lineView(db: Database, links: Links, id: number): Promise<LineView> {
  const there = await standing(db)
  const on = there.find(({ position }) => position.id === id)
  if (!on) throw notFound('position')
  const { position, device } = on
  const model = modelOf(position.kind)
  const wanted = wantedUnits({ kind: position.kind, setting: device.setting })
  const all = await connectionRows(db)
  const [token] = await db.select().from(ingestTokens).where(eq(ingestTokens.deviceId, device.id))
  return {
    id,
    code: position.code,
    kind: position.kind,
    quantity: model.quantity(device.setting),
    device: {
      id: device.id,
      name: device.name,
      others: there.filter((o) => o.device.id === device.id && o !== on).map((o) => o.position.code),
    },
    connectionId: device.connectionId,
    address: device.address,
    mapping: position.mapping,
    units: Object.fromEntries(CHANNELS.map((name) => [name, unitsFor(wanted[name] ?? '')])) as LineView['units'],
    parameters: model.parameters.map(({ key, label, unit }) => ({ key, label, unit })),
    thermometers: there.filter((o) => o !== on && isLinked(o)).map((o) => o.position.code),
    connections: all.map(({ id: connection, name, protocol, hasSecret }) => ({
      id: connection,
      name,
      protocol,
      hasSecret,
    })),
    token: token
      ? { madeAt: token.madeAt.getTime(), madeBy: token.madeBy, usedAt: token.usedAt?.getTime() ?? null }
      : null,
    profiles: await profilesFor(db, position.kind),
    raw: links.raw(id),
    why: links.live.current(position.code).why,
    everyMs: links.live.everyMs(position.code),
  }
}

/** Mappings to start from: own ones, then those of each family. */
async function profilesFor(db: Database, kind: SensorKind): Promise<LineView['profiles']> {
  const families = new Map(protocols().map(({ mapping }) => [mapping.family, mapping]))
  const general = [...families.values()].flatMap((scheme) =>
    scheme.profiles(kind).map((profile) => ({ ...profile, family: scheme.family })),
  )
  return [...(await ownProfiles(db)), ...general]
}
