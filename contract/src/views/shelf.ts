import type { SensorKind } from '@frustum/core'

export interface LotView {
  id: number
  standard: string
  label: string
  /** For which kind of sensor it is made. */
  kind: SensorKind
  lot: string
  expiresOn: number
  openedOn: number | null
  keepsDays: number
  discardedAt: number | null
  volume: number
  left: number
  storage: string
  ownTable: { temperatures: number[]; values: number[] } | null
  /** When it is no longer good, whichever comes first. */
  goodUntil: number
  state: 'good' | 'ending' | 'spent' | 'expired' | 'open too long' | 'discarded'
  uses: { at: number; milliliters: number; position: string | null; reason: string }[]
}

export interface ShelfView {
  lots: LotView[]
  /** What must be bought, by when, and why. */
  toBuy: { standard: string; label: string; by: number; why: string }[]
}
