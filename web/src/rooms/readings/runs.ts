/** So many times as far apart as those around it, and no line is drawn from one to the next. */
const GAP_STEPS = 2.5
/** Steps on either side that say how far apart readings are there. */
const AROUND = 4

/**
 * Points that stand beside each other; what lies between two runs is a gap. What is logged seldom has no gap for that:
 * how far apart they usually are is seen around each of them.
 * @param least no gap is shorter than some of these, ms
 */
export function inRuns<T extends { at: number }>(points: readonly T[], least: number): T[][] {
  const steps = points.slice(1).map((p, i) => p.at - (points[i]?.at ?? 0))
  const usual = (i: number) => {
    const near = steps.slice(Math.max(0, i - AROUND), i + AROUND + 1).sort((a, b) => a - b)
    return near[Math.floor(near.length / 2)] ?? least
  }
  const runs: T[][] = []
  points.forEach((point, i) => {
    const step = steps[i - 1]
    if (step === undefined || step > GAP_STEPS * Math.max(least, usual(i - 1))) runs.push([])
    runs.at(-1)?.push(point)
  })
  return runs
}
