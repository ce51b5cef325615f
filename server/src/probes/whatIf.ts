import type { ChangeRulesBody, RulesBody, WhatIfView } from '@frustum/contract'
import { loosened, procedureOf, ruleFields, shownValue } from '@frustum/core'
import { desc, eq } from 'drizzle-orm'
import { nextUnder } from '../ageing/nextUnder.ts'
import { noteChanges } from '../changes/changes.ts'
import type { Database } from '../database/open.ts'
import { positions, visits } from '../database/schema.ts'
import { notFound, Problem } from '../problem.ts'
import { type Installed, installedAt } from '../sensors.ts'

const YEAR = 365
/** Of a visit whose procedure is not known yet. */
const USUAL_MINUTES = 15

/** What other rules, or another process value, would make of the next date and of a year's work. Nothing is written. */
export async function whatIf(db: Database, code: string, rules: RulesBody, now: number): Promise<WhatIfView> {
  const installed = await installedAt(db, code)
  checkRules(installed, rules)
  const next = await nextUnder(db, installed, rules, now)
  if (!next) throw notFound('forecast of it')
  const visitsPerYear = YEAR / Math.max(1, next.usualDays)
  return {
    next,
    visitsPerYear,
    minutesPerYear: visitsPerYear * (await minutesPerVisit(db, installed.installation.id)),
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

/** Writes new rules for a position, and who changed what. What was decided under the old ones stays in the record. */
export async function changeRules(
  db: Database,
  code: string,
  { operator, why, ...rules }: ChangeRulesBody,
  at: Date,
): Promise<void> {
  const installed = await installedAt(db, code)
  const { position } = installed
  checkRules(installed, rules)
  // What cannot be computed is never written.
  await nextUnder(db, installed, rules, at.getTime())
  const { processValue, fixedDays, inUseHours, hoursPerDay, checkFirst, ...rest } = rules
  const after = {
    ...rest,
    checkFirst: checkFirst ?? position.checkFirst,
    fixedDays: fixedDays ?? null,
    inUseHours: inUseHours ?? null,
    hoursPerDay: hoursPerDay ?? null,
    processValue: processValue ?? position.processValue,
  }
  const looser = loosened(position, after)
  if (looser.length > 0 && (why ?? '').length < 3) {
    throw new Problem(400, 'why-needed', 'A limit is loosened: say why.', {
      detail: 'Nothing was changed.',
      fields: { why: 'Say why in a few words.' },
    })
  }
  const before = Object.fromEntries(Object.keys(after).map((key) => [key, position[key as keyof typeof after]]))
  await db.transaction(async (tx) => {
    await noteChanges(tx, { subject: 'position', id: position.id }, { operator, at, why }, { before, after })
    await tx.update(positions).set(after).where(eq(positions.id, position.id))
  })
}

/** Numbers within what the kind can be, in words of its own form. @throws Problem */
function checkRules({ position, device }: Installed, { tolerance, processValue }: RulesBody): void {
  const fields: Record<string, string> = {}
  const asked = ruleFields(position.kind, device.setting)
  const { low = 0, high = Number.POSITIVE_INFINITY, unit = '' } = asked.find((f) => f.key === 'tolerance') ?? {}
  if (tolerance < low || tolerance > high) {
    fields.tolerance = `The tolerance must lie within ${low} to ${high} ${unit}.`
  }
  const { processTemperature, kind } = position
  if (processValue !== undefined) {
    const shown = shownValue(kind, processValue, processTemperature, device.setting)
    const range = asked.find((f) => f.key === 'processValue')
    if (shown === null || shown < (range?.low ?? shown) || shown > (range?.high ?? shown)) {
      fields.processValue = 'The device cannot show that.'
    }
  }
  const [first] = Object.values(fields)
  if (first) throw new Problem(400, 'invalid', first, { detail: 'Nothing was changed.', fields })
}
