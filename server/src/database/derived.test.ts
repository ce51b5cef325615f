import { describe, expect, it } from 'vitest'
import { derived } from './derived.ts'
import type { Database } from './open.ts'

const database = () => ({}) as Database

describe('what is derived from the records', () => {
  it('stands as long as all that it rests on is the same, by identity', () => {
    const db = database()
    const [forecast, other] = [{ rate: 1 }, { rate: 1 }]
    let computed = 0
    const ask = (...restsOn: unknown[]) => derived(db, 'cone', restsOn, () => ++computed)
    expect([ask('7', forecast), ask('7', forecast), ask('8', forecast), ask('8', other), ask('8')]).toEqual([
      1, 1, 2, 3, 4,
    ])
    expect(derived(db, 'plan', ['8'], () => 'own')).toBe('own')
    expect(derived(database(), 'cone', ['8'], () => 'another database')).toBe('another database')
  })

  it('gives what only grows its former value to go on from', () => {
    const db = database()
    const grow = (to: number) =>
      derived<number[]>(db, 'lines', [to], (before = []) => [
        ...before,
        ...Array.from({ length: to - before.length }, (_, i) => before.length + i),
      ])
    expect(grow(2)).toEqual([0, 1])
    expect(grow(3)).toEqual([0, 1, 2])
  })

  it('does not keep a failure, and does not throw away what came after it', async () => {
    const db = database()
    const fail = () => derived<Promise<number>>(db, 'health', [1], () => Promise.reject(new Error('no')))
    await expect(fail()).rejects.toThrow('no')
    await expect(derived(db, 'health', [1], () => Promise.resolve(5))).resolves.toBe(5)
    const failing = derived<Promise<number>>(db, 'health', [2], () => Promise.reject(new Error('late')))
    const next = derived(db, 'health', [3], () => Promise.resolve(6))
    await expect(failing).rejects.toThrow('late')
    expect(derived(db, 'health', [3], () => Promise.resolve(7))).toBe(next)
  })

  it('holds no more than the newest', () => {
    const db = database()
    for (let i = 0; i < 20_001; i++) derived(db, `visit ${i}`, [], () => i)
    expect(derived(db, 'visit 0', [], () => 'anew')).toBe('anew')
    expect(derived(db, 'visit 20000', [], () => 'anew')).toBe(20_000)
  })
})
