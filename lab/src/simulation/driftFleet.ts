import type { RandomStream } from '../../../core/src/statistics/random.ts'

/**
 * Fleets with known truth, against which the forecast and the interval policies are measured. Figures are invented,
 * in pH, about those of ordinary electrodes (common practice, no source).
 */
export const FLEET_GROUPS = ['steady', 'ageing', 'reverting', 'stepping', 'seasonal', 'turning'] as const
export type FleetGroup = (typeof FLEET_GROUPS)[number]

/** A dozen as a site has them: most are steady. */
export const FLEET_DOZEN: readonly FleetGroup[] = [
  'steady',
  'ageing',
  'steady',
  'reverting',
  'steady',
  'seasonal',
  'steady',
  'turning',
  'ageing',
  'stepping',
  'reverting',
  'seasonal',
]

export interface SimulatedCourse {
  group: FleetGroup
  /** Error on each day, had nobody ever touched the sensor. */
  untouched: Float64Array
  /** Standard deviation of a visit's reading. */
  noise: number
}

/** Most sensors hardly drift: a log-normal of the rate with this median, per day, and this spread of its logarithm. */
const MEDIAN_RATE = 0.006 / 30
const RATE_SPREAD = 0.9
/** A few run away. */
const RUNAWAYS = 0.07
const RUNAWAY_RATE = [0.003, 0.01] as const
const MEDIAN_WALK = 0.0055
const WALK_SPREAD = 0.8

/** A sensor's untouched course over so many days. `scale` makes all its figures larger. */
export function simulateCourse(group: FleetGroup, days: number, random: RandomStream, scale = 1): SimulatedCourse {
  const sign = random.uniform() < 0.5 ? -1 : 1
  const runsAway = random.uniform() < RUNAWAYS
  const rate =
    sign * (runsAway ? random.between(...RUNAWAY_RATE) : MEDIAN_RATE * Math.exp(RATE_SPREAD * random.normal()))
  const walk = (MEDIAN_WALK * Math.exp(WALK_SPREAD * random.normal())) / Math.sqrt(30)
  const swing = random.between(0.03, 0.1)
  const phase = random.between(0, 365)
  const turnsAt = random.between(0.25, 0.8) * days
  const ages = random.between(200, 800)
  const back = random.between(20, 90)
  const rest = random.between(0.02, 0.045)
  const untouched = new Float64Array(days + 1)
  let wandered = 0
  let course = 0
  let level = 0
  let stepped = 0
  for (let day = 1; day <= days; day++) {
    wandered += walk * random.normal()
    if (group === 'ageing') course += rate * (1 + day / ages)
    else if (group === 'turning') course += day < turnsAt ? rate : -rate
    else if (group !== 'reverting') course += rate
    if (group === 'stepping' && random.uniform() < 0.7 / 365) {
      stepped += (random.uniform() < 0.5 ? -1 : 1) * random.between(0.03, 0.12)
    }
    level += -level / back + rest * Math.sqrt(2 / back) * random.normal()
    const season = group === 'seasonal' ? swing * Math.sin((2 * Math.PI * (day + phase)) / 365) : 0
    untouched[day] = scale * (group === 'reverting' ? level : course + wandered + stepped + season)
  }
  return { group, untouched, noise: 0.01 * scale }
}
