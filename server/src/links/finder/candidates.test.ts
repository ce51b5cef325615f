import { BYTE_ORDERS, type RegisterPlace, wordsOfType } from '@frustum/contract'
import { randomStream } from '@frustum/core'
import { describe, expect, it } from 'vitest'
import { heavy } from '../../../../core/src/testing/heavy.ts'
import { encodeRegisters } from '../modbus/registers.ts'
import { findNumber, type Hypothesis, type Look, type Snapshot } from './candidates.ts'
import { readDisplayed } from './display.ts'

type Random = ReturnType<typeof randomStream>
const pick = <T>(random: Random, of: readonly T[]): T => of[Math.floor(random.uniform() * of.length)] as T
const TYPES = ['int16', 'uint16', 'int32', 'uint32', 'float32', 'float64', 'bcd16', 'bcd32'] as const

/** How a number is written somewhere in a map. */
interface Written extends Pick<RegisterPlace, 'address' | 'type' | 'order'> {
  decimals: number
  value: (seconds: number) => number
}

const isFloat = (type: RegisterPlace['type']) => type.startsWith('float')

/**
 * A device with 200 registers, as makers fill them: a few channels in one way of writing, limits, twins and set points
 * near them; dates, counters and serial numbers between.
 */
function device(random: Random) {
  const house = {
    type: pick(random, TYPES),
    order: pick(random, BYTE_ORDERS),
    decimals: 2 + Math.floor(3 * random.uniform()),
  }
  const most = { bcd16: 2, int16: 3, uint16: 3 }[house.type as string] ?? 4
  const decimals = isFloat(house.type) ? 0 : Math.min(most, house.decimals)
  // In the tank, then in a buffer: it moves at 60 s and settles within a minute.
  const tank = 6.5 + 2 * random.uniform()
  const buffer = random.uniform() < 0.5 ? 4.01 : 10.05
  const settle = (t: number, seconds: number) => 1 - Math.exp(-Math.max(0, t - 60) / seconds)
  const ph = (t: number) => tank + (buffer - tank) * settle(t, 12) + 0.004 * Math.sin(t / 7)
  const celsius = (t: number) => 24.6 - 2.5 * settle(t, 40) + 0.02 * Math.sin(t / 9)
  const values: { value: (t: number) => number; as?: Partial<Written> }[] = [
    { value: ph },
    { value: celsius, as: { decimals: Math.min(decimals, 1) } },
    { value: (t) => -58.2 * (ph(t) - 7) + 3.1, as: { decimals: Math.min(decimals, 1) } },
    // Every other device keeps what moves along: a slow mean, a coarse copy, what it reads uncorrected.
    ...(random.uniform() < 0.5
      ? [
          { value: (t: number) => ph(t - 25) },
          { value: (t: number) => Math.round(10 * ph(t)) / 10 },
          { value: (t: number) => ph(t) + 0.09 },
        ]
      : []),
    { value: () => tank + 0.01 },
    { value: () => 8.5 },
    { value: () => 6 },
    { value: (t) => 7 + 0.3 * Math.sin(t / 50) },
  ]
  const words = new Map<number, (t: number) => number>()
  const written: Written[] = []
  const base = pick(random, [0, 0, 100, 1000, 4000])
  let address = base
  for (const { value, as } of values.sort(() => random.uniform() - 0.5)) {
    address += Math.floor(12 * random.uniform())
    const one: Written = { address, ...house, decimals, value, ...as }
    const length = wordsOfType(one.type)
    written.push(one)
    for (let i = 0; i < length; i++) {
      words.set(address + i, (t) => {
        const v = isFloat(one.type) ? value(t) : Math.round(value(t) * 10 ** one.decimals)
        const fits = one.type.startsWith('u') || one.type.startsWith('bcd') ? Math.max(0, v) : v
        return encodeRegisters(fits, one).readUInt16BE(2 * i)
      })
    }
    address += length
  }
  const kinds = ['zero', 'limit', 'counter', 'noise', 'text', 'flags'] as const
  for (let a = base; a < base + 200; a++) {
    if (words.has(a)) continue
    const kind = pick(random, kinds)
    const fixed = Math.floor(65536 * random.uniform())
    const small = Math.floor(1500 * random.uniform())
    words.set(a, (t) => {
      if (kind === 'zero') return 0
      if (kind === 'limit') return small
      if (kind === 'counter') return Math.floor(fixed + t) & 0xffff
      if (kind === 'noise') return Math.floor(700 + 40 * Math.sin(a + t * 1.7))
      return kind === 'flags' ? fixed & 0x0f0f : fixed
    })
  }
  const snapshot = (t: number): Snapshot => ({
    at: 1000 * t,
    tables: { holding: new Map([...words].map(([a, word]) => [a, word(t)])) },
  })
  return { ph, written: written.find((w) => w.value === ph) as Written, snapshot }
}

