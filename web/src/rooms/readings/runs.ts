import type { SeriesView } from '@frustum/contract'

type Bins = SeriesView['bins']

/** So many bins without a reading between two are a gap, and no line is drawn over it. */
export const GAP_BINS = 2.5

/** How far its bins usually are apart, ms: what is logged seldom has no gap for that. */
export function usualStep({ bins, binMs }: Pick<SeriesView, 'bins' | 'binMs'>): number {
  const between = bins.slice(1).map((bin, i) => bin.at - (bins[i]?.at ?? 0))
  return [...between].sort((a, b) => a - b)[Math.floor(between.length / 2)] ?? binMs
}

/** Bins that stand beside each other; what lies between two runs is a gap. */
export function runsOf(series: Pick<SeriesView, 'bins' | 'binMs'>): Bins[] {
  const apart = GAP_BINS * Math.max(series.binMs, usualStep(series))
  const runs: Bins[] = []
  let before: number | null = null
  for (const bin of series.bins) {
    if (before === null || bin.at - before > apart) runs.push([])
    runs.at(-1)?.push(bin)
    before = bin.at
  }
  return runs
}
