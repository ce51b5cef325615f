import type { LedgerRow, RecordView } from '@frustum/contract'
import { type CapturedReading, type ClosedRecord, isFromList, kindOf } from '@frustum/core'
import { and, asc, count, desc, eq, inArray, isNotNull, lt } from 'drizzle-orm'
import { partOf } from '../database/canonicalJson.ts'
import type { Database } from '../database/open.ts'
import type { StoredSnapshot } from '../database/recordColumns.ts'
import { corrections, visitEntries, visits } from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { recordFrom } from '../records/closing.ts'
import { openVisit } from '../records/openVisit.ts'
import { isWholeRecord } from '../records/takenIn.ts'
import { withoutTrace } from '../records/withoutTrace.ts'

const PAGE = 100

/** Closed visits, newest first, a page at a time, as they were written down. */
export async function ledger(db: Database, before: Date | null): Promise<LedgerRow[]> {
  // Found first and read then: else the documents of all visits would be read for the sake of a page.
  const page = db
    .select({ id: visits.id })
    .from(visits)
    .where(and(isWholeRecord, before ? lt(visits.closedAt, before) : isNotNull(visits.closedAt)))
    .orderBy(desc(visits.closedAt))
    .limit(PAGE)
  const rows = await db
    .select({
      id: visits.id,
      startedAt: visits.startedAt,
      closedAt: visits.closedAt,
      operator: visits.operator,
      outcome: visits.outcome,
      procedure: visits.procedure,
      position: partOf<string>(visits.snapshot, 'position', 'code'),
      place: partOf<string>(visits.snapshot, 'place', 'name'),
      serialNumber: partOf<string>(visits.snapshot, 'sensor', 'serialNumber'),
      name: partOf<string>(visits.record, 'procedureName'),
      work: partOf<ClosedRecord['work']>(visits.record, 'work'),
      asFound: partOf<ClosedRecord['asFound']>(visits.record, 'asFound'),
      asLeft: partOf<ClosedRecord['asLeft']>(visits.record, 'asLeft'),
    })
    .from(visits)
    .where(inArray(visits.id, page))
    .orderBy(desc(visits.closedAt))
  const corrected = new Map(
    (await db.select({ id: corrections.visitId, n: count() }).from(corrections).groupBy(corrections.visitId)).map(
      (c) => [c.id, c.n],
    ),
  )
  const unreadable = await unreadableVisits(
    db,
    rows.map((r) => r.id),
  )
  return rows.map(({ startedAt, closedAt, procedure, position, place, serialNumber, name, ...row }) => ({
    ...row,
    at: (closedAt ?? startedAt).getTime(),
    fromList: isFromList(procedure),
    position: position ?? '',
    place: place ?? '',
    serialNumber: serialNumber ?? '',
    name: name ?? procedure,
    corrections: corrected.get(row.id) ?? 0,
    unreadable: unreadable.has(row.id),
  }))
}

/** Which of these visits have a line that this version cannot read. */
async function unreadableVisits(db: Database, ids: readonly string[]): Promise<ReadonlySet<string>> {
  const lines = await db
    .select({ id: visitEntries.visitId, entry: withoutTrace })
    .from(visitEntries)
    .where(inArray(visitEntries.visitId, [...ids]))
  return new Set(lines.flatMap(({ id, entry }) => (entry.type === 'unreadable' ? [id] : [])))
}

/** One visit as a page: everything that was read, concluded, decided and said. An open one as far as it has come. */
export async function recordOf(db: Database, id: string): Promise<RecordView> {
  const opened = await openVisit(db, id)
  const { row, snapshot, lines } = opened
  const noted = await db.select().from(corrections).where(eq(corrections.visitId, id)).orderBy(asc(corrections.id))
  const readings: Record<number, CapturedReading> = {}
  lines.forEach(({ entry }, i) => {
    if (entry.type === 'captured') readings[i + 1] = entry.reading
  })
  const record = row.record ?? (await recordFrom(db, opened))
  return {
    ...heading(snapshot),
    verdict: verdictOf(record, snapshot),
    fromList: isFromList(row.procedure),
    id,
    operator: row.operator,
    startedAt: row.startedAt.getTime(),
    closedAt: row.closedAt?.getTime() ?? null,
    outcome: row.outcome,
    record,
    entries: Object.fromEntries(lines.map(({ entry }, i) => [i + 1, entry])),
    readings,
    corrections: noted.map((c) => ({ at: c.at.getTime(), operator: c.operator, text: c.text })),
  }
}

/** Whether what was found was allowed when the visit began. */
function verdictOf({ asFound }: ClosedRecord, { setup }: StoredSnapshot): RecordView['verdict'] {
  if (!asFound) return null
  return Math.abs(asFound.value) <= setup.tolerance ? 'in tolerance' : 'out of tolerance'
}

function heading({ site, place, position, device, sensor, setup, known }: StoredSnapshot) {
  const { model, settingText } = kindOf(setup.kind)
  const { unit, decimals } = model.errorScale
  return {
    quantity: model.quantity(setup.device),
    device: device.name,
    setting: settingText(setup.device),
    tolerance: { value: setup.tolerance, unit, decimals, difference: true } as const,
    site,
    position: position.code,
    place: place.name,
    spot: position.spot,
    serialNumber: sensor.serialNumber,
    model: sensor.model,
    known,
  }
}

/** What is to be read instead. The record itself stays as it was written. */
export async function addCorrection(
  db: Database,
  id: string,
  { operator, text }: { operator: string; text: string },
  now: number,
): Promise<RecordView> {
  const { row } = await openVisit(db, id)
  if (!row.closedAt) {
    throw new Problem(409, 'still-open', 'This visit is still open.', { hint: 'Take the step again on the Bench.' })
  }
  await db.insert(corrections).values({ visitId: id, at: new Date(now), operator, text })
  return recordOf(db, id)
}
