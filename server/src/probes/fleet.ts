import type { FleetRow, FleetView } from '@frustum/contract'
import { CAUSE_WORDS, type HealthTraits, kindOf } from '@frustum/core'
import { desc, inArray } from 'drizzle-orm'
import type { DiagnosticEvidence } from '../../../core/src/health/features.ts'
import { computedSensors } from '../ageing/computed.ts'
import { hitRate } from '../ageing/confirmedCauses.ts'
import type { SensorHealth } from '../ageing/health.ts'
import type { Database } from '../database/open.ts'
import { calibrations } from '../database/schema.ts'
import type { LiveValues } from '../devices/liveValues.ts'
import { rowsOf, unfitRows } from '../rounds/overview.ts'

/** All sensors with how they age, for the table of the fleet. */
export async function fleetView(db: Database, live: LiveValues, now: number): Promise<FleetView> {
  const { fit: installed, healths } = await computedSensors(db, now)
  const rows = await rowsOf(db, live, installed, now)
  const byCode = new Map(installed.map((i) => [i.position.code, i]))
  const newest = await newestCalibrations(
    db,
    installed.map((i) => i.installation.id),
  )
  return {
    confirmed: await hitRate(db),
    unfit: await unfitRows(db, now),
    rows: rows.map((row): FleetRow => {
      const { installation, sensor, position } = byCode.get(row.position) as (typeof installed)[number]
      const health = healths.get(installation.id) as SensorHealth
      const c = newest.get(installation.id)
      const traits = kindOf(position.kind).health
      const figure = (key: string | null) => (key === null ? undefined : c?.[key])
      const [slope, zero] = [figure(traits.slopeKey), figure(traits.zeroKey)]
      return {
        ...row,
        serialNumber: sensor.serialNumber,
        slope: slope === undefined ? null : 100 * slope,
        zero: zero ?? null,
        reference: referenceWord(traits, health.evidence),
        trouble: troubleOf(health),
        end: health.end,
        orderBy: health.orderBy,
      }
    }),
  }
}

async function newestCalibrations(db: Database, ids: number[]) {
  const rows = ids.length
    ? await db
        .select()
        .from(calibrations)
        .where(inArray(calibrations.installationId, ids))
        .orderBy(desc(calibrations.at))
    : []
  const newest = new Map<number, (typeof rows)[number]['characteristic']>()
  for (const row of rows) if (!newest.has(row.installationId)) newest.set(row.installationId, row.characteristic)
  return newest
}

/** The reference speaks through the zero and through its junction. */
function referenceWord({ referenceElectrode }: HealthTraits, evidence: DiagnosticEvidence): FleetRow['reference'] {
  if (!referenceElectrode) return null
  if (evidence.sharedShift === 'its own') return 'steady'
  if (evidence.zeroCourse === 'running' || evidence.zeroCourse === 'jumped') return 'failing'
  const clogs = evidence.hysteresis === 'lags' || evidence.junctionResistance === 'high'
  return evidence.zeroCourse === 'creeping' || clogs ? 'moving' : 'steady'
}

function troubleOf({ diagnosis }: SensorHealth): FleetRow['trouble'] {
  const [first] = diagnosis.ranked
  if (!first || first.cause === 'nothing' || diagnosis.tooLittle) return null
  return { cause: first.cause, name: CAUSE_WORDS[first.cause].name, probability: first.probability }
}
