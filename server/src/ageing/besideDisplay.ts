import { difference, modelOf, type RecordedVisit, type Sentence, say } from '@frustum/core'
import { and, asc, eq, inArray, isNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { referenceValues, takenBack } from '../database/schema.ts'
import type { Installed } from '../sensors.ts'

/** What was read beside a display, without a visit. */
interface BesideValue {
  id: number
  at: number
  /** Displayed minus reference, in the unit that was shown; and in the unit of errors with its 95 % half-width. */
  apart: number
  unit: string
  error: number
  uncertainty: number
  readWith: string
}

/** Oldest first, by installation; without those that were taken back. */
export async function referenceValuesOf(
  db: Database,
  installationIds: readonly number[],
): Promise<Map<number, BesideValue[]>> {
  const found = new Map<number, BesideValue[]>()
  if (installationIds.length === 0) return found
  const { installationId: of, at: readAt } = referenceValues
  const rows = await db
    .select()
    .from(referenceValues)
    .leftJoin(takenBack, and(eq(takenBack.installationId, of), eq(takenBack.readAt, readAt)))
    .where(and(inArray(of, [...installationIds]), isNull(takenBack.id)))
    .orderBy(asc(readAt))
  for (const { reference_values: row } of rows) {
    const { id, installationId, at, shown, reference, unit, error, errorUncertainty, readWith } = row
    const value = {
      id,
      at: at.getTime(),
      apart: shown - reference,
      unit,
      error,
      uncertainty: errorUncertainty,
      readWith,
    }
    found.set(installationId, [...(found.get(installationId) ?? []), value])
  }
  return found
}

/** The same as the forecast sees it. */
export const besideObservation = ({ id, at, error, uncertainty }: BesideValue): RecordedVisit => ({
  id: `beside ${id}`,
  at,
  asFound: error,
  asLeft: error,
  uncertainty,
  adjusted: false,
  beside: true,
})

/** Whether it is farther off than both may be: the sensor by half its tolerance, the reference by what it is good for. */
export const disagrees = ({ position }: Installed, { error, uncertainty }: BesideValue): boolean =>
  Math.abs(error) > Math.hypot(position.tolerance / 2, uncertainty)

export function besideWords({ position, device }: Installed, { apart, unit, readWith }: BesideValue): Sentence {
  const { decimals } = modelOf(position.kind).shownScale(device.setting)
  return say`It read ${difference(Math.abs(apart), unit, decimals)} ${apart > 0 ? 'more' : 'less'} than ${readWith}`
}
