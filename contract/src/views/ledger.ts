import type { CapturedReading, ClosedRecord, Quantity, VisitEntry, WorkDone } from '@frustum/core'

/** A visit as one page, from what was written down when it was made. */
export interface RecordView {
  id: string
  site: { name: string; timeZone: string }
  position: string
  place: string
  spot: string
  serialNumber: string
  model: string
  /** What it measures, with the ion where it is one. */
  quantity: string
  /** Its controller or transmitter, and how that is set. */
  device: string
  setting: string
  /** What was allowed when the visit began. */
  tolerance: Quantity
  /** Of what was found; null where it was not read. */
  verdict: 'in tolerance' | 'out of tolerance' | null
  operator: string
  startedAt: number
  closedAt: number | null
  outcome: 'done' | 'abandoned' | null
  /** Whether what it was judged with was kept at its start, or found out later as well as could be. */
  known: 'at its start' | 'later'
  /** Whether it was noted elsewhere, and taken in from a list. */
  fromList: boolean
  record: ClosedRecord
  /** By the number of their line. */
  entries: Record<number, VisitEntry>
  readings: Record<number, CapturedReading>
  corrections: { at: number; operator: string; text: string }[]
}

export interface LedgerRow {
  id: string
  at: number
  /** Whether it was noted elsewhere, and taken in from a list. */
  fromList: boolean
  position: string
  place: string
  serialNumber: string
  name: string
  operator: string
  outcome: 'done' | 'abandoned' | null
  /** Null where it was ended without a result, and where its record cannot be read. */
  work: WorkDone | null
  asFound: Quantity | null
  /** Null where nothing was read after the last change. */
  asLeft: Quantity | null
  corrections: number
  /** Whether its record holds what this version cannot read. */
  unreadable: boolean
}

export interface ImportReport {
  added: number
  known: number
  refused: { visit: string; why: string }[]
}
