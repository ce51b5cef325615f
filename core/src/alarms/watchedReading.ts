import type { ReadingState } from '../readings/readingState.ts'

/** What is watched of a reading. */
export interface WatchedReading {
  /** Epoch ms. */
  at: number
  /** In the unit that is shown; null where there is none. */
  value: number | null
  state: ReadingState
}
