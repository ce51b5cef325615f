/** Memory of the regression, s. */
const MEMORY = 8
/** Memory of the older rate that the present one is held against, s. */
const OLDER = 15
/** A sensor body follows its solution with about this lag, s, until the readings say otherwise (common practice, no source). */
const USUAL_LAG = 60
const SHORTEST_LAG = 12
const LONGEST_LAG = 150

/** Share of what a temperature still has to go by which its end may be foreseen wrongly (common practice, no source). */
const UNSURE = 0.4

/** Watches where the temperature will come to rest: an exponentially weighted straight line through the readings. */
export class TemperatureWatch {
  private weight = 0
  private meanT = 0
  private meanY = 0
  private stt = 0
  private sty = 0
  private syy = 0
  private lastAt = Number.NaN
  private last = 0
  private olderRate = 0

  constructor(private readonly tolerance: number) {}

  push(t: number, temperature: number): void {
    const gap = Number.isNaN(this.lastAt) ? 0 : t - this.lastAt
    this.lastAt = t
    this.last = temperature
    const keep = Math.exp(-gap / MEMORY)
    this.weight = this.weight * keep + 1
    this.stt *= keep
    this.sty *= keep
    this.syy *= keep
    const dt = t - this.meanT
    const dy = temperature - this.meanY
    const share = 1 / this.weight
    this.meanT += dt * share
    this.meanY += dy * share
    const rest = 1 - share
    this.stt += rest * dt * dt
    this.sty += rest * dt * dy
    this.syy += rest * dy * dy
    this.olderRate += (1 - Math.exp(-gap / OLDER)) * (this.rate - this.olderRate)
  }

  /** degC per second. */
  private get rate(): number {
    return this.stt > 1 ? this.sty / this.stt : 0
  }

  /**
   * For an exponential approach with lag L the rate smoothed over OLDER runs ahead of the present one by
   * 1 / (1 - OLDER / L), from which L follows.
   */
  private get lag(): number {
    const ratio = this.rate / this.olderRate
    if (!Number.isFinite(ratio) || ratio <= 0 || ratio >= 1) return USUAL_LAG
    return Math.min(LONGEST_LAG, Math.max(SHORTEST_LAG, OLDER / (1 - ratio)))
  }

  /** What the temperature will still move, degC, less what noise alone would feign. */
  private get remaining(): number {
    const rate = this.rate
    const residual = Math.max(0, this.syy - rate * this.sty) / Math.max(1, this.weight - 2)
    const feigned = this.stt > 1 ? Math.sqrt(residual / this.stt) : 0
    return Math.max(0, Math.abs(rate) - feigned) * this.lag
  }

  /** Where it will end, degC; null before the first reading. */
  get end(): number | null {
    return Number.isNaN(this.lastAt) ? null : this.last + Math.sign(this.rate) * this.remaining
  }

  /** Whether its end is foreseen closely enough; it need not be there yet. */
  get foreseen(): boolean {
    return UNSURE * this.remaining <= this.tolerance
  }

  get secondsToGo(): number {
    return this.foreseen ? 0 : this.lag * Math.log((UNSURE * this.remaining) / this.tolerance)
  }
}
