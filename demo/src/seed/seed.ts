import type { Protocol } from '@frustum/contract'
import {
  DAY_MS,
  modelOf,
  nullIfOutOfRange,
  procedureOf,
  randomStream,
  reduceVisit,
  resultAt,
  USUAL_PRACTICES,
} from '@frustum/core'
import { simulateSensor } from '@frustum/lab/simulation'
import type { StandInPorts } from '@frustum/lab/stand-ins'
import {
  type Database,
  dayRollUp,
  factsOf,
  floatMap,
  hourOf,
  hourRollUp,
  installedSensors,
  packedHour,
  type Reading,
  recordAfter,
  snapshotOf,
  storedAssessment,
  tables as table,
  takeSetUp,
} from '@frustum/server/extending'
import { desc, eq } from 'drizzle-orm'
import type { FleetSensor } from '../fleet/fleetSensor.ts'
import { CONSUMABLES, fleet, OPERATORS, PLACES, POST_KEY, processAt, SITE, truthAt } from '../pellwick.ts'
import { SHELF } from '../shelf.ts'
import { copyRows } from './copyRows.ts'
import { type PastVisit, playHistory } from './history.ts'

const SEED = 20170

/**
 * Fills an empty database with Pellwick Shore Station and 18 months of visits that end today. A database that holds
 * visits already is left as it is, but for the port on which the stand-ins listen this time.
 */
export async function seedDemo(
  db: Database,
  { standIns, stories, onProgress }: Seeding & { standIns: StandInPorts },
): Promise<void> {
  const [known] = await db.select({ id: table.visits.id }).from(table.visits).limit(1)
  if (!known) {
    const told = stories()
    const at = new Date(told.now)
    const [site] = await db.select().from(table.sites)
    const document = setUpOf(
      told.sensors.map((s) => s.sensor),
      told.now,
    )
    // Whoever ends it between the two goes on with the second.
    if (!site) await db.transaction((tx) => takeSetUp(tx, document, { operator: OPERATORS[0] as string, at }))
    await inTransaction(db, () => seedRecords(db, told, onProgress))
  }
  for (const [protocol, settings] of Object.entries(settingsOf(standIns)))
    await db
      .update(table.connections)
      .set({ settings })
      .where(eq(table.connections.protocol, protocol as Protocol))
  if (standIns.post) await tellPostOffice(db, standIns.post)
}

const DAILY = { from: 6, to: 21, afterMinutes: 0, repeatMinutes: 0, digestHour: 6, reminders: true } as const
const ALWAYS = { from: 0, to: 0, afterMinutes: 0, repeatMinutes: 0, digestHour: null, reminders: false } as const

/** The station's people are told through the post office of the stand-ins, where it is this time. */
async function tellPostOffice(db: Database, { mail, hooks }: { mail: number; hooks: number }): Promise<void> {
  const now = new Date()
  const [newest] = await db.select().from(table.mailServers).orderBy(desc(table.mailServers.id)).limit(1)
  if (newest && newest.host !== HOST) return
  const by = { setAt: now, setBy: OPERATORS[0] as string }
  await db
    .insert(table.mailServers)
    .values({ host: HOST, port: mail, security: 'none', user: '', sender: 'frustum@pellwick.example', ...by })
  const address = `http://${HOST}:${hooks}/log`
  if (newest) {
    await db.update(table.recipients).set({ address }).where(eq(table.recipients.by, 'webhook'))
    return
  }
  const added = await db
    .insert(table.recipients)
    .values([
      {
        name: 'Marrow',
        by: 'mail',
        address: 'marrow@pellwick.example',
        wishes: { alarms: 'warning', ...DAILY },
        since: now,
      },
      { name: 'Station log', by: 'webhook', address, wishes: { alarms: 'notice', ...ALWAYS }, since: now },
    ])
    .returning({ id: table.recipients.id })
  await db.insert(table.tellingSecrets).values({ of: String(added[1]?.id), secret: POST_KEY })
}

const HOST = '127.0.0.1'

/** Where the stand-ins are reached this time. */
const settingsOf = ({ port, broker, pages }: StandInPorts) => ({
  'modbus-tcp': { host: HOST, port },
  mqtt: { host: HOST, port: broker },
  http: { url: `http://${HOST}:${pages}/` },
})

