import { type CholeskyFactor, choleskyFactor, dot } from '../statistics/cholesky.ts'
import { normalCdf } from '../statistics/normalDistribution.ts'

/** A figure of a visit; days. */
export interface Point {
  day: number
  value: number
}

/** What is usual of a figure, in its own unit; times are months. */
export interface CourseTraits {
  /** Scatter from look to look of a usual sensor, and its wander in the root of a month (sd). */
  scatter: number
  wander: number
  /** What is lost a month by ordinary ageing, and how much that differs between sensors (sd). */
  ageing: number
  ageingDiffers: number
  /** Sizes of what is out of the ordinary (sd): trends a month, slow and quick, and jumps. */
  creeps: readonly number[]
  runs: readonly number[]
  jumps: readonly number[]
  /** By how much it comes and goes from visit to visit (sd); null where that is not asked. */
  comesAndGoes: number | null
}

/** How well each course fits, relative to one another, and the chance that it went up, given that it moved. */
export interface CourseFit {
  steady: number
  creeping: number
  running: number
  jumped: number
  /** It came and went from visit to visit of late. */
  restless: number
  up: { creeping: number; running: number; jumped: number }
}

const MONTH = 30
/** Scatter of a sensor against the usual one, and how common; it is learnt from its own points. */
const SCATTERS = [
  [0.5, 0.2],
  [1, 0.4],
  [2, 0.3],
  [4, 0.1],
] as const
/** Share of steady courses in which one visit before the last lies apart, or that stepped once long ago. */
const APART = 0.15
/** Share of trends that were there from the first look on. */
const ALWAYS = 0.3
/** A jump at one of the newest visits is news, most of all at the last: shares, newest first. */
const JUMP_SHARES = [0.7, 0.2, 0.1] as const
/** What comes and goes has done so for so many visits. */
const RESTLESS_SINCE = [2, 3, 4]

type CourseName = 'steady' | 'creeping' | 'running' | 'jumped' | 'restless'

/** Of the likeliest course: what is less likely than this adds nothing that could be seen. */
const NEGLIGIBLE = 1e-5

/** One thing out of the ordinary: at look k alone, from look k on, or growing from look k on. */
type Form = 'once' | 'step' | 'ramp'

interface Shape {
  course: CourseName
  form: Form
  at: number
  weight: number
  sizes: readonly number[]
}

/**
 * How well the courses of a figure explain its looks: marginal likelihoods of straight Gaussian models (a level, a
 * wander, ordinary ageing, and one thing out of the ordinary: a trend from some visit on, or a jump), averaged over
 * when it began, how large it is and how much the sensor scatters. What is known of now counts: a jump is one of the
 * newest visits.
 * @param points oldest first, at least 3
 * @param fresh days on which the figure may have changed for a known reason: a refill, another place
 * @throws RangeError for fewer than three points
 */
