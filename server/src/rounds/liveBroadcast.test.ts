import type { LiveValue } from '@frustum/contract'
import { afterEach, expect, it, vi } from 'vitest'
import { liveBroadcast } from './liveBroadcast.ts'

afterEach(() => void vi.useRealTimers())

it('tells all who listen what has changed, in one text, and looks no more when nobody does', () => {
  vi.useFakeTimers()
  const values: Record<string, number> = { a: 1, b: 2 }
  let looks = 0
  const all = () => {
    looks++
    return Object.entries(values).map(([position, shown]) => ({ position, shown }) as LiveValue)
  }
  const broadcast = liveBroadcast({ all })
  const heard: Record<string, string[]> = { one: [], two: [] }
  const leaveOne = broadcast((text) => heard.one?.push(text))
  values.a = 1.5
  vi.advanceTimersByTime(500)
  const leaveTwo = broadcast((text) => heard.two?.push(text))
  vi.advanceTimersByTime(500)
  values.b = 3
  values.c = 4
  vi.advanceTimersByTime(500)
  const later = '[{"position":"b","shown":3},{"position":"c","shown":4}]'
  expect(heard).toEqual({ one: ['[{"position":"a","shown":1.5}]', '[]', later], two: ['[]', later] })
  leaveOne()
  leaveTwo()
  const before = looks
  vi.advanceTimersByTime(5000)
  expect(looks).toBe(before)
  // Whoever comes after that hears only of what is new to them.
  broadcast((text) => heard.one?.push(text))
  vi.advanceTimersByTime(500)
  expect(heard.one?.at(-1)).toBe('[]')
})