/** Ways to the station's devices, in the order of their numbers; where each leads is known once the stand-ins run. */
const CONNECTIONS = [
  { name: 'Transmitters of the station', protocol: 'modbus-tcp', settings: { host: HOST, port: 1 }, by: 'registers' },
  { name: 'Broker of the Wasabi House', protocol: 'mqtt', settings: { host: HOST, port: 1 }, by: 'broker' },
  { name: 'Status pages of the plant', protocol: 'http', settings: { url: `http://${HOST}:1/` }, by: 'page' },
  { name: 'Loggers', protocol: 'push', settings: {}, by: 'logger' },
] as const

/** How a device is reached: over which connection, and where on it. */
function lineOf({ unit, via }: FleetSensor) {
  if (unit === null) return {}
  const connectionId = CONNECTIONS.findIndex((c) => c.by === (via?.by ?? 'registers')) + 1
  const address =
    via?.by === 'broker'
      ? { topic: via.topic }
      : via?.by === 'page'
        ? { path: via.path }
        : via?.by === 'logger'
          ? {}
          : { unit: via?.unit ?? unit }
  return { connectionId, address }
}

interface Seeding {
  /** Asked for only where there is no visit yet. */
  stories: () => Stories
  onProgress: (what: string) => void
}

/** What happened to the sensors in the 18 months before an instant. */
export interface Stories {
  now: number
  sensors: readonly Story[]
}

interface Story {
  sensor: FleetSensor
  history: PastVisit[]
  random: ReturnType<typeof randomStream>
}

export function makeUpStories(
  sensors: readonly FleetSensor[],
  now: number,
  onProgress: (what: string) => void,
): Stories {
  const random = randomStream(SEED)
  const told: Story[] = []
  for (const sensor of fleet()) {
    // Each sensor has a stream of its own: its story is the same in a smaller station.
    const own = random.fork()
    if (!sensors.includes(sensor)) continue
    onProgress(`Making up 18 months of visits: ${sensor.code}`)
    told.push({ sensor, history: playHistory(sensor, now, OPERATORS, own), random: own.fork() })
  }
  return { now, sensors: told }
}

/** Nobody else uses the database yet; COPY knows no transaction object of the query builder. */
async function inTransaction(db: Database, work: () => Promise<void>): Promise<void> {
  await db.$client.exec('begin')
  try {
    await work()
    await db.$client.exec('commit')
  } catch (error) {
    await db.$client.exec('rollback')
    throw error
  }
}

/** What happened at the station, after it was set up: the visits, and what was noted and poured between them. */
async function seedRecords(tx: Database, { now, sensors }: Stories, onProgress: (what: string) => void): Promise<void> {
  onProgress('Writing the records')
  // Made anew each day, they need none.
  await tx.insert(table.backupSettings).values({ nightly: false })
  const lots = await tx.select().from(table.solutionLots)
  const poured = SHELF.filter((lot) => lot.left < lot.volume)
  await tx.insert(table.solutionUses).values(
    poured.map(({ lot, standard, openedDaysAgo, volume, left }) => ({
      lotId: lots.find((l) => l.lot === lot && l.standard === standard)?.id as number,
      at: new Date(now - (openedDaysAgo ?? 0) * DAY_MS),
      milliliters: volume - left,
      operator: OPERATORS[0] as string,
      reason: 'poured so far',
    })),
  )
  const byCode = new Map((await installedSensors(tx)).map((i) => [i.position.code, i.installation.id]))
  const played = sensors.map((story) => ({ ...story, installationId: byCode.get(story.sensor.code) as number }))
  const happened = played.flatMap(({ installationId, sensor }) =>
    sensor.events.map((e) => ({ installationId, at: new Date(now - e.daysAgo * DAY_MS), kind: e.kind, note: e.note })),
  )
  if (happened.length > 0) await tx.insert(table.events).values(happened)
  await writeHistory(tx, played, now)
}

/** Animals and what people drink weigh most, product and crop less. */
const consequenceOf = (sensor: FleetSensor): number =>
  sensor.place === 'cuttlefish' || sensor.authority ? 3 : sensor.kind === 'temperature' ? 1 : 2

/** Channels of one device are read by the device of the first of them. */
const deviceOf = (sensors: readonly FleetSensor[], i: number): number => {
  const via = sensors[i]?.via
  const first = via ? sensors.findIndex((s) => s.via?.name === via.name) : i
  return first + 1
}

