import type { RandomStream } from '../../../core/src/statistics/random.ts'

/**
 * Errors of sensors over years, from stochastic differential equations stepped day by day (Euler and Maruyama): what a
 * sensor would be off by, had nobody ever touched it. Apart from the other simulations, with equations and figures of its
 * own; in pH, about those of ordinary electrodes (common practice, no source).
 */
export const DRIFT_SORTS = [
  'calm',
  'wandering rate',
  'heavy steps',
  'wearing out',
  'wearing out suddenly',
  'coming back',
  'scatter varies',
  'by the season',
] as const
export type DriftSort = (typeof DRIFT_SORTS)[number]

/** Sorts that nobody looked at while the forecast was changed. */
export const HELD_BACK_DRIFT = ['two moods', 'long memory', 'creeping to rest'] as const
export type HeldBackDrift = (typeof HELD_BACK_DRIFT)[number]

export interface OtherCourse {
  sort: DriftSort | HeldBackDrift
  /** Error on each day. */
  untouched: Float64Array
  /** Standard deviation of a visit's reading on each day. */
  noise: Float64Array
}

/** A site has sensors of several sorts, and its water makes all of them drift more or less. */
export function drawSite(sensors: number, days: number, random: RandomStream): OtherCourse[] {
  const harsh = Math.exp(0.45 * random.normal())
  // How many of each sort differs widely from site to site (exponential weights); calm ones are twice as many.
  const weights = DRIFT_SORTS.map((_, i) => -Math.log(1 - random.uniform()) * (i === 0 ? 2 : 1))
  const total = weights.reduce((a, b) => a + b, 0)
  return Array.from({ length: sensors }, () => {
    const place = random.uniform() * total
    const upTo = (i: number) => weights.slice(0, i + 1).reduce((a, b) => a + b, 0)
    const sort = DRIFT_SORTS.find((_, i) => place < upTo(i)) ?? 'calm'
    return drawCourse(sort, { days, harsh, random: random.fork() })
  })
}

/**
 * Two sensors of one sort in the same water. What comes to both is this share of their variance: 0 for none of it, 1 for
 * all.
 */
export function drawPair(sort: DriftSort, days: number, together: number, random: RandomStream): OtherCourse[] {
  const harsh = Math.exp(0.45 * random.normal())
  const [one, other, both] = [0, 1, 2].map(() => drawCourse(sort, { days, harsh, random: random.fork() }))
  const mixed = (own: OtherCourse): OtherCourse => ({
    ...own,
    untouched: own.untouched.map(
      (v, day) => Math.sqrt(1 - together) * v + Math.sqrt(together) * ((both as OtherCourse).untouched[day] as number),
    ),
  })
  return [mixed(one as OtherCourse), mixed(other as OtherCourse)]
}

/** One sensor's untouched course. */
export function drawCourse(
  sort: DriftSort,
  { days, harsh = 1, random }: { days: number; harsh?: number; random: RandomStream },
): OtherCourse {
  const sign = random.uniform() < 0.5 ? -1 : 1
  const rate = sign * harsh * 2.4e-4 * Math.exp(0.7 * random.normal())
  const diffusion = harsh * 1.1e-3 * Math.exp(0.5 * random.normal())
  const untouched = new Float64Array(days + 1)
  const noise = new Float64Array(days + 1)
  const correlation = random.between(40, 250)
  const wanders = harsh * random.between(3e-4, 1.1e-3)
  const hazard = random.between(0.6, 2.6) / 365
  const wear = random.between(110, 420)
  const failing = random.between(0.35, 1.1) * days
  const back = random.between(12, 110)
  const level = harsh * random.between(0.02, 0.06)
  const swing = random.between(0.02, 0.09)
  const phase = random.between(0, 2 * Math.PI)
  let slow = rate
  let volatility = 0
  let error = 0
  for (let day = 0; day <= days; day++) {
    volatility += -volatility / 60 + 0.16 * random.normal()
    const scatter = sort === 'scatter varies' ? Math.exp(1.1 * volatility) : 1
    noise[day] = sort === 'scatter varies' ? 0.011 * Math.min(5, Math.sqrt(scatter)) : 0.009
    untouched[day] = error + (sort === 'by the season' ? swing * Math.sin((2 * Math.PI * day) / 365.25 + phase) : 0)
    const shock = diffusion * scatter * random.normal()
    if (sort === 'wandering rate')
      slow += (rate - slow) / correlation + wanders * Math.sqrt(2 / correlation) * random.normal()
    if (sort === 'coming back') error += -error / back + level * Math.sqrt(2 / back) * random.normal()
    else if (sort === 'wearing out') error += rate * Math.exp(Math.min(4, day / wear)) * 0.5 + shock
    else if (sort === 'wearing out suddenly') {
      error += rate * 0.6 + shock + (day > failing ? sign * harsh * 2.2e-3 * Math.min(1, (day - failing) / 90) : 0)
    } else error += slow + shock
    if (sort === 'heavy steps' && random.uniform() < hazard) {
      // A Student's t of two degrees of freedom: most steps are small, some are very large.
      const t = random.normal() / Math.sqrt(-Math.log(1 - random.uniform()))
      error += harsh * 0.035 * Math.max(-8, Math.min(8, t))
    }
  }
  return { sort, untouched, noise }
}

/** A site of sorts that were held back. */
export function drawHeldBackSite(sensors: number, days: number, random: RandomStream): OtherCourse[] {
  const harsh = Math.exp(0.45 * random.normal())
  return Array.from({ length: sensors }, (_, i) => {
    const sort = HELD_BACK_DRIFT[i % HELD_BACK_DRIFT.length] as HeldBackDrift
    return {
      sort,
      untouched: heldBackCourse(sort, days, harsh, random.fork()),
      noise: new Float64Array(days + 1).fill(0.01),
    }
  })
}

function heldBackCourse(sort: HeldBackDrift, days: number, harsh: number, random: RandomStream): Float64Array {
  const untouched = new Float64Array(days + 1)
  const quick = harsh * random.between(8e-4, 2.5e-3) * (random.uniform() < 0.5 ? -1 : 1)
  const rests = harsh * 0.12 * random.normal()
  const within = random.between(60, 300)
  const memory = [5, 40, 300].map((time) => ({ time, level: 0, size: harsh * random.between(0.008, 0.03) }))
  let [isQuick, error] = [random.uniform() < 0.3, 0]
  for (let day = 1; day <= days; day++) {
    const shock = 9e-4 * harsh * random.normal()
    if (random.uniform() < 1 / (isQuick ? 60 : 150)) isQuick = !isQuick
    if (sort === 'two moods') error += (isQuick ? quick : 0.05 * quick) + shock
    else if (sort === 'creeping to rest') error += (rests - error) / within + shock
    else {
      for (const m of memory) m.level += -m.level / m.time + m.size * Math.sqrt(2 / m.time) * random.normal()
      error = memory.reduce((sum, m) => sum + m.level, 0)
    }
    untouched[day] = error
  }
  return untouched
}
