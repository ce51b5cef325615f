import type { RulesBody } from '@frustum/contract'
import type { NextDate } from '@frustum/core'
import type { Database } from '../database/open.ts'
import { policyOf } from '../sensorPolicy.ts'
import type { Installed } from '../sensors.ts'
import { cachedForecasts, computedSensors } from './computed.ts'
import { computeForecasts, nextDateOf, type Would } from './forecasts.ts'

/** The next date under other rules, or at another process value; null where the sensor cannot be computed as it is. */
export async function nextUnder(
  db: Database,
  installed: Installed,
  { processValue = installed.position.processValue, ...changed }: Partial<RulesBody> & { startingDays?: number | null },
  now: number,
): Promise<NextDate | null> {
  const there = { ...installed, position: { ...installed.position, processValue } }
  const known =
    processValue === installed.position.processValue
      ? (await cachedForecasts(db, now)).get(installed.installation.id)
      : (await forecastsWith(db, [there], new Map([[installed.installation.id, null]]), now)).get(
          installed.installation.id,
        )
  return known ? nextDateOf(known, { ...policyOf(installed.position, known.hours), ...changed }) : null
}

/** What would be forecast if these sensors were set up so; the others of their kinds are what they are. */
export async function forecastsWith(db: Database, changed: readonly Installed[], would: Would, now: number) {
  const { fit } = await computedSensors(db, now)
  const own = new Map(changed.map((i) => [i.installation.id, i]))
  const others = fit.filter(
    (i) => !own.has(i.installation.id) && changed.some((c) => c.position.kind === i.position.kind),
  )
  return computeForecasts(db, [...changed, ...others], now, would)
}
