import type { HealthView } from '@frustum/contract'
import { CAUSE_WORDS, controlLimits, type DriftObservation, type Feature } from '@frustum/core'
import { and, desc, eq, isNotNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { confirmedCauses, testAnswers, visitEntries, visits } from '../database/schema.ts'
import type { SensorHealth } from './health.ts'

const SHOWN_CAUSES = 4
const SHOWN_TRACES = 12

/** The health of one sensor as its page shows it. */
export async function healthView(
  db: Database,
  installationId: number,
  health: SensorHealth,
  observations: readonly DriftObservation[],
): Promise<HealthView> {
  const tested = await db.select().from(testAnswers).where(eq(testAnswers.installationId, installationId))
  const confirmed = await db
    .select()
    .from(confirmedCauses)
    .where(eq(confirmedCauses.installationId, installationId))
    .orderBy(desc(confirmedCauses.at))
  return {
    ranked: health.diagnosis.ranked.slice(0, SHOWN_CAUSES),
    next: health.diagnosis.next,
    tested: [...new Set(tested.map((t) => t.feature as Feature))],
    ends: health.ends,
    end: health.end,
    orderBy: health.orderBy,
    settling: await settlingTraces(db, installationId),
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

/** Share of the way that was still to go, against seconds: sensors of all sizes and jumps of all heights compare. */
async function settlingTraces(db: Database, installationId: number): Promise<HealthView['settling']> {
  const rows = await db
    .select({ at: visitEntries.at, entry: visitEntries.entry })
    .from(visitEntries)
    .innerJoin(visits, eq(visitEntries.visitId, visits.id))
    .where(and(eq(visits.installationId, installationId), isNotNull(visits.closedAt)))
    .orderBy(desc(visitEntries.at))
  const traces: HealthView['settling'] = []
  for (const { at, entry } of rows) {
    if (traces.length >= SHOWN_TRACES) break
    if (entry.type !== 'captured' || !entry.reading.standard || entry.reading.trace.length < 8) continue
    const { trace, signal, standard } = entry.reading
    const [began] = trace as [[number, number], ...[number, number][]]
    const way = began[1] - signal
    // A jump that is hardly larger than the noise shows nothing of the sensor.
    if (Math.abs(way) < 20 * Math.abs(entry.reading.signalUncertainty)) continue
    traces.push({
      at: at.getTime(),
      code: standard.code,
      trace: trace.map(([t, v]) => [t - began[0], (v - signal) / way]),
    })
  }
  return traces.toReversed()
}
