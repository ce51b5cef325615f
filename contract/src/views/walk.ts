import type { Sentence } from '@frustum/core'

/** A place with displays that are read by eye. */
export interface WalkPlaceView {
  id: number
  name: string
  displays: number
  /** When one of them was read last. */
  lastAt: number | null
}

/** A display on the way round. */
export interface WalkDisplayView {
  position: string
  spot: string
  quantity: string
  unit: string
  decimals: number
  /** What it can show. */
  low: number
  high: number
  last: { at: number; value: number } | null
  /** What it is expected to read, and how far from it nobody is asked. */
  usual: number
  width: number
}

export interface WalkView {
  id: number
  name: string
  displays: WalkDisplayView[]
}

/** What became of what was typed. */
export interface WalkOutcome {
  kept: number
  /** Those that read other than what was beside them, by more than both may be off. */
  disagreeing: { position: string; sentence: Sentence }[]
  /** What each reading raised. */
  alarms: { position: string; sentence: Sentence }[]
}
