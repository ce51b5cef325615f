import { systemClock } from '@frustum/contract'
import pino from 'pino'
import { describe, expect, it } from 'vitest'
import { LineProblem } from './lineProblem.ts'
import { LiveValues } from './liveValues.ts'

const SILENT = new LineProblem('no-answer', 'Unit 1 does not answer within 900 ms.')

/** A sensor at X whose last reading is ten seconds old. */
function lateLine() {
  const live = new LiveValues(pino({ level: 'silent' }), systemClock)
  live.follow([{ id: 1, code: 'X', anew: true }])
  const take = (signal: number, at = Date.now()) => live.reading(1, { at, signal, temperature: 25, shown: 7 })
  take(1, Date.now() - 10_000)
  return { live, take }
}

describe('waiting for a fresh reading', () => {
  it('takes the next one of a line that is late', async () => {
    const { live, take } = lateLine()
    const fresh = live.fresh('X')
    take(2)
    await fresh
    expect(live.current('X').signal).toBe(2)
  })

  it('ends when the line fails, or when nothing comes, and does not wait at all for a live one', async () => {
    const { live, take } = lateLine()
    const failed = live.fresh('X')
    live.failed(1, SILENT)
    await failed
    expect(live.current('X')).toMatchObject({ signal: 1, why: SILENT.message })
    const began = Date.now()
    await live.fresh('X')
    expect(Date.now() - began).toBeGreaterThan(2450)
    take(3)
    const again = Date.now()
    await Promise.all([live.fresh('X'), live.fresh('not linked')])
    expect(Date.now() - again).toBeLessThan(500)
  })
})

describe('a line that is changed while somebody listens', () => {
  it('is heard on, forgets what the other line read, and keeps what it reads where nothing changed', () => {
    const { live, take } = lateLine()
    const heard: (number | null)[] = []
    const stop = live.listen('X', (reading) => heard.push(reading?.signal ?? null))
    live.follow([{ id: 1, code: 'X', anew: false }])
    expect(live.current('X').signal).toBe(1)
    live.follow([{ id: 1, code: 'X', anew: true }])
    expect(live.current('X').signal).toBeNull()
    take(4)
    live.follow([{ id: 1, code: 'Y', anew: false }])
    take(5)
    expect(live.current('X')).toMatchObject({ at: live.current('Y').at, signal: 5 })
    stop()
    take(6)
    live.follow([])
    expect(heard).toEqual([null, 4, 5])
    expect(live.current('Y').at).toBeNull()
  })
})
