import type { Clock, LiveValue } from '@frustum/contract'
import type { Logger } from 'pino'
import type { Link, LinkReading } from './link.ts'

/** A reading older than this is not a live one, ms of the line's own time: a faster clock makes no faster line. */
const STALE_AFTER_MS = 2500

/** Whether a reading of an instant (epoch ms) is too old to count as live. */
export const isStale = (at: number, clock: Clock): boolean => clock.now() - at > STALE_AFTER_MS * clock.rate

type Listener = (reading: LinkReading | null) => void

class Line {
  latest: LinkReading | null = null
  blindSince: number | null = null
  readonly listeners = new Set<Listener>()
  private timer: NodeJS.Timeout | null = null
  private stopped = false

  constructor(
    public position: string,
    readonly link: Link,
    private readonly pollMs: number,
    private readonly log: Logger,
    private readonly clock: Clock,
  ) {
    void this.poll()
  }

  stop(): void {
    this.stopped = true
    if (this.timer) clearTimeout(this.timer)
    this.link.close()
  }

  private async poll(): Promise<void> {
    const began = performance.now()
    try {
      const reading = await this.link.read()
      if (this.blindSince !== null) this.log.info({ position: this.position }, 'device answers again')
      this.latest = reading
      this.blindSince = null
      for (const listener of this.listeners) listener(reading)
    } catch (error) {
      // A line that was closed fails what it was still asking.
      if (this.stopped) return
      if (this.blindSince === null) {
        this.blindSince = this.clock.now()
        this.log.warn({ position: this.position, why: reasonOf(error) }, 'device does not answer')
      }
      for (const listener of this.listeners) listener(null)
    }
    if (!this.stopped)
      this.timer = setTimeout(() => void this.poll(), Math.max(20, this.pollMs - (performance.now() - began)))
  }
}

/** The line's library rejects with Errors and with plain objects. */
const reasonOf = (error: unknown) => (error as { message?: string }).message ?? String(error)

/** Keeps asking every linked device, and tells who listens. */
export class LiveValues {
  private readonly lines = new Map<string, Line>()
  /** Codes that a position had while this server runs: who asked before goes on with them. */
  private readonly former = new Map<string, string>()

  constructor(
    private readonly pollMs: number,
    private readonly log: Logger,
    private readonly clock: Clock,
  ) {}

  add(position: string, link: Link): void {
    this.lines.set(position, new Line(position, link, this.pollMs, this.log, this.clock))
  }

  /** A position has another code from now on. */
  rename(from: string, to: string): void {
    const line = this.lines.get(from)
    if (!line) return
    line.position = to
    this.lines.delete(from)
    this.lines.set(to, line)
    this.former.delete(to)
    this.former.set(from, to)
  }

  private line(position: string): Line | undefined {
    const now = this.former.get(position)
    return now === undefined ? this.lines.get(position) : this.line(now)
  }

  link(position: string): Link | null {
    return this.line(position)?.link ?? null
  }

  /** The listener gets each reading, and null whenever the device did not answer. Returns the way to stop it. */
  listen(position: string, listener: Listener): () => void {
    const line = this.line(position)
    line?.listeners.add(listener)
    return () => line?.listeners.delete(listener)
  }

  /**
   * Resolves when the newest reading is a live one: at once, or with the next answer of a line that is late. A line
   * that fails, or is later than a reading may be old, ends the wait too.
   */
  async fresh(position: string): Promise<void> {
    const line = this.line(position)
    if (!line || !isStale(line.latest?.at ?? 0, this.clock)) return
    await new Promise<void>((resolve) => {
      const end = () => {
        clearTimeout(timer)
        line.listeners.delete(end)
        resolve()
      }
      const timer = setTimeout(end, STALE_AFTER_MS)
      line.listeners.add(end)
    })
  }

  current(position: string): LiveValue {
    const line = this.line(position)
    const latest = line?.latest ?? null
    return {
      position,
      at: latest?.at ?? null,
      shown: latest?.shown ?? null,
      signal: latest?.signal ?? null,
      temperature: latest?.temperature ?? null,
      blindSince: line?.blindSince ?? null,
    }
  }

  all(): LiveValue[] {
    return [...this.lines.keys()].map((position) => this.current(position))
  }

  stop(): void {
    for (const line of this.lines.values()) line.stop()
  }
}
