import { theilSen } from '@frustum/core'
import { expose } from 'comlink'

export interface TrendLine {
  /** Per day, with its 95 % interval. */
  slope: number
  low: number
  high: number
  from: { at: number; value: number }
  to: { at: number; value: number }
}

const DAY = 86_400_000

/** Robust trend through (epoch ms, value); null with fewer than three points. All pairs are formed, hence off the main thread. */
function trend(points: { at: number; value: number }[]): TrendLine | null {
  const [first, last] = [points[0], points.at(-1)]
  if (!first || !last || points.length < 3 || first.at === last.at) return null
  const line = theilSen(
    points.map((p) => p.at / DAY),
    points.map((p) => p.value),
  )
  const at = (when: number) => ({ at: when, value: line.intercept + (line.slope * when) / DAY })
  return { slope: line.slope, low: line.slopeLow, high: line.slopeHigh, from: at(first.at), to: at(last.at) }
}

const worker = { trend }
export type TrendWorker = typeof worker
expose(worker)
