import { leastSquares } from '../statistics/leastSquares.ts'

interface Point {
  t: number
  value: number
}

/** How far back a movement is looked for: a share of the time so far, but at least and at most so many seconds. */
interface Window {
  share: number
  least: number
  most: number
}

const TURNING_WINDOW: Window = { share: 0.2, least: 14, most: 80 }
const PACE_WINDOW: Window = { share: 0.4, least: 25, most: 80 }
/** Fewer points than this show no movement. */
const POINTS = 5

/** A straight line through the last stretch of a reading. */
class RecentLine {
  private recent: Point[] = []

  constructor(private readonly window: Window) {}

  /** @returns slope and its standard deviation, units of the reading per second; null before there is a stretch */
  push(point: Point, elapsed: number): { slope: number; slopeSd: number } | null {
    const { share, least, most } = this.window
    const from = point.t - Math.min(most, Math.max(least, share * elapsed))
    this.recent = [...this.recent.filter((p) => p.t >= from), point]
    if (this.recent.length < POINTS) return null
    return leastSquares(
      this.recent.map((p) => p.t),
      this.recent.map((p) => p.value),
    )
  }
}

/**
 * The pace at which a reading moves away from where it came to from: a settling reading does not turn back, a
 * creeping one that overtakes its own tail does.
 */
export class TurningBack {
  private readonly line = new RecentLine(TURNING_WINDOW)

  /**
   * @param elapsed seconds since the change of solution
   * @param start the first reading in this solution, `end` the predicted end
   * @param doubt so many standard deviations of the pace are put down to noise
   * @returns units of the reading per second; 0 while it goes the way it should
   */
  push(point: Point, elapsed: number, start: number, end: number, doubt = 0): number {
    const line = this.line.push(point, elapsed)
    return line ? Math.max(0, line.slope * Math.sign(start - end) - doubt * line.slopeSd) : 0
  }
}

/** Whether a reading moves now, whatever is believed of its tail. */
export class PresentPace {
  private readonly line = new RecentLine(PACE_WINDOW)

  /**
   * @param harmless pace that counts as none, units of the reading per second
   * @returns whether it does not visibly move faster than that, in either direction; false before there is a stretch
   */
  push(point: Point, elapsed: number, harmless: number): boolean {
    const line = this.line.push(point, elapsed)
    return line !== null && elapsed >= PACE_WINDOW.least && Math.abs(line.slope) - line.slopeSd <= harmless
  }
}

/** Share of the time so far over which a prediction is compared with itself, and least seconds. */
const MEMORY_SHARE = 0.25
const MEMORY_SECONDS = 4

/**
 * How far a prediction has moved of late. One that keeps going one way is missing something, whatever the hypotheses
 * think of themselves.
 */
export class PredictionTrend {
  private anchor = Number.NaN
  private at = 0

  /** @param settled false in the first seconds, when the prediction may still go where it likes */
  push(elapsed: number, end: number, settled: boolean): number {
    const memory = Math.max(MEMORY_SECONDS, MEMORY_SHARE * elapsed)
    this.anchor = settled ? this.anchor + (1 - Math.exp(-(elapsed - this.at) / memory)) * (end - this.anchor) : end
    this.at = elapsed
    return Math.abs(end - this.anchor)
  }
}
