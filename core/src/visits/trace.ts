export type TracePoint = [seconds: number, value: number]

/** Points kept for the screen; older ones are thinned out. */
const MOST_POINTS = 1200

/** A step's readings since it began, for the screen and the record. */
export class Trace {
  points: TracePoint[] = []
  /** Time of the last point that was sent, s. */
  private sentUntil = Number.NEGATIVE_INFINITY

  /** @param t since the step began, s */
  push(t: number, value: number): void {
    this.points.push([Math.round(t * 100) / 100, value])
    if (this.points.length <= MOST_POINTS) return
    const half = this.points.length / 2
    this.points = this.points.filter((_, i) => i > half || i % 2 === 0)
  }

  /** Points since the last call. */
  fresh(): TracePoint[] {
    const fresh = this.points.filter(([t]) => t > this.sentUntil)
    this.sentUntil = fresh.at(-1)?.[0] ?? this.sentUntil
    return fresh
  }
}
