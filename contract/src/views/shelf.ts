import type { SensorKind } from '@frustum/core'
import type { CalendarDay } from '../calendarDay.ts'

export interface LotView {
  id: number
  standard: string
  label: string
  /** For which kind of sensor it is made. */
  kind: SensorKind
  lot: string
  /** As its label says. */
  expiresOn: CalendarDay
  openedOn: number | null
  keepsDays: number
  discardedAt: number | null
  volume: number
  left: number
  storage: string
  ownTable: { temperatures: number[]; values: number[] } | null
  /** The last day on which it is good, whichever ends it first. */
  goodUntil: CalendarDay
  state: 'good' | 'ending' | 'spent' | 'expired' | 'open too long' | 'discarded'
  uses: { at: number; milliliters: number; position: string | null; reason: string }[]
}

export interface ShelfView {
  lots: LotView[]
  /** What must be bought, by when, and why. */
  toBuy: { standard: string; label: string; by: CalendarDay; why: string }[]
}
