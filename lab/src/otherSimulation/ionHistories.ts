import type { Cause } from '../../../core/src/health/causes.ts'
import type { DiagnosticEvidence } from '../../../core/src/health/features.ts'
import type { ClosedVisit } from '../../../core/src/health/visitHealth.ts'
import type { RandomStream } from '../../../core/src/statistics/random.ts'
import {
  captured,
  DAY,
  drawCourse,
  drawPeople,
  type History,
  monthsSince,
  notedEvents,
  type Onset,
  type People,
  tried,
} from './historyParts.ts'

/**
 * Whole histories of ion electrodes with a known fault, from membrane and reference down to the readings that a visit
 * captures. Written apart from the other simulations and not from the table of likelihoods.
 *
 * A membrane of an ionophore in a polymer obeys Nikolsky's equation, E = E0 ± s k log10(a + Σ K aj): as the exchanger
 * leaches out it loses slope, most at the dilute end, and its own potential wanders. The reference is that of any
 * electrode: chloride that leaks away raises it, silver that is bound otherwise lowers it (Nernst; solubility products).
 */

const nernst = (celsius: number): number => 0.1984159 * (celsius + 273.15)

export const ION_CAUSES = [
  'nothing',
  'electrolyte-used-up',
  'electrolyte-contaminated',
  'junction-blocked',
  'dried-out',
  'bubble',
  'bad-standard',
  'temperature-wrong',
  'connector-wet',
  'ground-loop',
  'ion-tip-spent',
  'interfering-ion',
  'device-reset',
] as const satisfies readonly Cause[]
export type IonCause = (typeof ION_CAUSES)[number]

const ONSET: Partial<Record<IonCause, Onset>> = {
  nothing: 'never',
  'electrolyte-used-up': 'grows',
  'electrolyte-contaminated': 'grows',
  'junction-blocked': 'grows',
  'ion-tip-spent': 'grows',
  'temperature-wrong': 'stays',
  'connector-wet': 'stays',
  'ground-loop': 'stays',
  'interfering-ion': 'stays',
}

/** Two waters, each with its pair of standards: mg/L as activity (Davies), and mg a mol of it. */
const IONS = {
  nitrate: { sign: -1, molar: 62_004, high: ['nitrate-100N', 405], low: ['nitrate-1N', 4.39] },
  ammonium: { sign: 1, molar: 18_039, high: ['ammonium-100N', 118], low: ['ammonium-1N', 1.28] },
} as const

export interface IonHistory extends History<IonCause> {
  ion: keyof typeof IONS
  /** The water as it is at rest: mg/L, degC. */
  water: { value: number; celsius: number }
}

interface Nature extends People {
  ion: keyof typeof IONS
  zero: number
  slope: number
  /** Share of the slope that a year takes, mV that it wanders in one, chloride that leaks in one. */
  ageing: number
  wanders: number
  leak: number
  seconds: number
  noise: number
  water: number
  celsius: number
  onBody: boolean
}

interface Electrode {
  own: number
  slope: number
  chloride: number
  bound: number
  /** Resistance of the junction as a multiple of a new one. */
  junction: number
  slow: number
  noise: number
  passed: number
  /** Share by which the water reads too high by another ion; mV and hum in the water alone. */
  other: number
  stray: number
  hum: number
  thermometer: number
  dry: boolean
  reset: boolean
}

/** Draws a history of a cause. */
export function ionHistory(cause: IonCause, random: RandomStream): IonHistory {
  const n = natureOf(random)
  const course = drawCourse(ONSET[cause] ?? 'sudden', random)
  const { last, began, strength, sign } = course
  const { at, before, now } = course.times
  const when = (at[began] ?? last) - random.between(1, 8) * DAY
  const events = notedEvents(
    [
      { kind: 'left-dry', share: cause === 'dried-out' ? 0.9 * n.notes : 0, at: when },
      { kind: 'upset', share: cause === 'electrolyte-contaminated' ? 0.7 * n.notes : 0, at: when },
      { kind: 'power-failure', share: cause === 'device-reset' ? 0.7 * n.notes : 0, at: when },
      {
        kind: 'refilled',
        share: cause === 'electrolyte-used-up' ? 0 : 0.3 * n.notes,
        at: random.between(0, 0.8 * last),
      },
    ],
    last,
    random,
  )
  const refilled = events.filter((e) => e.kind === 'refilled').map((e) => e.at)
  let previous: Electrode | null = null
  const visits = at.map((time, i): ClosedVisit => {
    const years = (time + before) / DAY / 365
    const since = (time - Math.max(-before, ...refilled.filter((r) => r <= time))) / DAY / 365
    const e = soundElectrode(n, { years, since }, random)
    const months = monthsSince(course, i, random)
    if (months > 0) spoil(cause, e, { months, strength, sign, random })
    const visit = look(n, e, { time, cause: months > 0 ? cause : 'nothing', sign, previous, random })
    previous = e
    return visit
  })
  return {
    cause,
    visits,
    events,
    installedAt: -before,
    now,
    tests: testsOf(cause, random),
    ion: n.ion,
    water: { value: n.water, celsius: n.celsius },
  }
}

