import type { Clock, LiveValue } from '@frustum/contract'
import type { SensorReading } from '@frustum/core'
import type { Logger } from 'pino'
import type { LineProblem } from './lineProblem.ts'

/** A reading older than this is not a live one, ms of the line's own time: a faster clock makes no faster line. */
const STALE_AFTER_MS = 2500
/** Of a line that reads seldom: so many of its own periods. */
const STALE_PERIODS = 2.5
/** Over how many readings the period of a line is seen. */
const PERIODS_SEEN = 6

/** Told each reading, null where none came; and whether it is another line from now on. */
type Listener = (reading: SensorReading | null, another?: boolean) => void

/** What a sensor over a line read last. */
class Sensor {
  latest: SensorReading | null = null
  /** ms of the process when it came: what is old by its own word is not old in coming. */
  cameAt = 0
  blindSince: number | null = null
  why: LineProblem | null = null
  readonly listeners = new Set<Listener>()
  private readonly gaps: number[] = []

  constructor(
    readonly id: number,
    public code: string,
  ) {}

  take(reading: SensorReading): void {
    const now = performance.now()
    if (this.latest) {
      this.gaps.push(now - this.cameAt)
      if (this.gaps.length > PERIODS_SEEN) this.gaps.shift()
    }
    this.latest = reading
    this.cameAt = now
    this.blindSince = null
    this.why = null
  }

  /** How far its readings are apart, ms: the median of the last ones; null where that is not known yet. */
  get everyMs(): number | null {
    const sorted = [...this.gaps].sort((a, b) => a - b)
    return sorted[Math.floor(sorted.length / 2)] ?? null
  }
}

/** What every sensor over a line read last, and who listens. It asks nobody: connections tell it. */
export class LiveValues {
  private readonly sensors = new Map<number, Sensor>()
  private readonly byCode = new Map<string, Sensor>()
  /** Codes that a position had while this server runs: who asked before goes on with them. */
  private readonly former = new Map<string, string>()
  private readonly hearers = new Set<(id: number, reading: SensorReading | null) => void>()
  /** What a reading without its own value stands for, where that can be worked out. */
  workOut: (id: number, reading: SensorReading) => number | null = () => null

  constructor(
    private readonly log: Logger,
    private readonly clock: Clock,
  ) {}

  /** These are read over a line from now on, others no more. What was read of one that stays is kept. */
  follow(sensors: readonly { id: number; code: string; anew: boolean }[]): void {
    const ids = new Set(sensors.map((s) => s.id))
    for (const [id, sensor] of this.sensors) {
      if (ids.has(id)) continue
      this.sensors.delete(id)
      this.byCode.delete(sensor.code)
      for (const listener of sensor.listeners) listener(null)
    }
    for (const { id, code, anew } of sensors) {
      const known = this.sensors.get(id)
      const sensor = known && !anew ? known : new Sensor(id, code)
      // Who listens goes on listening, whatever it is read by.
      if (known && sensor !== known) {
        for (const listener of known.listeners) {
          sensor.listeners.add(listener)
          listener(null, true)
        }
      }
      this.sensors.set(id, sensor)
      if (sensor.code !== code) this.rename(sensor.code, code)
      this.byCode.set(code, sensor)
    }
  }

  reading(id: number, reading: SensorReading): void {
    const sensor = this.sensors.get(id)
    if (!sensor) return
    if (sensor.blindSince !== null) this.log.info({ position: sensor.code }, 'device answers again')
    sensor.take(reading)
    for (const listener of sensor.listeners) listener(reading)
    for (const hear of this.hearers) hear(id, reading)
  }

  failed(id: number, problem: LineProblem): void {
    const sensor = this.sensors.get(id)
    if (!sensor) return
    if (sensor.blindSince === null) {
      sensor.blindSince = this.clock.now()
      this.log.warn({ position: sensor.code, why: problem.message }, 'device does not answer')
    }
    sensor.why = problem
    for (const listener of sensor.listeners) listener(null)
    for (const hear of this.hearers) hear(id, null)
  }

