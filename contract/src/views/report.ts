import type { Quantity, Sentence, WorkDone } from '@frustum/core'

/** Whether a sensor was found within its tolerance, by the rule that held at that visit. */
export type FoundWithin = 'within' | 'outside' | 'not read'

/** A closed visit as its record says it. */
export interface ReportVisit {
  id: string
  at: number
  position: string
  place: string
  serialNumber: string
  name: string
  operator: string
  outcome: 'done' | 'abandoned' | null
  work: WorkDone | null
  asFound: Quantity | null
  asLeft: Quantity | null
  tolerance: Quantity
  found: FoundWithin
  corrections: number
  /** What an error beyond tolerance means for what was logged before; null where it was within, or cannot be said. */
  corrected: { days: number; affected: number; rating: string; action: string } | null
}

/** A sensor on the day of the report. */
export interface ReportStatus {
  position: string
  place: string
  spot: string
  quantity: string
  serialNumber: string
  /** The last visit until then; null where there was none. */
  last: ReportVisit | null
  /** The next: the date that stands now, or, of an earlier day, the visit that was made. Null where there is none. */
  next: { at: number; made: boolean } | null
}

/** Longer between two visits than the rules of the first allowed. */
export interface MissedDate {
  position: string
  place: string
  /** The visit before, and the day until which the next was allowed. */
  from: number
  due: number
  allowedDays: number
  byAuthority: boolean
  /** When it was made; null where it is still to come. */
  made: number | null
  lateDays: number
}

export interface ReportView {
  site: string
  timeZone: string
  madeAt: number
  /** End of the day on which the sensors stand so, epoch ms. */
  on: number
  /** The span, from the beginning of a day to the end of another. */
  from: number
  to: number
  status: ReportStatus[]
  visits: ReportVisit[]
  missed: MissedDate[]
  changes: { at: number; operator: string; position: string; what: Sentence; why: string | null }[]
  people: { name: string; visits: number }[]
}