const natureOf = (random: RandomStream): Nature => {
  const ion = random.uniform() < 0.5 ? 'nitrate' : 'ammonium'
  const { high, low } = IONS[ion]
  return {
    ...drawPeople(random),
    ion,
    zero: 250 + 40 * random.normal(),
    slope: 0.975 + 0.012 * random.normal(),
    ageing: random.between(0.01, 0.05),
    wanders: 6 * random.normal(),
    leak: random.between(0.05, 0.22),
    seconds: 60 * Math.exp(0.35 * random.normal()),
    noise: 0.12 * Math.exp(0.5 * random.normal()),
    water: low[1] * 2 * (high[1] / low[1] / 4) ** random.uniform(),
    celsius: random.between(18, 28),
    onBody: random.uniform() < 0.3,
  }
}

const soundElectrode = (n: Nature, age: { years: number; since: number }, random: RandomStream): Electrode => ({
  own: n.zero + n.wanders * age.years + 1.2 * random.normal(),
  slope: n.slope - n.ageing * age.years + 0.004 * random.normal(),
  chloride: Math.exp(-n.leak * age.since),
  bound: 0,
  junction: 1 + 0.3 * age.since,
  slow: 1 + 0.5 * age.years,
  noise: 1,
  passed: 1,
  other: 0,
  stray: 0,
  hum: 1,
  thermometer: 0.1 * random.normal(),
  dry: false,
  reset: false,
})

interface Spoiling {
  months: number
  strength: number
  sign: number
  random: RandomStream
}

function spoil(cause: IonCause, e: Electrode, { months, strength, sign, random }: Spoiling): void {
  switch (cause) {
    case 'electrolyte-used-up':
      e.chloride = Math.max(0.004, e.chloride * Math.exp(-0.42 * strength * months))
      e.junction *= 1 + 0.8 * (1 / e.chloride) ** 0.5 * random.between(0.3, 1)
      e.slow *= 1 + 0.2 * (1 / e.chloride) ** 0.35 * random.between(0.2, 1)
      break
    case 'electrolyte-contaminated':
      e.bound = Math.min(0.5, 0.028 * strength * months ** 0.8)
      e.slow *= random.between(1, 1.4)
      break
    case 'junction-blocked':
      e.junction *= Math.exp(0.85 * strength * months ** 0.7)
      e.slow *= 1 + 0.5 * (e.junction - 1) ** 0.6
      e.noise *= 1 + 0.25 * (e.junction - 1) ** 0.5 * random.between(0.2, 2)
      e.own += sign * 3.2 * Math.log(e.junction) * random.between(0.4, 1.4)
      break
    case 'dried-out':
      e.dry = true
      e.slope -= 0.05 * Math.exp(0.6 * random.normal())
      e.own += sign * 14 * Math.exp(0.6 * random.normal())
      e.slow *= 2.4 * Math.exp(0.4 * random.normal())
      e.junction *= random.between(1, 5)
      e.noise *= random.between(1, 3)
      break
    case 'ion-tip-spent':
      e.slope -= 0.035 * strength * months
      e.own += sign * 5 * strength * months * random.between(0.3, 1)
      e.slow *= 1 + 0.35 * strength * months
      e.noise *= 1 + 0.3 * strength * months * random.uniform()
      break
    case 'temperature-wrong':
      e.thermometer += sign * random.between(1.5, 7)
      break
    case 'connector-wet':
      e.passed = 1 / (1 + 10 ** random.between(-2.2, -0.6))
      e.noise *= random.between(4, 25)
      break
    case 'ground-loop':
      e.stray = sign * random.between(9, 70)
      e.hum = random.uniform() < 0.6 ? random.between(3, 30) : 1
      break
    case 'interfering-ion':
      e.other = random.between(0.3, 2.5)
      break
    case 'device-reset':
      e.reset = true
  }
}

const referenceOf = ({ chloride, bound }: Electrode): number =>
  nernst(22) * Math.log10(chloride) + 310 * bound * (1 - bound / 2)

interface Looking {
  time: number
  cause: IonCause
  sign: number
  previous: Electrode | null
  random: RandomStream
}

