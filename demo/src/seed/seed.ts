import {
  DAY_MS,
  modelOf,
  nullIfOutOfRange,
  procedureOf,
  randomStream,
  reduceVisit,
  resultAt,
  simulateSensor,
} from '@frustum/core'
import {
  type Database,
  factsOf,
  installedSensors,
  recordAfter,
  snapshotOf,
  storedAssessment,
  tables as table,
} from '@frustum/server/extending'
import { isNotNull, sql } from 'drizzle-orm'
import type { FleetSensor } from '../fleet/fleetSensor.ts'
import { CONSUMABLES, fleet, OPERATORS, PLACES, processAt, SITE, truthAt } from '../pellwick.ts'
import { SHELF } from '../shelf.ts'
import { copyRows } from './copyRows.ts'
import { type PastVisit, playHistory } from './history.ts'

const SEED = 20170

/**
 * Fills an empty database with Pellwick Shore Station and 18 months of visits that end today. A database that holds a
 * site already is left as it is, but for the port on which the stand-ins listen this time.
 */
export async function seedDemo(
  db: Database,
  { standInPort, stories, onProgress }: Seeding & { standInPort: number },
): Promise<void> {
  const [known] = await db.select().from(table.sites)
  if (!known) await inTransaction(db, () => seedSite(db, stories(), onProgress))
  await db
    .update(table.devices)
    .set({ link: sql`jsonb_set(${table.devices.link}, '{port}', ${standInPort}::text::jsonb)` })
    .where(isNotNull(table.devices.link))
}

interface Seeding {
  /** Asked for only where there is no site yet. */
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

async function seedSite(tx: Database, { now, sensors }: Stories, onProgress: (what: string) => void): Promise<void> {
  const site = await insertOne(tx, table.sites, SITE)
  await tx.insert(table.operators).values(OPERATORS.map((name) => ({ siteId: site.id, name })))
  const placeIds = new Map<string, number>()
  for (const { key, name, water } of PLACES) {
    placeIds.set(key, (await insertOne(tx, table.places, { siteId: site.id, name, water })).id)
  }
  await seedShelf(tx, now)
  await tx.insert(table.consumables).values(
    CONSUMABLES.map((c) => ({
      placeId: placeIds.get(c.place) as number,
      name: c.name,
      everyDays: c.everyDays,
      since: new Date(now - c.renewedDaysAgo * DAY_MS),
    })),
  )
  onProgress('Writing the records')
  const played: Played[] = []
  for (const story of sensors) {
    const { sensor } = story
    played.push({ ...story, installationId: await seedSensor(tx, sensor, placeIds.get(sensor.place) as number, now) })
  }
  await writeHistory(tx, played, now)
}

/** Animals and what people drink weigh most, product and crop less. */
const consequenceOf = (sensor: FleetSensor): number =>
  sensor.place === 'cuttlefish' || sensor.authority ? 3 : sensor.kind === 'temperature' ? 1 : 2

async function seedShelf(tx: Database, now: number): Promise<void> {
  for (const lot of SHELF) {
    const { id } = await insertOne(tx, table.solutionLots, {
      standard: lot.standard,
      lot: lot.lot,
      expiresOn: new Date(now + lot.expiresInDays * DAY_MS),
      openedOn: lot.openedDaysAgo === null ? null : new Date(now - lot.openedDaysAgo * DAY_MS),
      lifeAfterOpeningDays: lot.keepsDays,
      ownTable: null,
      volume: lot.volume,
      storage: lot.storage,
    })
    if (lot.left < lot.volume) {
      await tx.insert(table.solutionUses).values({
        lotId: id,
        at: new Date(now - (lot.openedDaysAgo ?? 0) * DAY_MS),
        milliliters: lot.volume - lot.left,
        operator: OPERATORS[0] as string,
        reason: 'poured so far',
      })
    }
  }
}

async function seedSensor(tx: Database, sensor: FleetSensor, placeId: number, now: number): Promise<number> {
  const device = await insertOne(tx, table.devices, {
    name: `Transmitter at ${sensor.spot}`,
    shows: sensor.shows,
    writable: sensor.writable,
    adjustsBy: sensor.ownKey ? 'key' : 'numbers',
    calibrationKey: sensor.ownKey ?? 'CAL',
    setting: sensor.device,
    link: sensor.unit === null ? null : { kind: 'modbus-tcp', host: '127.0.0.1', port: 1, unit: sensor.unit },
  })
  const position = await insertOne(tx, table.positions, {
    placeId,
    deviceId: device.id,
    code: sensor.code,
    spot: sensor.spot,
    kind: sensor.kind,
    processValue: sensor.process.value,
    processTemperature: sensor.process.temperature,
    tolerance: sensor.tolerance,
    floorDays: 7,
    ceilingDays: sensor.ceilingDays,
    consequence: consequenceOf(sensor),
    checkFirst: sensor.checkFirst ?? 'when-sound',
    cautions: sensor.cautions,
    authorityRule: sensor.authority?.rule ?? null,
    authorityDays: sensor.authority?.days ?? null,
    body: sensor.body ?? null,
    water: sensor.water ?? null,
  })
  const probe = await insertOne(tx, table.sensors, {
    serialNumber: sensor.serial,
    kind: sensor.kind,
    model: sensor.model,
  })
  const installation = await insertOne(tx, table.installations, {
    sensorId: probe.id,
    positionId: position.id,
    deviceId: device.id,
    installedAt: new Date(now - sensor.installedDaysAgo * DAY_MS),
  })
  if (sensor.events.length > 0) {
    await tx.insert(table.events).values(
      sensor.events.map((e) => ({
        installationId: installation.id,
        at: new Date(now - e.daysAgo * DAY_MS),
        kind: e.kind,
        note: e.note,
      })),
    )
  }
  return installation.id
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
  await copyRows(
    db,
    table.readings,
    played.flatMap((p) => readingsOf(p, now)),
  )
}

/** Two process readings a day, as the device of the day would have shown them. */
function readingsOf({ installationId, sensor, history, random }: Played, now: number) {
  const rows: (typeof table.readings.$inferInsert)[] = []
  const model = modelOf(sensor.kind)
  for (let day = -sensor.installedDaysAgo; day < 0; day += 0.5) {
    const at = now + day * DAY_MS
    const adopted = history.findLast((v) => v.at <= at && v.calibration?.adopted)?.calibration
    const activeCalibration = adopted?.characteristic ?? model.ideal
    const bath = processAt(sensor, at)
    const { signal, temperature } = simulateSensor(truthAt(sensor, day), bath, random, 0).read(0)
    const shown = nullIfOutOfRange(() => model.toShown(signal, temperature, activeCalibration, sensor.device))
    if (shown !== null) rows.push({ installationId, at: new Date(at), shown, signal: null, temperature })
  }
  return rows
}

async function insertOne<
  T extends
    | typeof table.sites
    | typeof table.places
    | typeof table.positions
    | typeof table.devices
    | typeof table.sensors
    | typeof table.installations
    | typeof table.solutionLots,
>(tx: Database, into: T, values: T['$inferInsert']): Promise<{ id: number }> {
  const [row] = await tx
    .insert(into)
    .values(values as never)
    .returning({ id: into.id })
  return row as { id: number }
}
