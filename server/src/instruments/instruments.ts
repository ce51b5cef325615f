import type { InstrumentBody, InstrumentView } from '@frustum/contract'
import type { FieldSpec, FormValues, Instrument } from '@frustum/core'
import { asc, eq } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { instruments } from '../database/schema.ts'
import { Problem } from '../problem.ts'

/** Hand meters, thermometers, kits and simulators of the site, each as it was noted last, by name. */
export async function knownInstruments(db: Database): Promise<InstrumentView[]> {
  const rows = await db.select().from(instruments).orderBy(asc(instruments.id))
  const newest = new Map(rows.map((row) => [`${row.kind} ${row.name} ${row.serial}`, viewOf(row)]))
  return [...newest.values()].sort((a, b) => a.name.localeCompare(b.name))
}

const viewOf = ({
  id,
  kind,
  name,
  serial,
  calibratedAt,
  uncertainty,
  unit,
}: typeof instruments.$inferSelect): InstrumentView => ({
  id,
  kind,
  name,
  serial,
  calibratedAt: calibratedAt?.getTime() ?? null,
  uncertainty,
  unit,
})

/** Notes an instrument; noted again under its name and number it is the newer word on it, and the older stays. */
export async function addInstrument(db: Database, body: InstrumentBody, now: Date): Promise<void> {
  const calibratedAt = body.calibratedOn ? new Date(`${body.calibratedOn}T12:00:00Z`) : null
  if (calibratedAt && (Number.isNaN(calibratedAt.getTime()) || calibratedAt.getTime() > now.getTime() + 86_400_000)) {
    const message = 'Choose a day that has been.'
    throw new Problem(400, 'invalid', message, { fields: { calibratedOn: message } })
  }
  const { operator, kind, name, serial, uncertainty, unit } = body
  await db.insert(instruments).values({
    kind,
    name,
    serial: serial ?? '',
    calibratedAt,
    uncertainty: uncertainty ?? null,
    unit: uncertainty === undefined ? '' : (unit ?? ''),
    addedAt: now,
    addedBy: operator,
  })
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
    const [row] = /^\d{1,9}$/.test(String(id))
      ? await db
          .select()
          .from(instruments)
          .where(eq(instruments.id, Number(id)))
      : []
    if (!row || !kinds?.includes(row.kind)) {
      const message = 'Choose one of the list, or add it by its name.'
      throw new Problem(400, 'invalid', message, { fields: { [key]: message } })
    }
    const { id: _, ...instrument } = viewOf(row)
    chosen[key] = instrument
    named[key] = instrument.serial ? `${instrument.name}, ${instrument.serial}` : instrument.name
  }
  if (Object.keys(chosen).length === 0) return { values }
  return { values: { ...values, ...named }, instruments: chosen }
}
