import { type CalendarDay, type InstrumentBody, type InstrumentView, noonOf } from '@frustum/contract'
import { type FieldSpec, type FormValues, type Instrument, kindOf, modelOf, type SensorKind } from '@frustum/core'
import { and, asc, eq, inArray, isNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { driftObservations, installations, instruments, sensors } from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { siteCalendar } from '../zone.ts'

/** Hand meters, thermometers, kits and simulators of the site, each as it was noted last, by name. */
export async function knownInstruments(db: Database): Promise<InstrumentView[]> {
  const { timeZone } = await siteCalendar(db, 0)
  const rows = await db.select().from(instruments).orderBy(asc(instruments.id))
  const newest = new Map(rows.map((row) => [`${row.kind} ${row.name} ${row.serial}`, viewOf(row, timeZone)]))
  return [...newest.values(), ...(await travellingSensors(db))].sort((a, b) => a.name.localeCompare(b.name))
}

/** A travelling sensor is no row of the instruments: it has the number of its sensor, below zero. */
const travelling = (sensorId: number) => -sensorId

/** Sensors that are carried along to check others, each as good as its last calibration left it. */
async function travellingSensors(db: Database): Promise<InstrumentView[]> {
  const carried = await db
    .select()
    .from(sensors)
    .where(and(eq(sensors.travels, true), isNull(sensors.archivedAt)))
  if (carried.length === 0) return []
  const found = await db
    .select({ sensorId: installations.sensorId, at: driftObservations.at, uncertainty: driftObservations.uncertainty })
    .from(driftObservations)
    .innerJoin(installations, eq(driftObservations.installationId, installations.id))
    .where(
      inArray(
        installations.sensorId,
        carried.map((s) => s.id),
      ),
    )
    .orderBy(asc(driftObservations.at))
  const last = new Map(found.map((f) => [f.sensorId, f]))
  return carried.map(({ id, kind, serialNumber }) => ({
    id: travelling(id),
    sensorId: id,
    kind: 'hand-meter' as const,
    name: `Travelling check, ${kindOf(kind as SensorKind).short}`,
    serial: serialNumber,
    calibratedAt: last.get(id)?.at.getTime() ?? null,
    uncertainty: last.get(id)?.uncertainty ?? null,
    unit: last.has(id) ? modelOf(kind as SensorKind).errorScale.unit : '',
  }))
}

/** Records keep an instant of its calibration: the middle of that day. */
const viewOf = (
  { id, kind, name, serial, calibratedOn, uncertainty, unit }: typeof instruments.$inferSelect,
  timeZone: string,
): InstrumentView => ({
  id,
  kind,
  name,
  serial,
  calibratedAt: calibratedOn && noonOf(calibratedOn, timeZone),
  uncertainty,
  unit,
})

/** Notes an instrument; noted again under its name and number it is the newer word on it, and the older stays. */
export async function addInstrument(db: Database, body: InstrumentBody, now: Date): Promise<void> {
  const calibratedOn = (body.calibratedOn || null) as CalendarDay | null
  const { today } = await siteCalendar(db, now.getTime())
  if (calibratedOn && calibratedOn > today) {
    const message = 'Choose today or an earlier day.'
    throw new Problem(400, 'invalid', message, { fields: { calibratedOn: message } })
  }
  const { operator, kind, name, serial, uncertainty, unit } = body
  await db.insert(instruments).values({
    kind,
    name,
    serial: serial ?? '',
    calibratedOn,
    uncertainty: uncertainty ?? null,
    unit: uncertainty === undefined ? '' : (unit ?? ''),
    addedAt: now,
    addedBy: operator,
  })
}

async function chosenOne(db: Database, id: string): Promise<InstrumentView | undefined> {
  if (/^-\d{1,9}$/.test(id)) return (await travellingSensors(db)).find((t) => t.id === Number(id))
  const rows = /^\d{1,9}$/.test(id)
    ? await db
        .select()
        .from(instruments)
        .where(eq(instruments.id, Number(id)))
    : []
  return rows[0] && viewOf(rows[0], (await siteCalendar(db, 0)).timeZone)
}

/** The instruments that were chosen in a form, as they are now: the record keeps them so. */
export async function chosenInstruments(
  db: Database,
  fields: readonly FieldSpec[],
  values: FormValues,
): Promise<{ values: FormValues; instruments?: Record<string, Instrument> }> {
  const chosen: Record<string, Instrument> = {}
  const named: Record<string, string> = {}
  for (const { key, kind, instruments: kinds } of fields) {
    const id = values[key]
    if (kind !== 'instrument' || id === undefined) continue
    const row = await chosenOne(db, String(id))
    if (!row || !kinds?.includes(row.kind)) {
      const message = 'Choose one of the list, or add it by its name.'
      throw new Problem(400, 'invalid', message, { fields: { [key]: message } })
    }
    const { id: _, sensorId: __, ...instrument } = row
    chosen[key] = instrument
    named[key] = instrument.serial ? `${instrument.name}, ${instrument.serial}` : instrument.name
  }
  if (Object.keys(chosen).length === 0) return { values }
  return { values: { ...values, ...named }, instruments: chosen }
}
