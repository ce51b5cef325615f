import { isDeepStrictEqual } from 'node:util'
import type { ImportReport } from '@frustum/contract'
import { procedures, type SensorKind, sensorKinds } from '@frustum/core'
import { and, asc, eq } from 'drizzle-orm'
import { array, mixed, number, object, string, ValidationError } from 'yup'
import { checkDeviceSetting, checkEntry, checkVisitSettings } from '../database/columns.ts'
import type { Database, Transaction } from '../database/open.ts'
import { holds, isFlag, isNumber, isOneOf, isText, listOf, orNull, recordOf, shapeOf } from '../database/parsedJson.ts'
import * as table from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { sensorBySerial } from '../sensors.ts'
import { entryRecord, type PositionRecord, type RecordsDocument, type VisitRecord } from './exportRecords.ts'

const instant = () =>
  string()
    .required()
    .test('instant', 'No instant.', (v) => !Number.isNaN(Date.parse(v ?? '')))
const rows = () => array(mixed<Record<string, unknown>>().required()).required()

const isInstant = holds((v) => typeof v === 'string' && !Number.isNaN(Date.parse(v)), 'instant')
const parameters = recordOf(isNumber)

/** What the rows of a file must be for the database to hold them, and for every page to read them. */
const checkContents = shapeOf({
  positions: listOf(
    shapeOf({
      position: shapeOf({
        spot: isText,
        processValue: isNumber,
        processTemperature: isNumber,
        tolerance: isNumber,
        floorDays: isNumber,
        ceilingDays: isNumber,
        cautions: listOf(isText),
      }),
      device: shapeOf({
        name: isText,
        shows: isOneOf('signal', 'value'),
        writable: isFlag,
        setting: checkDeviceSetting,
      }),
    }),
  ),
  visits: listOf(
    shapeOf({
      settings: checkVisitSettings,
      entries: listOf(shapeOf({ seq: isNumber, at: isInstant, operator: isText, entry: checkEntry })),
      calibrations: listOf(
        shapeOf({
          at: isInstant,
          characteristic: parameters,
          uncertainty: parameters,
          adopted: isFlag,
          baseline: isFlag,
        }),
      ),
      observations: listOf(
        shapeOf({
          at: isInstant,
          asFound: orNull(isNumber),
          asLeft: isNumber,
          uncertainty: isNumber,
          fouling: orNull(isNumber),
          adjusted: isFlag,
        }),
      ),
      corrections: listOf(shapeOf({ at: isInstant, operator: isText, text: isText })),
    }),
  ),
})

const unreadable = (why: string) =>
  new Problem(400, 'unreadable-records', why, {
    detail: 'Nothing was taken in.',
    hint: 'Choose a JSON file that was exported from a Ledger.',
  })

const documentSchema = object({
  format: mixed<'frustum-records'>()
    .oneOf(['frustum-records'], 'This is no file of Frustum records.')
    .required('This is no file of Frustum records.'),
  version: number().oneOf([1], 'These records are of a newer version than this program reads.').required(),
  site: object({ name: string().required(), timeZone: string().required() }).required(),
  positions: array(
    object({
      code: string().required(),
      place: object({ name: string().required(), water: string().required() }).required(),
      position: object({
        kind: string()
          .test('kind', 'There is no such kind of sensor.', (kind) => sensorKinds().some((k) => k === kind))
          .required(),
      }).required(),
      device: object().required(),
    }),
  ).required(),
  visits: array(
    object({
      id: string().uuid().required(),
      position: string().required(),
      sensor: object({
        serialNumber: string().defined(),
        kind: string().required(),
        model: string().defined(),
      }).required(),
      installedAt: instant(),
      procedure: string()
        .test('procedure', 'There is no such procedure.', (id) => procedures().some((p) => p.id === id))
        .required(),
      operator: string().required(),
      startedAt: instant(),
      closedAt: instant(),
      outcome: string().oneOf(['done', 'abandoned']).required(),
      findings: array(string().required()).nullable(),
      entries: rows(),
      calibrations: rows(),
      observations: rows(),
      corrections: rows(),
    }),
  ).required(),
})

/** Takes records in. What is known already stays; what contradicts it is refused by name; nothing is overwritten. */
export async function importRecords(db: Database, body: unknown): Promise<ImportReport> {
  try {
    await documentSchema.validate(body, { strict: true })
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    throw unreadable(error.message)
  }
  const wrong = checkContents(body)
  if (wrong !== null) throw unreadable(`The file is not whole: ${wrong}.`)
  const document = body as RecordsDocument
  const report: ImportReport = { added: 0, known: 0, refused: [] }
  await db.transaction(async (tx) => {
    await ensureSite(tx, document.site)
    for (const visit of document.visits) {
      const [known] = await tx.select().from(table.visits).where(eq(table.visits.id, visit.id))
      if (known) {
        const why = await contradiction(tx, visit)
        if (why) report.refused.push({ visit: visit.id, why })
        else report.known++
        continue
      }
      const place = document.positions.find((p) => p.code === visit.position)
      if (!place) {
        report.refused.push({ visit: visit.id, why: `The file does not say what ${visit.position} is.` })
        continue
      }
      await insertVisit(tx, visit, await ensureInstallation(tx, visit, place))
      report.added++
    }
  })
  return report
}