export function courseFit(points: readonly Point[], traits: CourseTraits, fresh: readonly number[] = []): CourseFit {
  const n = points.length
  if (n < 3) throw new RangeError('A course needs at least three looks.')
  const months = points.map((p) => (p.day - (points[0] as Point).day) / MONTH)
  const middle = points.reduce((sum, p) => sum + p.value, 0) / n
  const y = Float64Array.from(points, (p, i) => p.value - middle + traits.ageing * (months[i] as number))
  const shapes = shapesOf(n, traits)
  const breaks = fresh.map((day) => points.findIndex((p) => p.day >= day)).filter((k) => k > 0)
  const level = 100 * Math.max(...traits.jumps) ** 2
  const usual = months.map((a, i) =>
    months.map((b, j) => {
      const since = breaks.filter((k) => i >= k && j >= k).length
      return traits.wander ** 2 * Math.min(a, b) + traits.ageingDiffers ** 2 * a * b + level + since * level
    }),
  )
  const factorOf = (sd: number, restlessSince = n, by = 0) =>
    choleskyFactor(
      usual.map((row, i) => {
        const scatter = sd ** 2 + (i >= restlessSince ? by ** 2 : 0)
        return row.map((value, j) => (i === j ? value + scatter : value))
      }),
    )
  const logOf = (factor: CholeskyFactor) => -0.5 * (factor.logDeterminant + squared(factor.whitened(y)))
  const { comesAndGoes } = traits
  const restless = comesAndGoes === null ? [] : RESTLESS_SINCE.filter((since) => since < n)
  const logs: { course: CourseName; log: number; up: number }[] = []
  for (const [times, share] of SCATTERS) {
    const sd = times * traits.scatter
    for (const since of restless) {
      const log = logOf(factorOf(sd, n - since, comesAndGoes ?? 0)) + Math.log(share / restless.length)
      logs.push({ course: 'restless', log, up: 0 })
    }
    const factor = factorOf(sd)
    const plain = logOf(factor) + Math.log(share)
    const rest = factor.whitened(y)
    const forms = whitenedForms(factor, months)
    logs.push({ course: 'steady', log: plain + Math.log(1 - APART), up: 0 })
    for (const { course, form, at, weight, sizes } of shapes) {
      const shape = forms[form][at] as Float64Array
      const [along, power] = [dot(shape, rest), squared(shape)]
      for (const size of sizes) {
        const grown = 1 + size ** 2 * power
        const log =
          plain + Math.log(weight / sizes.length) - 0.5 * Math.log(grown) + (0.5 * (size * along) ** 2) / grown
        logs.push({ course, log, up: (size * along) / Math.sqrt(grown) })
      }
    }
  }
  const totals = { steady: 0, creeping: 0, running: 0, jumped: 0, restless: 0 }
  const up = { ...totals }
  const top = Math.max(...logs.map((l) => l.log))
  for (const l of logs) {
    const weight = Math.exp(l.log - top)
    if (weight < NEGLIGIBLE) continue
    totals[l.course] += weight
    up[l.course] += weight * normalCdf(l.up)
  }
  const upOf = (course: CourseName) => (totals[course] > 0 ? up[course] / totals[course] : 0.5)
  return {
    ...totals,
    up: { creeping: upOf('creeping'), running: upOf('running'), jumped: upOf('jumped') },
  }
}

function shapesOf(n: number, { creeps, runs, jumps }: CourseTraits): Shape[] {
  const from = (first: number, count: number) => Array.from({ length: Math.max(0, count) }, (_, i) => first + i)
  const news = JUMP_SHARES.slice(0, Math.min(JUMP_SHARES.length, n - 2))
  const share = news.reduce<number>((a, b) => a + b, 0)
  const apart = APART / (n - 1 + Math.max(0, n - 1 - JUMP_SHARES.length))
  return [
    ...from(0, n - 1).map((at): Shape => ({ course: 'steady', form: 'once', at, weight: apart, sizes: jumps })),
    ...from(1, n - 1 - JUMP_SHARES.length).map(
      (at): Shape => ({ course: 'steady', form: 'step', at, weight: apart, sizes: jumps }),
    ),
    ...from(0, n - 1).flatMap((at): Shape[] => {
      const weight = at === 0 ? ALWAYS : (1 - ALWAYS) / (n - 2)
      return [
        { course: 'creeping', form: 'ramp', at, weight, sizes: creeps },
        { course: 'running', form: 'ramp', at, weight, sizes: runs },
      ]
    }),
    ...news.map(
      (part, k): Shape => ({ course: 'jumped', form: 'step', at: n - 1 - k, weight: part / share, sizes: jumps }),
    ),
  ]
}

/** The forms at each look, whitened: steps are sums of single looks, and ramps of steps. */
function whitenedForms(factor: CholeskyFactor, months: readonly number[]): Record<Form, Float64Array[]> {
  const n = months.length
  const once = months.map((_, k) => factor.whitened(Float64Array.from(months, (_, i) => (i === k ? 1 : 0))))
  const [step, ramp] = [[...once], once.map(() => new Float64Array(n))]
  for (let k = n - 2; k >= 0; k--) {
    const later = step[k + 1] as Float64Array
    const between = (months[k + 1] as number) - (months[k] as number)
    step[k] = (once[k] as Float64Array).map((v, i) => v + (later[i] as number))
    ramp[k] = (ramp[k + 1] as Float64Array).map((v, i) => v + between * (later[i] as number))
  }
  return { once, step, ramp }
}

const squared = (a: Float64Array): number => dot(a, a)