function look(n: Nature, e: Electrode, { time, cause, sign, previous, random }: Looking): ClosedVisit {
  const { sign: charge, high, low, molar } = IONS[n.ion]
  const room = n.room + 0.4 * random.normal()
  const celsius = n.celsius + 0.3 * random.normal()
  const readings: ClosedVisit['readings'][number][] = []
  const volts = (milligrams: number, at: number) =>
    e.passed * (e.own + charge * e.slope * nernst(at) * Math.log10(milligrams / molar) + referenceOf(e))
  const read = (
    step: string,
    mV: number,
    at: number,
    { noise = 1, standard }: { noise?: number; standard?: Poured } = {},
  ) => {
    const sd = n.noise * e.noise * noise * Math.exp(0.3 * random.normal())
    const seconds = n.seconds * e.slow * Math.exp(0.22 * random.normal())
    const signal = mV + Math.max(0.2, sd / 2) * random.normal()
    const label = standard && { code: standard[0], value: standard[1] }
    readings.push({
      step,
      reading: captured(
        { signal, sd, width: 0.6 + sd, celsius: at + e.thermometer, seconds, standard: label },
        n.typed,
      ),
    })
  }
  const water = n.water * (1 + 0.04 * random.normal()) * (1 + e.other)
  // Most often it was made up wrongly or is old, and the dilute one sooner; or the two were taken for each other.
  const isBad = cause === 'bad-standard'
  const swapped = isBad && random.uniform() < 0.2
  const spoilt = isBad && !swapped ? Math.exp(sign * random.between(0.15, 0.9)) : 1
  const dilute = random.uniform() < 0.65
  const strong = swapped ? low[1] : high[1] * (dilute ? 1 : spoilt)
  const weak = swapped ? high[1] : low[1] * (dilute ? spoilt : 1)
  const bubbleAt = cause === 'bubble' ? Math.floor(3 * random.uniform()) : -1
  const bubble = sign * 14 * Math.exp(0.7 * random.normal())
  const poured: [string, number, Poured][] = [
    ['found-standard', strong, high],
    ['point-1', strong, high],
    ['point-2', weak, low],
  ]
  read('found-process', volts(water, celsius) + e.stray, celsius, { noise: e.hum })
  poured.forEach(([step, milligrams, standard], i) => {
    const noise = i === bubbleAt ? 3 + 12 * random.uniform() : 1
    read(step, volts(milligrams, room) + (i === bubbleAt ? bubble : 0), room, { noise, standard })
  })
  if (random.uniform() < n.back) {
    // What the last solution leaves in a poor junction, and in a swelling membrane.
    const left =
      (0.3 + 0.9 * (e.junction - 1) ** 0.7 + (e.dry ? 3 * random.uniform() : 0)) * Math.exp(0.3 * random.normal())
    read('verify', volts(strong, room) - charge * left, room, { standard: high })
  }
  read('back', volts(water, celsius) + e.stray, celsius, { noise: e.hum })
  return {
    at: time,
    readings,
    characteristic: null,
    codes: [],
    asLeft: 0,
    compared: null,
    shift:
      n.onBody && previous
        ? {
            common: referenceOf(e) - referenceOf(previous) + 0.6 * random.normal(),
            own: e.own - previous.own + 0.8 * random.normal(),
          }
        : null,
    numbersChanged: n.typed ? null : e.reset,
  }
}

type Poured = readonly [string, number]

/** What somebody tried, with its outcome in nature. */
function testsOf(cause: IonCause, random: RandomStream): DiagnosticEvidence {
  const so = tried(random)
  const of = (shares: Partial<Record<IonCause, number>>) => so(shares[cause] ?? 0.03)
  const tests: DiagnosticEvidence = {}
  const stirring = of({ 'junction-blocked': 0.8, 'electrolyte-used-up': 0.55, bubble: 0.5, 'dried-out': 0.3 })
  const tapping = of({ bubble: 0.9 })
  const soak = of({ 'dried-out': 0.85, 'electrolyte-used-up': 0.2, 'junction-blocked': 0.25 })
  const refill = of({ 'electrolyte-used-up': 0.9, 'electrolyte-contaminated': 0.3, 'junction-blocked': 0.1 })
  const fresh = of({ 'bad-standard': 0.95 })
  const unplugged = of({ 'ground-loop': 0.9 })
  if (stirring !== null) tests.stirring = stirring ? 'moves it' : 'changes nothing'
  if (tapping !== null) tests.tapping = tapping ? 'moves it' : 'changes nothing'
  if (soak !== null) tests.afterSoak = soak ? 'comes back' : 'stays'
  if (refill !== null) tests.afterRefill = refill ? 'comes back' : 'stays'
  if (fresh !== null) tests.freshStandard = fresh ? 'reads otherwise' : 'reads the same'
  if (unplugged !== null) tests.unplugging = unplugged ? 'calms it' : 'changes nothing'
  return tests
}