async function contradiction(tx: Transaction, visit: VisitRecord): Promise<string | null> {
  const entries = await tx
    .select()
    .from(table.visitEntries)
    .where(eq(table.visitEntries.visitId, visit.id))
    .orderBy(asc(table.visitEntries.seq))
  const same = isDeepStrictEqual(entries.map(entryRecord), visit.entries)
  return same ? null : 'A visit of this number is here already, with another record. The one that is here stays.'
}

async function ensureSite(tx: Transaction, site: RecordsDocument['site']): Promise<void> {
  const [known] = await tx.select().from(table.sites)
  if (!known) await tx.insert(table.sites).values(site)
}

const date = (text: unknown) => new Date(String(text))
/** Rows as the database takes them: instants as dates. */
const revived = (row: unknown) => {
  const copy = { ...(row as Record<string, unknown>) }
  if (copy.at !== undefined) copy.at = date(copy.at)
  return copy
}

async function ensureInstallation(tx: Transaction, visit: VisitRecord, record: PositionRecord): Promise<number> {
  const installedAt = date(visit.installedAt)
  const [found] = await tx
    .select({ id: table.installations.id })
    .from(table.installations)
    .innerJoin(table.positions, eq(table.installations.positionId, table.positions.id))
    .innerJoin(table.sensors, eq(table.installations.sensorId, table.sensors.id))
    .where(
      and(
        eq(table.positions.code, visit.position),
        eq(table.sensors.serialNumber, visit.sensor.serialNumber),
        eq(table.installations.installedAt, installedAt),
      ),
    )
  if (found) return found.id
  const positionId = await ensurePosition(tx, record)
  const known = await sensorBySerial(tx, visit.sensor.serialNumber, visit.sensor.kind as SensorKind)
  const sensor = known?.sensor ?? (await tx.insert(table.sensors).values(visit.sensor).returning())[0]
  // Records come from elsewhere: the line to the device is not taken over with them.
  const [device] = await tx
    .insert(table.devices)
    .values({ ...(record.device as typeof table.devices.$inferInsert), link: null })
    .returning()
  const [made] = await tx
    .insert(table.installations)
    .values({
      sensorId: (sensor as { id: number }).id,
      positionId,
      deviceId: (device as { id: number }).id,
      installedAt,
      removedAt: visit.removedAt ? date(visit.removedAt) : null,
    })
    .returning()
  return (made as { id: number }).id
}

async function ensurePosition(tx: Transaction, record: PositionRecord): Promise<number> {
  const [known] = await tx.select().from(table.positions).where(eq(table.positions.code, record.code))
  if (known) return known.id
  const [site] = await tx.select().from(table.sites)
  const [place] = await tx.select().from(table.places).where(eq(table.places.name, record.place.name))
  const placeId =
    place?.id ??
    (
      (await tx
        .insert(table.places)
        .values({ siteId: (site as { id: number }).id, ...record.place })
        .returning()) as { id: number }[]
    )[0]?.id
  const [made] = await tx
    .insert(table.positions)
    .values({
      ...(record.position as typeof table.positions.$inferInsert),
      code: record.code,
      placeId: placeId as number,
    })
    .returning()
  return (made as { id: number }).id
}

async function insertVisit(tx: Transaction, visit: VisitRecord, installationId: number): Promise<void> {
  await tx.insert(table.visits).values({
    id: visit.id,
    installationId,
    procedure: visit.procedure,
    settings: visit.settings as typeof table.visits.$inferInsert.settings,
    operator: visit.operator,
    startedAt: date(visit.startedAt),
    closedAt: date(visit.closedAt),
    outcome: visit.outcome as 'done' | 'abandoned',
    findings: (visit.findings ?? null) as typeof table.visits.$inferInsert.findings,
  })
  const own = { visitId: visit.id }
  const put = async (into: Parameters<Transaction['insert']>[0], list: unknown[], more: object) => {
    if (list.length > 0) await tx.insert(into).values(list.map((row) => ({ ...revived(row), ...more })) as never)
  }
  await put(table.visitEntries, visit.entries, own)
  await put(table.calibrations, visit.calibrations, { ...own, installationId })
  await put(table.driftObservations, visit.observations, { ...own, installationId })
  await put(table.corrections, visit.corrections, own)
}
