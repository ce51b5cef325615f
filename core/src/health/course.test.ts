import { describe, expect, it } from 'vitest'
import { type RandomStream, randomStream } from '../statistics/random.ts'
import { type CourseTraits, courseFit, type Point } from './course.ts'
import { density, usualOf } from './usual.ts'

/** A figure in a unit of so many millivolts. */
const traitsIn = (unit: number): CourseTraits => ({
  scatter: 1.2 / unit,
  wander: 0.5 / unit,
  ageing: 0,
  ageingDiffers: 0.3 / unit,
  creeps: [1 / unit, 2.5 / unit],
  runs: [5 / unit, 12 / unit],
  jumps: [8 / unit, 25 / unit],
  comesAndGoes: 6 / unit,
})
const ZERO = traitsIn(1)
const COURSES = ['steady', 'creeping', 'running', 'jumped', 'restless'] as const
type Course = (typeof COURSES)[number]
const oneOf = <T>(all: readonly T[], random: RandomStream): T => all[Math.floor(random.uniform() * all.length)] as T

/** Ten monthly looks of a sensor of a course, drawn as the model believes that they come. */
function drawn(course: Course, random: RandomStream): Point[] {
  const scatter = 1.2 * oneOf([0.5, 1, 1, 2, 2, 4], random)
  const trend = 0.3 * random.normal()
  const began = random.uniform() < 0.3 ? 0 : 1 + Math.floor(random.uniform() * 8)
  const size = { creeping: oneOf([1, 2.5], random), running: oneOf([5, 12], random), jumped: oneOf([8, 25], random) }
  const by = course === 'steady' || course === 'restless' ? 0 : size[course] * random.normal()
  const since = 10 - oneOf([2, 3, 4], random)
  let wander = 0
  return Array.from({ length: 10 }, (_, i) => {
    wander += 0.5 * random.normal()
    const out = course === 'jumped' ? (i === 9 ? by : 0) : by * Math.max(0, i - began)
    const restless = course === 'restless' && i >= since ? 6 * random.normal() : 0
    return { day: 30 * i, value: 4 + trend * i + wander + out + restless + scatter * random.normal() }
  })
}

describe('the course of a figure', () => {
  it('is as likely as it says, of courses that are as it believes', () => {
    const random = randomStream(41)
    const stated = COURSES.flatMap((course) =>
      Array.from({ length: 200 }, () => {
        const fit = courseFit(drawn(course, random), ZERO)
        const total = COURSES.reduce((sum, c) => sum + fit[c], 0)
        return COURSES.map((c) => ({ p: fit[c] / total, right: c === course }))
      }).flat(),
    )
    for (const [low, high] of [
      [0, 0.1],
      [0.1, 0.3],
      [0.3, 0.6],
      [0.6, 1.01],
    ] as const) {
      const bin = stated.filter((s) => s.p >= low && s.p < high)
      const mean = bin.reduce((sum, s) => sum + s.p, 0) / bin.length
      const right = bin.filter((s) => s.right).length / bin.length
      // Three standard errors of the share, and what spikes and old jumps among the steady ones leave.
      expect(Math.abs(mean - right), `${low} to ${high}`).toBeLessThan(3 * Math.sqrt((0.25 * 1) / bin.length) + 0.03)
    }
  })

  it('knows which way it went, and does not care in which unit or from where', () => {
    const falling = Array.from({ length: 8 }, (_, i) => ({ day: 28 * i, value: 100 - 6 * i + (i % 2) }))
    const fit = courseFit(falling, ZERO)
    expect(fit.up.running).toBeLessThan(0.01)
    const same = courseFit(
      falling.map((p) => ({ day: p.day + 500, value: p.value / 1000 })),
      traitsIn(1000),
    )
    for (const course of COURSES) expect(same[course]).toBeCloseTo(fit[course], 6)
  })

  it('is not turned by one visit that lay apart, nor by a refill that is known', () => {
    const looks = (values: number[]) => values.map((value, i) => ({ day: 30 * i, value }))
    const apart = courseFit(looks([2, 1, 3, 30, 2, 3, 1, 2, 3]), ZERO)
    expect(apart.steady).toBeGreaterThan(3 * Math.max(apart.creeping, apart.running, apart.jumped))
    const stepped = looks([2, 1, 3, 2, 1, 2, 22])
    const unknown = courseFit(stepped, ZERO)
    const known = courseFit(stepped, ZERO, [175])
    expect(unknown.jumped).toBeGreaterThan(20 * unknown.steady)
    expect(known.jumped).toBeLessThan(2 * known.steady)
    expect(() => courseFit(looks([1, 2]), ZERO)).toThrow(/three looks/)
  })
})

describe('what is usual of a figure', () => {
  it('learns its scatter from its own looks, and believes no single wild one', () => {
    const random = randomStream(7)
    const quiet = Array.from({ length: 40 }, () => 5 + 0.1 * random.normal())
    expect(usualOf(quiet, 0.5).scatter).toBeLessThan(0.22)
    expect(usualOf([5, 5.1, 4.9], 0.5).scatter).toBeGreaterThan(0.35)
    expect(usualOf([...quiet, 900], 0.5)).toMatchObject({ middle: expect.closeTo(5, 1) })
    expect(usualOf([...quiet, 900], 0.5).scatter).toBeLessThan(0.35)
    expect(usualOf([], 0.5)).toEqual({ middle: 0, scatter: 1 })
  })

  it('has a density that adds up to one', () => {
    let sum = 0
    for (let x = -200; x <= 200; x += 0.01) sum += 0.01 * density(x, 3, 2)
    expect(sum).toBeCloseTo(1, 4)
    // Student's t of five degrees of freedom: 0.37961 in the middle (tables).
    expect(density(3, 3, 1)).toBeCloseTo(0.3796, 4)
  })
})
