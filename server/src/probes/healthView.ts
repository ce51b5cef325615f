import type { HealthView } from '@frustum/contract'
import { CAUSE_WORDS, controlLimits, type DriftObservation, type Feature, troublesOf } from '@frustum/core'
import { and, desc, eq, inArray, isNotNull } from 'drizzle-orm'
import type { SensorHealth } from '../ageing/health.ts'
import type { Database } from '../database/open.ts'
import { confirmedCauses, testAnswers, visitEntries, visits } from '../database/schema.ts'

const SHOWN_CAUSES = 4
const SHOWN_TRACES = 24

/**
 * The health of one sensor as its page shows it.
 * @param installations of the sensor, the present one last
 */
export async function healthView(
  db: Database,
  installations: readonly number[],
  health: SensorHealth,
  observations: readonly DriftObservation[],
): Promise<HealthView> {
  const installationId = installations.at(-1) as number
  const tested = await db.select().from(testAnswers).where(eq(testAnswers.installationId, installationId))
  const confirmed = await db
    .select()
    .from(confirmedCauses)
    .where(eq(confirmedCauses.installationId, installationId))
    .orderBy(desc(confirmedCauses.at))
  return {
    ranked: health.diagnosis.ranked.slice(0, SHOWN_CAUSES),
    tooLittle: health.diagnosis.tooLittle,
    next: health.diagnosis.next,
    tested: [...new Set(tested.map((t) => t.feature as Feature))],
    troubles: troublesOf(health.record),
    ends: health.ends,
    end: health.end,
    orderBy: health.orderBy,
    settling: await settlingTraces(db, installations),
    settlingSeconds: health.settling,
    shared: health.shared,
    confirmed: confirmed.map((c) => {
      const place = c.proposed.findIndex((p) => p.cause === c.cause)
      return {
        at: c.at.getTime(),
        operator: c.operator,
        name: CAUSE_WORDS[c.cause].name,
        rank: place + 1,
        probability: c.proposed[place]?.probability ?? 0,
      }
    }),
    control: controlLimits(observations.flatMap((o) => (o.asFound === null ? [] : [o.asFound]))),
  }
}

/**
 * Share of the way that was still to go, against seconds: sensors of all sizes and jumps of all heights compare. Of each
 * visit the reading that had the farthest to go; of a long life as many visits as can be told apart, evenly spread.
 */
async function settlingTraces(db: Database, installations: readonly number[]): Promise<HealthView['settling']> {
  const rows = await db
    .select({ visit: visits.id, at: visitEntries.at, entry: visitEntries.entry })
    .from(visitEntries)
    .innerJoin(visits, eq(visitEntries.visitId, visits.id))
    .where(and(inArray(visits.installationId, [...installations]), isNotNull(visits.closedAt)))
    .orderBy(visitEntries.at)
  const farthest = new Map<string, { way: number; trace: HealthView['settling'][number] }>()
  for (const { visit, at, entry } of rows) {
    if (entry.type !== 'captured' || !entry.reading.standard || entry.reading.trace.length < 8) continue
    const { trace, signal, standard, signalUncertainty } = entry.reading
    const [began] = trace as [[number, number], ...[number, number][]]
    const way = began[1] - signal
    // A jump that is hardly larger than the noise shows nothing of the sensor.
    if (Math.abs(way) < Math.max(20 * Math.abs(signalUncertainty), Math.abs(farthest.get(visit)?.way ?? 0))) continue
    const settled = trace.map(([t, v]): [number, number] => [t - began[0], (v - signal) / way])
    farthest.set(visit, { way, trace: { at: at.getTime(), code: standard.code, trace: settled } })
  }
  return thinned([...farthest.values()].map((f) => f.trace))
}

/** Evenly spread, the first and the last among them. */
function thinned<T>(all: T[]): T[] {
  if (all.length <= SHOWN_TRACES) return all
  const every = (all.length - 1) / (SHOWN_TRACES - 1)
  return Array.from({ length: SHOWN_TRACES }, (_, i) => all[Math.round(i * every)] as T)
}