/** The station as a set-up file has it: it comes in by the same door as anybody's. */
function setUpOf(sensors: readonly FleetSensor[], now: number) {
  const daysAgo = (days: number) => new Date(now - days * DAY_MS).toISOString()
  const numbered = <T extends object>(rows: readonly T[]) => rows.map((row, i) => ({ id: i + 1, ...row }))
  const placeId = (key: string) => PLACES.findIndex((p) => p.key === key) + 1
  return {
    format: 'frustum-set-up',
    version: 1,
    site: SITE,
    practices: USUAL_PRACTICES,
    people: numbered(OPERATORS.map((name) => ({ name }))),
    places: numbered(PLACES.map(({ name, water }) => ({ name, water }))),
    connections: numbered(CONNECTIONS.map(({ name, protocol, settings }) => ({ name, protocol, settings }))),
    devices: sensors.flatMap((s, i) =>
      deviceOf(sensors, i) !== i + 1
        ? []
        : [
            {
              id: i + 1,
              name: s.via?.name ?? `Transmitter at ${s.spot}`,
              shows: s.shows,
              adjustsBy: s.ownKey ? 'key' : 'numbers',
              calibrationKey: s.ownKey ?? 'CAL',
              setting: Object.assign(
                {},
                ...sensors.filter((_, j) => deviceOf(sensors, j) === i + 1).map((o) => o.device),
              ),
              ...lineOf(s),
            },
          ],
    ),
    positions: numbered(
      sensors.map((s, i) => ({
        placeId: placeId(s.place),
        deviceId: deviceOf(sensors, i),
        code: s.code,
        spot: s.spot,
        kind: s.kind,
        processValue: s.process.value,
        processTemperature: s.process.temperature,
        tolerance: s.tolerance,
        floorDays: 7,
        ceilingDays: s.ceilingDays,
        consequence: consequenceOf(s),
        checkFirst: s.checkFirst ?? 'when-sound',
        cautions: s.cautions,
        authorityRule: s.authority?.rule ?? null,
        authorityDays: s.authority?.days ?? null,
        body: s.body ?? null,
        water: s.water ?? null,
        mapping: s.unit === null ? null : (s.via?.mapping ?? floatMap(s.kind, s.writable)),
      })),
    ),
    formerCodes: [],
    sensors: numbered(sensors.map((s) => ({ serialNumber: s.serial, kind: s.kind, model: s.model }))),
    installations: numbered(
      sensors.map((s, i) => ({
        sensorId: i + 1,
        positionId: i + 1,
        deviceId: deviceOf(sensors, i),
        installedAt: daysAgo(s.installedDaysAgo),
      })),
    ),
    consumables: numbered(
      CONSUMABLES.map(({ place, name, everyDays, renewedDaysAgo }) => ({
        placeId: placeId(place),
        name,
        everyDays,
        since: daysAgo(renewedDaysAgo),
      })),
    ),
    lots: numbered(
      SHELF.map((l) => ({
        standard: l.standard,
        lot: l.lot,
        expiresOn: daysAgo(-l.expiresInDays).slice(0, 10),
        openedOn: l.openedDaysAgo === null ? null : daysAgo(l.openedDaysAgo),
        lifeAfterOpeningDays: l.keepsDays,
        volume: l.volume,
        storage: l.storage,
      })),
    ),
    instruments: [],
  }
}

/** A sensor with its visits as they were played. */
interface Played extends Story {
  installationId: number
}

type PlaceFacts = ReturnType<typeof factsOf>

/** What a visit of the day would have kept: what it was judged with, what was said, and what its record says. */
function documentsOf(visit: PastVisit, facts: PlaceFacts, before: readonly PastVisit[]) {
  const { setup, settings, entries, operator, progress, at } = visit
  const procedure = procedureOf(visit.procedure)
  const snapshot = snapshotOf(facts, { procedure, settings, setup, known: 'at its start' })
  const assessments = new Map(
    entries.flatMap(({ entry }, i) => {
      if (entry.type !== 'decided') return []
      const judged = resultAt(procedure, reduceVisit(procedure, setup, at, entries.slice(0, i)), entry.step)
      return judged ? [[i, storedAssessment(entry.step, judged, 'at its start')] as const] : []
    }),
  )
  const observed = before.findLast((v) => v.observation !== null)
  const left = observed?.observation && { at: observed.at, asLeft: observed.observation.asLeft }
  const lines = entries.map((line) => ({ ...line, operator }))
  const record = recordAfter(left || undefined, { procedure, setup, startedAt: at, progress, lines, snapshot })
  return { snapshot, assessments, record }
}

