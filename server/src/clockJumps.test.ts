import { afterEach, expect, it, vi } from 'vitest'
import { watchClock } from './clockJumps.ts'

afterEach(() => void vi.useRealTimers())

it('tells when the clock was set, by how much, and nothing else', () => {
  vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval'] })
  let [wall, steady] = [1e12, 0]
  const jumps: number[] = []
  const stop = watchClock((jump) => void jumps.push(jump), { wall: () => wall, steady: () => steady })
  const minute = (set = 0) => {
    wall += 60_000 + set
    steady += 60_000
    vi.advanceTimersByTime(60_000)
  }
  const DAY = 86_400_000
  // A step of a second is none; a day on, a day back, a year on.
  for (const set of [0, 1000, DAY, 0, -DAY, 365 * DAY, 0]) minute(set)
  expect(jumps).toEqual([DAY, -DAY, 365 * DAY])
  stop()
  minute(DAY)
  expect(jumps).toHaveLength(3)
})
