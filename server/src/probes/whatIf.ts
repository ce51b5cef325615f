import type { RulesBody, WhatIfView } from '@frustum/contract'
import { channelOf, forecastCone, forecastDrift, nextDate, procedureOf } from '@frustum/core'
import { desc, eq } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { positions, visits } from '../database/schema.ts'
import { policyOf } from '../sensorPolicy.ts'
import { installedAt } from '../sensors.ts'
import { observationsAt } from './elsewhere.ts'
import { nextDateOf, type SensorForecast, siteForecasts } from './forecasts.ts'

const YEAR = 365
const STEPS = 48
/** Of a visit whose procedure is not known yet. */
const USUAL_MINUTES = 15

/** What other rules, or another process value, would make of the next date and of a year's work. Nothing is written. */
export async function whatIf(db: Database, code: string, rules: RulesBody, now: number): Promise<WhatIfView> {
  const installed = await installedAt(db, code)
  const known = (await siteForecasts(db, now)).get(installed.installation.id) as SensorForecast
  const { processValue, ...changed } = rules
  const policy = { ...policyOf(installed.position, known.hours), ...changed }
  const elsewhere =
    processValue !== undefined && processValue !== installed.position.processValue
      ? await observationsAt(db, [installed.installation.id], installed, processValue)
      : null
  const forecast = elsewhere
    ? forecastDrift(elsewhere, [], channelOf(installed.position.kind).usualDrift)
    : known.forecast
  const next = elsewhere ? nextDate(forecast, policy, elsewhere) : nextDateOf(known, policy)
  const visitsPerYear = YEAR / Math.max(1, next.usualDays)
  return {
    next,
    visitsPerYear,
    minutesPerYear: visitsPerYear * (await minutesPerVisit(db, installed.installation.id)),
    cone: forecastCone(forecast, policy.tolerance, Math.max(next.at, now), STEPS),
  }
}

/** Hands-on minutes of the procedure that was done last. */
export async function minutesPerVisit(db: Database, installationId: number): Promise<number> {
  const [last] = await db
    .select({ procedure: visits.procedure })
    .from(visits)
    .where(eq(visits.installationId, installationId))
    .orderBy(desc(visits.startedAt))
    .limit(1)
  return last ? procedureOf(last.procedure).handsOnMinutes : USUAL_MINUTES
}

/** Writes new rules for a position. What was decided under the old ones stays in the record. */
export async function changeRules(db: Database, code: string, rules: RulesBody): Promise<void> {
  const { position } = await installedAt(db, code)
  const { processValue, fixedDays, inUseHours, hoursPerDay, ...rest } = rules
  await db
    .update(positions)
    .set({
      ...rest,
      fixedDays: fixedDays ?? null,
      inUseHours: inUseHours ?? null,
      hoursPerDay: hoursPerDay ?? null,
      processValue: processValue ?? position.processValue,
    })
    .where(eq(positions.id, position.id))
}
