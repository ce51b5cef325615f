import { RateLimiterMemory } from 'rate-limiter-flexible'
import { Problem } from '../problem.ts'

/** The first lock, s; each further series of wrong tries within a day locks for twice as long. */
const FIRST_LOCK = 15 * 60
const DAY = 24 * 60 * 60

/** Counts wrong passwords or PINs by key. A series of them locks the key, each time for longer. */
export class WrongTries {
  readonly #tries: RateLimiterMemory
  readonly #series = new RateLimiterMemory({ points: Number.MAX_SAFE_INTEGER, duration: DAY })

  /** @param most wrong tries in a series */
  constructor(most: number) {
    this.#tries = new RateLimiterMemory({ points: most, duration: DAY })
  }

  /**
   * Counts a try before it is checked, so that many at once are counted too.
   * @returns whether this is the last one of a series
   * @throws Problem 429 while the key is locked
   */
  async count(key: string): Promise<boolean> {
    try {
      return (await this.#tries.consume(key)).remainingPoints === 0
    } catch (error) {
      const { msBeforeNext = 0 } = error as { msBeforeNext?: number }
      throw new Problem(429, 'too-many-tries', 'Too many wrong tries.', {
        hint: `Try again in ${waitText(msBeforeNext)}.`,
      })
    }
  }

  /** Locks a key at the end of a series. */
  async lock(key: string): Promise<void> {
    const { consumedPoints } = await this.#series.consume(key)
    await this.#tries.block(key, Math.min(DAY, FIRST_LOCK * 2 ** (consumedPoints - 1)))
  }

  /** The right one was given: earlier tries no longer count. */
  async clear(key: string): Promise<void> {
    await this.#tries.delete(key)
  }

  /** Takes back one try that was not wrong; of keys that many people share. */
  async forgive(key: string): Promise<void> {
    await this.#tries.reward(key)
  }
}

function waitText(ms: number): string {
  const minutes = Math.max(1, Math.ceil(ms / 60_000))
  if (minutes === 1) return 'a minute'
  return minutes < 120 ? `${minutes} minutes` : `${Math.ceil(minutes / 60)} hours`
}
