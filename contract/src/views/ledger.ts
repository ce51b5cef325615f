import type { CapturedReading, Decision, Quantity, ResultView, Sentence, VisitEntry } from '@frustum/core'
import type { VisitView } from './bench.ts'

export interface RecordLineView {
  seq: number
  at: number
  operator: string
  entry: VisitEntry
  sentence: Sentence
}

/** A visit as one page. */
export interface RecordView {
  visit: VisitView
  serialNumber: string
  model: string
  lines: RecordLineView[]
  points: { label: string; reading: CapturedReading; signal: Quantity; shown: Quantity; standard: Quantity | null }[]
  result: ResultView | null
  decisions: { step: string; decision: Decision; proposed: Decision; note: string | null }[]
  corrections: { at: number; operator: string; text: string }[]
  drift: Sentence | null
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
  asFound: Quantity | null
  asLeft: Quantity | null
  adjusted: boolean
  corrections: number
  /** Whether its record holds what this version cannot read. */
  unreadable: boolean
}

export interface ImportReport {
  added: number
  known: number
  refused: { visit: string; why: string }[]
}
