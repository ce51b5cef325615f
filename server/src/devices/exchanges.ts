import type { Clock } from '@frustum/contract'

/** How many of a connection are kept. */
const KEPT = 50
/** Most bytes of one that are kept, each way. */
const MOST_BYTES = 300
const HOUR_MS = 3_600_000

/** What was sent, what came back, and what both say. */
export interface Exchange {
  at: number
  /** What was asked, in words. */
  words: string
  /** What came of it: of a failure, why. */
  outcome: string
  failed: boolean
  sent: Buffer
  received: Buffer
  /** ms until it ended; null of what came by itself. */
  took: number | null
}

/** Bytes of one direction, up to what is kept. */
export class Kept {
  private parts: Buffer[] = []
  private size = 0

  add(bytes: Uint8Array): void {
    if (this.size >= MOST_BYTES) return
    // A copy: what it was cut from may be much larger.
    const part = Buffer.from(bytes.subarray(0, MOST_BYTES - this.size))
    this.parts.push(part)
    this.size += part.length
  }

  take(): Buffer {
    const all = Buffer.concat(this.parts)
    this.parts = []
    this.size = 0
    return all
  }
}

/** The last exchanges of a connection, and how it did: how fast it answers, how often it fails. */
export class Exchanges {
  private readonly last: Exchange[] = []
  private readonly tookOf: number[] = []
  private failures: number[] = []

  constructor(private readonly clock: Clock) {}

  now(): number {
    return this.clock.now()
  }

  note(exchange: Exchange): void {
    this.last.push(exchange)
    if (this.last.length > KEPT) this.last.shift()
    if (exchange.failed) {
      this.failures.push(exchange.at)
      // A line that is down for days fails at every try: only the hour is counted.
      if (this.failures.length > 4000) this.failures = this.failures.slice(-2000)
    } else if (exchange.took !== null) {
      this.tookOf.push(exchange.took)
      if (this.tookOf.length > KEPT) this.tookOf.shift()
    }
  }

  /** Newest first. */
  list(): Exchange[] {
    return [...this.last].reverse()
  }

  /** Median of the last answers, ms; null before the first. */
  answerMs(): number | null {
    const sorted = [...this.tookOf].sort((a, b) => a - b)
    return sorted[Math.floor(sorted.length / 2)] ?? null
  }

  /** Failures of the last hour. */
  failuresAnHour(): number {
    const since = this.now() - HOUR_MS
    return this.failures.filter((at) => at > since).length
  }
}
