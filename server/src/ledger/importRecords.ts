import { createHash } from 'node:crypto'
import { isDeepStrictEqual } from 'node:util'
import type { ImportReport } from '@frustum/contract'
import type { SensorKind } from '@frustum/core'
import { and, asc, eq, isNull, or, sql } from 'drizzle-orm'
import { withDocument } from '../bring/document.ts'
import { lookedAtUnless } from '../bring/lookedAt.ts'
import type { Database, Transaction } from '../database/open.ts'
import type { PlaceFacts } from '../database/recordColumns.ts'
import * as table from '../database/schema.ts'
import { completeRecords } from '../records/complete.ts'
import { currentCode, sensorBySerial } from '../sensors.ts'
import { entryRecord, linesAsWritten, type RecordsDocument } from './exportRecords.ts'
import { RECORD_MEMBERS, readRecordsHeading, type VisitToTake } from './recordsFile.ts'

/** More than a site of hundreds of sensors makes in decades. */
const MOST_VISITS = 100_000

interface Importing {
  operator: string
  at: Date
  fileName: string
  /** Only looked at unless it is to be taken in. */
  take: boolean
}

/**
 * Takes records in, all that are whole or nothing. What is known already stays; what contradicts it is refused by name;
 * nothing is overwritten.
 * @throws Problem for a file that cannot be read
 */
export async function importRecords(
  db: Database,
  file: Buffer,
  { operator, at, fileName, take }: Importing,
): Promise<ImportReport> {
  const sha256 = createHash('sha256').update(file).digest('hex')
  const report: ImportReport = { added: 0, known: 0, refused: [] }
  const document = { lists: { visits: MOST_VISITS }, members: RECORD_MEMBERS }
  await withDocument(file, document, ({ members, lists, parts }) =>
    lookedAtUnless(take, db, async (tx) => {
      const heading = await readRecordsHeading({ ...members, ...(lists.length > 0 ? { visits: [] } : {}) })
      await ensureSite(tx, heading.site)
      let number = 0
      for await (const { elements } of parts) {
        for (const element of elements) await takeVisit(tx, await heading.visit(element, ++number), report)
      }
      await completeRecords(tx)
      await tx.insert(table.imports).values({ operator, at, what: 'records', fileName, sha256, report, doneAt: at })
    }),
  )
  return report
}

async function takeVisit(tx: Transaction, visit: VisitToTake, report: ImportReport): Promise<void> {
  const [known] = await tx.select({ id: table.visits.id }).from(table.visits).where(eq(table.visits.id, visit.id))
  if (known) {
    const why = await contradiction(tx, visit)
    if (why) report.refused.push({ visit: visit.id, why })
    else report.known++
    return
  }
  if (!visit.facts) {
    report.refused.push({ visit: visit.id, why: 'The file does not say what its position is.' })
    return
  }
  await insertVisit(tx, visit, await ensureInstallation(tx, visit, visit.facts))
  report.added++
}

async function contradiction(tx: Transaction, visit: VisitToTake): Promise<string | null> {
  const entries = await tx
    .select(linesAsWritten)
    .from(table.visitEntries)
    .where(eq(table.visitEntries.visitId, visit.id))
    .orderBy(asc(table.visitEntries.seq))
  // What was said of a line may have been worked out later; the lines themselves are the record.
  const bare = (line: unknown) => ({ ...(line as object), assessment: undefined })
  const same = isDeepStrictEqual(entries.map(entryRecord).map(bare), visit.entries.map(bare))
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

async function ensureInstallation(tx: Transaction, { removedAt }: VisitToTake, facts: PlaceFacts): Promise<number> {
  const installedAt = date(facts.installedAt)
  const [found] = await tx
    .select({ id: table.installations.id })
    .from(table.installations)
    .innerJoin(table.positions, eq(table.installations.positionId, table.positions.id))
    .innerJoin(table.sensors, eq(table.installations.sensorId, table.sensors.id))
    .where(
      and(
        eq(table.positions.code, await currentCode(tx, facts.position.code)),
        eq(table.sensors.serialNumber, facts.sensor.serialNumber),
        // A sensor that is there still is that one, although more of its past may be known here by now.
        or(
          eq(table.installations.installedAt, installedAt),
          removedAt === null ? isNull(table.installations.removedAt) : undefined,
        ),
      ),
    )
  if (found) return found.id
  const known = await sensorBySerial(tx, facts.sensor.serialNumber, facts.sensor.kind as SensorKind)
  const sensor = known?.sensor ?? (await tx.insert(table.sensors).values(facts.sensor).returning())[0]
  // Records come from elsewhere: the line to the device is not taken over with them.
  const [device] = await tx
    .insert(table.devices)
    .values({ ...(facts.device as typeof table.devices.$inferInsert), connectionId: null, address: {} })
    .returning()
  const deviceId = (device as { id: number }).id
  const positionId = await ensurePosition(tx, facts, deviceId)
  const [made] = await tx
    .insert(table.installations)
    .values({
      sensorId: (sensor as { id: number }).id,
      positionId,
      deviceId,
      installedAt,
      removedAt: removedAt ? date(removedAt) : null,
    })
    .returning()
  return (made as { id: number }).id
}

async function ensurePosition(tx: Transaction, { position, place: at }: PlaceFacts, deviceId: number): Promise<number> {
  const [known] = await tx
    .select()
    .from(table.positions)
    .where(eq(table.positions.code, await currentCode(tx, position.code)))
  if (known) return known.id
  const [site] = await tx.select().from(table.sites)
  const [place] = await tx.select().from(table.places).where(eq(table.places.name, at.name))
  const placeId =
    place?.id ??
    (
      (await tx
        .insert(table.places)
        .values({ siteId: (site as { id: number }).id, ...at })
        .returning()) as { id: number }[]
    )[0]?.id
  const [made] = await tx
    .insert(table.positions)
    .values({
      ...(position as unknown as typeof table.positions.$inferInsert),
      placeId: placeId as number,
      deviceId,
    })
    .returning()
  return (made as { id: number }).id
}

async function insertVisit(tx: Transaction, visit: VisitToTake, installationId: number): Promise<void> {
  await tx.insert(table.visits).values({
    id: visit.id,
    installationId,
    procedure: visit.procedure,
    settings: visit.settings,
    operator: visit.operator,
    startedAt: date(visit.startedAt),
    closedAt: date(visit.closedAt),
    outcome: visit.outcome as 'done' | 'abandoned',
    findings: visit.findings as typeof table.visits.$inferInsert.findings,
    snapshot: visit.snapshot,
    record: visit.record,
  })
  const own = { visitId: visit.id }
  const put = async (into: Parameters<Transaction['insert']>[0], list: unknown[], more: object) => {
    if (list.length > 0) await tx.insert(into).values(list.map((row) => ({ ...revived(row), ...more })) as never)
  }
  // Lines go in as they were written, of whatever version they are.
  const asWritten = ({ entry, ...line }: { entry: unknown }) => ({
    ...line,
    entry: sql`${JSON.stringify(entry)}::jsonb`,
  })
  await put(
    table.visitEntries,
    visit.entries.map((line) => asWritten(line as { entry: unknown })),
    own,
  )
  await put(table.calibrations, visit.calibrations, { ...own, installationId })
  await put(table.driftObservations, visit.observations, { ...own, installationId })
  await put(table.corrections, visit.corrections, own)
}