const isRight = (found: Hypothesis | undefined, { address, type, order, decimals }: Written): boolean =>
  found !== undefined &&
  found.address === address &&
  found.type === type &&
  (found.order === order || wordsOfType(type) === 1) &&
  found.power === (isFloat(type) ? 0 : -decimals)

describe('what a display shows, found in a device', () => {
  it('is first after two looks in 95 of 100 made-up devices, and none is called certain that is not it', () => {
    const devices = heavy(100, 500)
    let first = 0
    let certain = 0
    const wrong: unknown[] = []
    for (let seed = 1; seed <= devices; seed++) {
      const random = randomStream(seed)
      const { ph, written, snapshot } = device(random)
      // Read off some seconds before it is typed; once while the probe still settles a little.
      const look = (t: number): Look => {
        const late = 8 * random.uniform()
        return { at: 1000 * t, shown: { value: Math.round(100 * ph(t - late)) / 100, step: 0.01, unit: '' } }
      }
      const [before, after] = [look(30), look(105 + 20 * random.uniform())]
      const early = [snapshot(before.at / 1000 + 3)]
      const one = findNumber(early, [before])
      expect(one.certain).toBe(false)
      const known = one.candidates.flatMap((c) => [c, ...c.same])
      const watched = [...early, ...Array.from({ length: 50 }, (_, i) => snapshot(36 + 2 * i))]
      const two = findNumber(watched, [before, after], known)
      const [best] = two.candidates
      const right = best && [best, ...best.same].some((c) => isRight(c, written))
      if (right) first++
      if (two.certain) certain++
      if (two.certain && !right) wrong.push({ seed, best, written })
    }
    expect(wrong).toEqual([])
    expect(first / devices).toBeGreaterThanOrEqual(0.95)
    // Where nothing moves along with it, two looks are mostly enough.
    expect(certain / devices).toBeGreaterThan(0.25)
  })

  it('is one, where several ways of reading agree over all bits', () => {
    const snapshot = (word: number, at: number): Snapshot => ({
      at,
      tables: { input: new Map([0, word, 0, word].map((w, i) => [10 + i, w])), holding: new Map([[50, word]]) },
    })
    const look = (value: number, at: number): Look => ({ at, shown: { value, step: 0.01, unit: '' } })
    const { candidates, certain } = findNumber(
      [snapshot(729, 0), snapshot(401, 60_000)],
      [look(7.29, 0), look(4.01, 60_000)],
    )
    expect(candidates).toHaveLength(1)
    expect(candidates[0]).toMatchObject({ type: 'int16', power: -2, off: [0, 0] })
    expect(candidates[0]?.same.map((s) => s.type)).toContain('uint32')
    expect(certain).toBe(true)
  })

  it('is never certain while the looks are alike, nor where nothing was read near them', () => {
    const snapshot = (at: number): Snapshot => ({ at, tables: { input: new Map([[0, 729]]) } })
    const look = (value: number, at: number): Look => ({ at, shown: { value, step: 0.01, unit: '' } })
    expect(findNumber([snapshot(0)], [look(7.29, 0), look(7.29, 10)])).toMatchObject({ certain: false })
    expect(findNumber([snapshot(0)], [look(7.29, 0), look(4.01, 90_000)])).toMatchObject({ certain: false })
    expect(findNumber([snapshot(0), snapshot(90_000)], [look(7.29, 0), look(4.01, 90_000)]).candidates).toEqual([])
    expect(findNumber([], [look(7.29, 0)])).toEqual({ candidates: [], certain: false })
  })
})

it('a display is read with its digits, its sign and its unit', () => {
  expect(readDisplayed('7.29')).toEqual({ value: 7.29, step: 0.01, unit: '' })
  expect(readDisplayed(' -182,4 mV')).toEqual({ value: -182.4, step: 0.1, unit: 'mV' })
  expect(readDisplayed('76.3F')).toEqual({ value: 76.3, step: 0.1, unit: '°F' })
  expect(readDisplayed('413')).toEqual({ value: 413, step: 1, unit: '' })
  expect(readDisplayed('1,413.5 µS/cm')).toEqual({ value: 1413.5, step: 0.1, unit: 'µS/cm' })
  expect(readDisplayed('1,413')).toEqual({ problem: '"1,413" can mean 1413 or 1.413. Enter one of them.' })
  for (const text of ['', 'pH', '7.29 in tank 3', '--.--', '7.2.9'])
    expect(readDisplayed(text), text).toEqual({ problem: expect.stringMatching(/^Enter the number as the display/) })
})
