import type { PlannedTripView, PlanView } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'

/** How likely it is that some sensor of a trip is outside its limits on a day, and which one it would be. */
export interface DayRisk {
  /** Probability that at least one is outside. */
  any: number
  worst: string
  outside: number
}

export function riskOn(plan: PlanView, trip: Pick<PlannedTripView, 'visits'>, day: number): DayRisk {
  const k = Math.min(plan.daysAhead, Math.max(0, Math.round((day - plan.today) / DAY_MS)))
  const each = trip.visits.map((v) => ({ position: v.position, outside: plan.risks[v.position]?.[k] ?? 0 }))
  const worst = each.reduce((a, b) => (b.outside > a.outside ? b : a), { position: '', outside: 0 })
  return {
    any: 1 - each.reduce((all, e) => all * (1 - e.outside), 1),
    worst: worst.position,
    outside: worst.outside,
  }
}

/** From where on a risk is worth a colour and a word: what the usual reliability of 95 % leaves, and a coin's toss. */
export const riskWord = (outside: number): 'low' | 'raised' | 'high' =>
  outside <= 0.05 ? 'low' : outside < 0.5 ? 'raised' : 'high'

/** The trips on which a sensor's own next visit lies; later ones are only where it would come round again. */
export function firstTrips(plan: PlanView): Set<string> {
  const seen = new Set<string>()
  const first = new Set<string>()
  for (const trip of plan.trips) {
    if (trip.visits.some((v) => !seen.has(v.position))) first.add(trip.id)
    for (const v of trip.visits) seen.add(v.position)
  }
  return first
}

/** The highest risk on a trip's own day, and in words; null when all its visits follow earlier planned ones. */
export function tripRisk(trip: PlannedTripView): number | null {
  const known = trip.visits.flatMap((v) => (v.outside === null ? [] : [v.outside]))
  return known.length > 0 ? Math.max(...known) : null
}
