import { systemClock } from '@frustum/contract'
import pino from 'pino'
import { describe, expect, it } from 'vitest'
import type { LinkReading } from './link.ts'
import { LiveValues } from './liveValues.ts'

describe('waiting for a fresh reading', () => {
  /** A line that answers when it is told to. */
  async function slowLine() {
    let answer: (reading: LinkReading | null) => void = () => undefined
    const live = new LiveValues(20, pino({ level: 'silent' }), systemClock)
    live.add('X', {
      read: () =>
        new Promise((resolve, reject) => {
          answer = (reading) => (reading ? resolve(reading) : reject(new Error('silent')))
        }),
      readCalibration: () => Promise.reject(new Error('not asked')),
      writeCalibration: () => Promise.reject(new Error('not asked')),
      close: () => undefined,
    })
    const old = { at: Date.now() - 10_000, signal: 1, temperature: 25, shown: 7 }
    answer(old)
    await expect.poll(() => live.current('X').signal).toBe(1)
    // The next poll is under way when its way to answer has changed.
    const before = answer
    await expect.poll(() => answer !== before).toBe(true)
    return { live, answer: (reading: LinkReading | null) => answer(reading) }
  }

  it('takes the next one of a line that is late', async () => {
    const { live, answer } = await slowLine()
    const fresh = live.fresh('X')
    answer({ at: Date.now(), signal: 2, temperature: 25, shown: 7 })
    await fresh
    expect(live.current('X').signal).toBe(2)
    live.stop()
  })

  it('ends when the line fails, or when nothing comes, and does not wait at all for a live one', async () => {
    const { live, answer } = await slowLine()
    const failed = live.fresh('X')
    answer(null)
    await failed
    const began = Date.now()
    await live.fresh('X')
    expect(Date.now() - began).toBeGreaterThan(2450)
    answer({ at: Date.now(), signal: 3, temperature: 25, shown: 7 })
    await expect.poll(() => live.current('X').signal).toBe(3)
    const again = Date.now()
    await Promise.all([live.fresh('X'), live.fresh('not linked')])
    expect(Date.now() - again).toBeLessThan(500)
    live.stop()
  })
})
