import type { RandomStream } from '../../../core/src/statistics/random.ts'

/** Ways in which a number of a sensor ages (its slope in percent, say), from 100 downwards. */
export const LIFE_SORTS = ['evenly', 'quicker and quicker', 'by fits', 'since an upset', 'slower and slower'] as const
export type LifeSort = (typeof LIFE_SORTS)[number]

export interface SimulatedLife {
  sort: LifeSort
  /** The number itself on each day. */
  course: Float64Array
  /** When it was read, days from the beginning, and what was read. */
  readings: { day: number; value: number }[]
}

const DAYS = 2500

/** One life: a course, stepped day by day, and readings of it at the usual distances of visits. */
export function simulateLife(sort: LifeSort, random: RandomStream): SimulatedLife {
  const course = new Float64Array(DAYS)
  const speed = 0.011 * Math.exp(0.6 * random.normal())
  const shake = 0.02 * Math.exp(0.6 * random.normal())
  const doubles = random.between(150, 500)
  const upset = random.between(100, 500)
  const fades = random.between(150, 600)
  let value = 98.5 + 0.8 * random.normal()
  let pace = speed
  for (let day = 0; day < DAYS; day++) {
    course[day] = value
    // The pace of all of them wanders.
    pace *= Math.exp(0.015 * random.normal() - 0.003 * Math.log(pace / speed))
    const now =
      sort === 'quicker and quicker'
        ? 0.4 * pace * 2 ** Math.min(5, day / doubles)
        : sort === 'since an upset'
          ? pace * (day < upset ? 0.3 : 2.5)
          : sort === 'slower and slower'
            ? 2.5 * pace * Math.exp(-day / fades)
            : pace
    if (sort === 'by fits') value -= random.uniform() < 1 / 40 ? -40 * speed * Math.log(1 - random.uniform()) : 0
    else value -= now
    if (sort === 'since an upset' && Math.floor(upset) === day) value -= random.between(0.5, 4)
    value += shake * random.normal()
  }
  const read = 0.3 * Math.exp(0.5 * random.normal())
  const every = random.between(12, 55)
  const readings: SimulatedLife['readings'] = []
  for (let day = 0; day < DAYS; day += Math.max(2, Math.round(every * random.between(0.6, 1.4))))
    readings.push({ day, value: (course[day] as number) + read * random.normal() })
  return { sort, course, readings }
}

/** The first day on which the number is below a limit; none in the time that is simulated. */
export function firstDayBelow({ course }: Pick<SimulatedLife, 'course'>, limit: number): number | null {
  const day = course.findIndex((v) => v < limit)
  return day < 0 ? null : day
}