  /** Whoever hears of everything, and makes no line faster by it. Returns the way to stop it. */
  hearAll(hear: (id: number, reading: SensorReading | null) => void): () => void {
    this.hearers.add(hear)
    return () => this.hearers.delete(hear)
  }

  /** A position has another code from now on. */
  rename(from: string, to: string): void {
    const sensor = this.byCode.get(from)
    if (!sensor) return
    sensor.code = to
    this.byCode.delete(from)
    this.byCode.set(to, sensor)
    this.former.delete(to)
    this.former.set(from, to)
  }

  private sensor(position: string): Sensor | undefined {
    const now = this.former.get(position)
    return now === undefined ? this.byCode.get(position) : this.sensor(now)
  }

  /** Whether somebody waits for its readings. */
  isWatched(id: number): boolean {
    return (this.sensors.get(id)?.listeners.size ?? 0) > 0
  }

  /** The number by which connections know the sensor at a position; null where it has no line. */
  idOf(position: string): number | null {
    return this.sensor(position)?.id ?? null
  }

  /** The listener gets each reading, null whenever the device did not answer. Returns the way to stop it. */
  listen(position: string, listener: Listener): () => void {
    this.sensor(position)?.listeners.add(listener)
    return () => this.sensor(position)?.listeners.delete(listener)
  }

  /** How far readings of a position are apart, ms; null where nobody knows yet. */
  everyMs(position: string): number | null {
    return this.sensor(position)?.everyMs ?? null
  }

  /** The same by its number. */
  everyMsOf(id: number): number | null {
    return this.sensors.get(id)?.everyMs ?? null
  }

  /** How old a reading of a position may be and still be a live one, ms of the site's clock. */
  private staleAfter(sensor: Sensor | undefined): number {
    return Math.max(STALE_AFTER_MS, STALE_PERIODS * (sensor?.everyMs ?? 0)) * this.clock.rate
  }

  /** Whether the last reading of a position is too old to count as live, or there is none. */
  isStale(position: string): boolean {
    const sensor = this.sensor(position)
    return !sensor?.latest || this.clock.now() - sensor.latest.at > this.staleAfter(sensor)
  }

  /**
   * Resolves when the newest reading is a live one: at once, or with the next answer of a line that is late. A line
   * that fails, or is later than a reading may be old, ends the wait too.
   */
  async fresh(position: string): Promise<void> {
    const sensor = this.sensor(position)
    if (!sensor || !this.isStale(position)) return
    await new Promise<void>((resolve) => {
      const end = () => {
        clearTimeout(timer)
        sensor.listeners.delete(end)
        resolve()
      }
      const timer = setTimeout(end, STALE_AFTER_MS)
      sensor.listeners.add(end)
    })
  }

  /** What a position read last, as it was read; null where that is too old to be of now. */
  latest(position: string): SensorReading | null {
    return this.isStale(position) ? null : (this.sensor(position)?.latest ?? null)
  }

  /** The temperature that a position reads now; null where it does not, or has not for a while. */
  temperatureAt(position: string): number | null {
    const sensor = this.sensor(position)
    return sensor && sensor.blindSince === null && !this.isStale(position) ? (sensor.latest?.temperature ?? null) : null
  }

  current(position: string): LiveValue {
    const sensor = this.sensor(position)
    const latest = sensor?.latest ?? null
    return {
      position,
      at: latest?.at ?? null,
      shown: sensor && latest ? (latest.shown ?? this.workOut(sensor.id, latest)) : null,
      signal: latest?.signal ?? null,
      temperature: latest?.temperature ?? null,
      blindSince: sensor?.blindSince ?? null,
      why: sensor?.why?.message ?? null,
    }
  }

  all(): LiveValue[] {
    return [...this.byCode.keys()].map((position) => this.current(position))
  }
}