/** All visits and readings at once, by COPY: some forty thousand rows. */
async function writeHistory(db: Database, played: readonly Played[], now: number): Promise<void> {
  const visits = played.flatMap(({ installationId, history }) => history.map((v) => ({ ...v, installationId })))
  const [site] = await db.select().from(table.sites)
  const facts = new Map((await installedSensors(db)).map((i) => [i.installation.id, factsOf(i, site)]))
  const documents = new Map(
    played.flatMap(({ installationId, history }) =>
      history.map((visit, i) => [
        visit.id,
        documentsOf(visit, facts.get(installationId) as PlaceFacts, history.slice(0, i)),
      ]),
    ),
  )
  const closing = (v: PastVisit) => new Date((v.entries.at(-1) as { at: number }).at)
  await copyRows(
    db,
    table.visits,
    visits.map((v) => ({
      id: v.id,
      installationId: v.installationId,
      procedure: v.procedure,
      settings: v.settings,
      operator: v.operator,
      startedAt: new Date(v.at),
      closedAt: closing(v),
      outcome: 'done' as const,
      findings: v.findings,
      snapshot: documents.get(v.id)?.snapshot,
      record: documents.get(v.id)?.record,
    })),
  )
  await copyRows(
    db,
    table.visitEntries,
    visits.flatMap((v) =>
      v.entries.map(({ at, entry }, i) => ({
        visitId: v.id,
        seq: i + 1,
        at: new Date(at),
        operator: v.operator,
        entry,
        assessment: documents.get(v.id)?.assessments.get(i) ?? null,
      })),
    ),
  )
  const of = (v: (typeof visits)[number]) => ({ installationId: v.installationId, visitId: v.id, at: closing(v) })
  await copyRows(
    db,
    table.calibrations,
    visits.flatMap((v) => (v.calibration ? [{ ...of(v), ...v.calibration }] : [])),
  )
  await copyRows(
    db,
    table.driftObservations,
    visits.flatMap((v) => (v.observation ? [{ ...of(v), ...v.observation }] : [])),
  )
  const hours = played.flatMap((p) => hoursOf(p.installationId, readingsOf(p, now)))
  await copyRows(
    db,
    table.readingHours,
    hours.map((h) => h.packed),
  )
  const rolled = hours.map((h) => h.rolled)
  await copyRows(db, table.rollUps, rolled)
  await copyRows(db, table.rollUps, daysOf(rolled))
}

/** Readings as they are kept: by the hour, with what each hour comes to. */
function hoursOf(installationId: number, all: readonly Reading[]) {
  const byHour = new Map<number, Reading[]>()
  for (const reading of all) byHour.set(hourOf(reading.at), [...(byHour.get(hourOf(reading.at)) ?? []), reading])
  return [...byHour].map(([hour, of]) => ({
    packed: packedHour(installationId, hour, of),
    rolled: hourRollUp(installationId, hour, of),
  }))
}

const DAY_HOURS = 24

function daysOf(hours: readonly (typeof table.rollUps.$inferInsert)[]) {
  const byDay = new Map<string, (typeof table.rollUps.$inferInsert)[]>()
  for (const hour of hours) {
    const key = `${hour.installationId} ${Math.floor(hour.start / DAY_HOURS) * DAY_HOURS}`
    byDay.set(key, [...(byDay.get(key) ?? []), hour])
  }
  return [...byDay].map(([key, of]) => {
    const [installationId, day] = key.split(' ').map(Number) as [number, number]
    return dayRollUp(installationId, day, of)
  })
}

/** How many of the last days have a reading every half hour, and how often the time before has one, h. */
const CLOSE_DAYS = 32
const CLOSE_HOURS = 0.5
const FAR_HOURS = 12

/** Process readings as the device of the day would have shown them: two a day, and of late one every half hour. */
function readingsOf({ sensor, history, random }: Played, now: number): Reading[] {
  const rows: Reading[] = []
  const model = modelOf(sensor.kind)
  for (let day = -sensor.installedDaysAgo; day < 0; day += (day < -CLOSE_DAYS ? FAR_HOURS : CLOSE_HOURS) / DAY_HOURS) {
    const at = now + day * DAY_MS
    const adopted = history.findLast((v) => v.at <= at && v.calibration?.adopted)?.calibration
    const activeCalibration = adopted?.characteristic ?? model.ideal
    const bath = processAt(sensor, at)
    const { signal, temperature } = simulateSensor(truthAt(sensor, day), bath, random, 0).read(0)
    const shown = nullIfOutOfRange(() => model.toShown(signal, temperature, activeCalibration, sensor.device))
    // A device that is read by eye is looked at now and then.
    if (sensor.unit === null && Math.floor(2 * day) !== 2 * day) continue
    if (shown !== null)
      rows.push({ at, shown, signal: null, temperature, state: sensor.unit === null ? 'typed' : 'good' })
  }
  return rows
}
