import type { CapturedReading, VisitEntry } from '@frustum/core'
import type { ResultView, VisitView } from './bench.ts'

export interface RecordLineView {
  seq: number
  at: number
  operator: string
  entry: VisitEntry
  words: string
}

/** A visit as one page. */
export interface RecordView {
  visit: VisitView
  serialNumber: string
  model: string
  lines: RecordLineView[]
  points: { label: string; reading: CapturedReading; signalText: string; shownText: string; standardText: string }[]
  result: ResultView | null
  decisions: { step: string; decision: string; proposed: string; note: string | null }[]
  corrections: { at: number; operator: string; text: string }[]
  drift: string | null
}

export interface LedgerRow {
  id: string
  at: number
  position: string
  place: string
  serialNumber: string
  name: string
  operator: string
  outcome: 'done' | 'abandoned' | null
  asFound: string | null
  asLeft: string | null
  adjusted: boolean
  corrections: number
}

export interface ImportReport {
  added: number
  known: number
  refused: { visit: string; why: string }[]
}
