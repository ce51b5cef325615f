import type { FindingCode } from '../../../core/src/calibration/finding.ts'
import type { Cause } from '../../../core/src/health/causes.ts'
import type { DiagnosticEvidence } from '../../../core/src/health/features.ts'
import type { ClosedVisit } from '../../../core/src/health/visitHealth.ts'
import type { CapturedReading } from '../../../core/src/measurement/capturedReading.ts'
import type { RandomStream } from '../../../core/src/statistics/random.ts'

/**
 * Whole histories of pH electrodes with a known fault, from the physics of reference, junction, glass and film, down to
 * the readings that a visit captures. Written apart from the other simulations, with equations and figures of its own,
 * and not from the table of likelihoods: what the diagnosis says of these nobody set it to say.
 *
 * Reference: Ag/AgCl, E = E0 - k log10 a(Cl). As chloride leaks out its potential rises, and what is measured (glass
 * less reference) falls: 59 mV a decade (Nernst; Bates, Determination of pH, 1973, ch. 10, from memory). Sulfide,
 * bromide, cyanide or ammonia bind silver more firmly than chloride does (pKsp of Ag2S 50, AgBr 12.3, AgCl 9.8, from
 * memory): the potential of the silver falls, and what is measured rises.
 */

const DAY = 86_400_000
const ABSOLUTE_ZERO = -273.15
/** mV of a pH at a temperature, degC: R T ln 10 / F. */
const nernst = (celsius: number): number => 0.1984159 * (celsius - ABSOLUTE_ZERO)

export const PH_CAUSES = [
  'nothing',
  'electrolyte-used-up',
  'electrolyte-contaminated',
  'junction-blocked',
  'glass-aged',
  'glass-coated',
  'glass-cracked',
  'dried-out',
  'bubble',
  'bad-standard',
  'temperature-wrong',
  'connector-wet',
  'ground-loop',
  'device-reset',
] as const satisfies readonly Cause[]
type PhCause = (typeof PH_CAUSES)[number]

export interface PhHistory {
  cause: PhCause
  /** Oldest first. */
  visits: ClosedVisit[]
  events: { at: number; kind: string }[]
  installedAt: number
  now: number
  tests: DiagnosticEvidence
}

/** Where and how it is looked after, where that is not as usual. */
export interface PhPlace {
  /** How many times as much electrode, water, room and people scatter as in a calm place. */
  unrest?: number
  /** What lasts began after a third of the visits, long before anybody asks. */
  early?: boolean
  /** Days between visits, from and to. */
  days?: [number, number]
}
const LASTS: readonly PhCause[] = [
  'electrolyte-used-up',
  'electrolyte-contaminated',
  'junction-blocked',
  'glass-aged',
  'glass-coated',
  'temperature-wrong',
  'connector-wet',
  'ground-loop',
]

/** What stays the same of an electrode, and of the people who look after it. */
interface Nature {
  /** mV at pH 7 when new, and share of the ideal slope. */
  zero: number
  slope: number
  /** Share of the slope that is lost in a year of ordinary ageing. */
  ageing: number
  /** Share of its chloride that leaks away in a year. */
  leak: number
  /** Seconds until it stands still when new, and the noise of a reading, mV. */
  seconds: number
  noise: number
  tank: { pH: number; celsius: number }
  room: number
  reports: boolean
  typed: boolean
  back: number
  onBody: boolean
  notes: number
  unrest: number
}

/** The electrode as it is at a visit. */
interface Electrode {
  /** Chloride left, share; share of silver that is bound otherwise. */
  chloride: number
  bound: number
  slope: number
  own: number
  /** Resistances as multiples of new ones. */
  junction: number
  glass: number
  /** Thickness of a film, 0 to 1; times as slow, without it. */
  film: number
  slow: number
  noise: number
  /** Share of the signal that a shunt leaves. */
  passed: number
  /** mV in the tank alone, and its hum there. */
  stray: number
  hum: number
  thermometer: number
  reset: boolean
}

/**
 * Draws a history of a cause; it may have begun at any visit of the later half, or at the last.
 */
export function phHistory(cause: PhCause, random: RandomStream, place: PhPlace = {}): PhHistory {
  const { unrest = 1, early = false, days = [16, 48] } = place
  const nature = { ...natureOf(random), unrest }
  const count = 6 + Math.floor(9 * random.uniform())
  const every = random.between(...days)
  const at: number[] = []
  for (let i = 0, t = 0; i < count; i++, t += every * random.between(0.7, 1.35) * DAY) at.push(t)
  const now = (at.at(-1) as number) + random.between(0.02, 4) * DAY
  const before = random.between(2, 260) * DAY
  const began = early && LASTS.includes(cause) ? Math.floor(count / 3) : beginning(cause, count, random)
  const strength = Math.exp(0.35 * random.normal())
  const sign = random.uniform() < 0.5 ? -1 : 1
  const events = eventsOf(cause, { at, began, nature, random })
  const refills = events.filter((e) => e.kind === 'refilled').map((e) => e.at)
  let last: Electrode | null = null
  const visits = at.map((time, i): ClosedVisit => {
    const age = (time + before) / DAY
    const sinceRefill = (time - Math.max(-before, ...refills.filter((r) => r <= time))) / DAY
    const e = sound(nature, age, sinceRefill, random)
    const begun =
      began < count && i >= began ? (time - (at[began] as number)) / DAY + every * random.between(0.3, 1) : 0
    if (begun > 0) spoil(cause, e, { days: begun, strength, sign, random })
    const visit = look(nature, e, {
      time,
      cause,
      active: begun > 0,
      sign,
      before: last,
      random,
    })
    last = e
    return visit
  })
  return { cause, visits, events, installedAt: -before, now, tests: testsOf(cause, random) }
}

const natureOf = (random: RandomStream): Omit<Nature, 'unrest'> => ({
  zero: 9 * random.normal(),
  slope: 0.992 - Math.abs(0.007 * random.normal()),
  ageing: random.between(0.008, 0.045),
  leak: random.between(0.05, 0.22),
  seconds: 30 * Math.exp(0.35 * random.normal()),
  noise: 0.06 * Math.exp(0.5 * random.normal()),
  tank: { pH: random.between(5.6, 8.4), celsius: random.between(18, 28) },
  room: random.between(18, 25),
  reports: random.uniform() < 0.15,
  typed: random.uniform() < 0.25,
  back: random.uniform() < 0.5 ? 0.8 : 0.1,
  onBody: random.uniform() < 0.3,
  notes: random.uniform() < 0.6 ? 0.75 : 0.2,
})

/** What comes at once may come at the last visit; what grows is looked at after it has grown. */
function beginning(cause: PhCause, count: number, random: RandomStream): number {
  if (cause === 'nothing') return count
  const grows: readonly PhCause[] = [
    'electrolyte-used-up',
    'electrolyte-contaminated',
    'junction-blocked',
    'glass-aged',
    'glass-coated',
  ]
  if (grows.includes(cause)) return count - 2 - Math.floor(random.uniform() * Math.min(4, count - 4))
  // Of a crack, a reset or a bubble the question comes at the visit that meets it.
  if (['glass-cracked', 'bubble', 'bad-standard', 'device-reset', 'dried-out'].includes(cause)) return count - 1
  return count - 1 - Math.floor(random.uniform() * 3)
}

function sound(n: Nature, age: number, sinceRefill: number, random: RandomStream): Electrode {
  return {
    chloride: Math.exp(-(n.leak * sinceRefill) / 365),
    bound: 0,
    slope: n.slope - (n.ageing * age) / 365 + 0.003 * n.unrest * random.normal(),
    own: n.zero + 1.2 * n.unrest * random.normal() + 0.004 * age,
    junction: 1 + (0.3 * sinceRefill) / 365,
    glass: 2 ** ((0.8 * age) / 365) * Math.exp(0.05 * random.normal()),
    film: 0,
    slow: 1 + (0.5 * age) / 365,
    noise: 1,
    passed: 1,
    stray: 0,
    hum: 1,
    thermometer: 0.1 * random.normal(),
    reset: false,
  }
}

interface Course {
  days: number
  strength: number
  sign: number
  random: RandomStream
}

function spoil(cause: PhCause, e: Electrode, { days, strength, sign, random }: Course): void {
  const months = days / 30.4
  switch (cause) {
    case 'electrolyte-used-up':
      // What was left goes within months: by dilution, exponential to what the tank itself has.
      e.chloride = Math.max(0.004, e.chloride * Math.exp(-0.42 * strength * months))
      e.junction *= 1 + 0.8 * (1 / e.chloride) ** 0.5 * random.between(0.3, 1)
      e.slow *= 1 + 0.25 * (1 / e.chloride) ** 0.35 * random.between(0.2, 1)
      break
    case 'electrolyte-contaminated':
      e.bound = Math.min(0.5, 0.028 * strength * months ** 0.8)
      e.slow *= random.between(1, 1.4)
      break
    case 'junction-blocked':
      e.junction *= Math.exp(0.85 * strength * months ** 0.7)
      e.slow *= 1 + 0.6 * (e.junction - 1) ** 0.6
      e.noise *= 1 + 0.25 * (e.junction - 1) ** 0.5 * random.between(0.2, 2)
      e.own += sign * 3.2 * Math.log(e.junction) * random.between(0.4, 1.4)
      break
    case 'glass-aged':
      e.slope -= 0.017 * strength * months
      e.slow *= 1 + 0.35 * strength * months
      e.glass *= 1 + 0.5 * strength * months
      break
    case 'glass-coated':
      e.film = 1 - Math.exp(-0.5 * strength * months ** 0.6)
      e.slow *= 1 + 5 * e.film ** 2
      // What cleaning leaves behind.
      e.slope -= 0.055 * e.film * random.between(0.4, 1.2)
      e.glass *= 1 + 0.4 * e.film
      break
    case 'glass-cracked':
      e.slope *= random.uniform() < 0.7 ? random.between(0, 0.12) : random.between(0.12, 0.6)
      e.own = 12 * random.normal()
      e.glass = random.between(0.002, 0.08)
      e.slow = 0.5
      break
    case 'dried-out':
      e.slope -= 0.025 * Math.exp(0.6 * random.normal())
      e.own += sign * 12 * Math.exp(0.6 * random.normal())
      e.slow *= 2.6 * Math.exp(0.4 * random.normal())
      e.glass *= random.between(1.3, 4)
      e.junction *= random.between(1, 5)
      e.noise *= random.between(1, 3)
      break
    case 'temperature-wrong':
      e.thermometer += sign * random.between(1.5, 7)
      break
    case 'connector-wet':
      e.passed = 1 / (1 + 10 ** random.between(-2.2, -0.6))
      e.glass *= e.passed ** 3
      e.noise *= random.between(4, 25)
      break
    case 'ground-loop':
      e.stray = sign * random.between(9, 70)
      e.hum = random.uniform() < 0.6 ? random.between(3, 30) : 1
      break
    case 'device-reset':
      e.reset = true
  }
}

interface Looking {
  time: number
  cause: PhCause
  active: boolean
  sign: number
  before: Electrode | null
  random: RandomStream
}

/** What the reference has moved what is measured, mV. */
const referenceOf = ({ chloride, bound }: Electrode): number =>
  nernst(22) * Math.log10(chloride) + 310 * bound * (1 - bound / 2)

function look(n: Nature, e: Electrode, c: Looking): ClosedVisit {
  const { random } = c
  const readings: { step: string; reading: CapturedReading }[] = []
  const seen = { celsius: n.room + 0.4 * n.unrest * random.normal() }
  /** mV in a solution, by how clean the tip is. */
  const volts = (pH: number, celsius: number, film: number, from: number) => {
    const k = nernst(celsius)
    const glass = e.own - e.slope * k * (pH - 7)
    // Under a film the tip still sees something of where it was.
    const lag = film * 0.16 * e.slope * k * (pH - from)
    return e.passed * (glass + referenceOf(e) + lag)
  }
  const read = (
    step: string,
    mV: number,
    celsius: number,
    { slow = 1, noise = 1, standard }: { slow?: number; noise?: number; standard?: [string, number] },
  ) => {
    const sd = n.noise * e.noise * noise * Math.exp(0.3 * n.unrest * random.normal())
    const over = !n.typed
    readings.push({
      step,
      reading: {
        source: over ? 'line' : 'signal-typed',
        signal: mV + Math.max(0.15, sd / 2) * random.normal(),
        signalUncertainty: 0.5 + sd,
        ...(over ? { noise: sd } : {}),
        ...(n.reports
          ? {
              resistances: {
                glass: 120 * e.glass * Math.exp(0.1 * random.normal()),
                junction: 4 * e.junction * Math.exp(0.15 * random.normal()),
              },
            }
          : {}),
        temperature: celsius + e.thermometer,
        shown: null,
        stability: {
          state: 'stable',
          reason: 'not-noted',
          seconds: n.seconds * e.slow * slow * Math.exp(0.22 * n.unrest * random.normal()),
          confidence: 0.95,
        },
        trace: [],
        signature: null,
        ...(standard
          ? {
              standard: {
                code: standard[0],
                value: standard[1],
                lot: null,
                expired: false,
                openTooLong: false,
                daysOver: 0,
              },
            }
          : {}),
      },
    })
  }
  const tank = n.tank.pH + 0.06 * n.unrest * random.normal()
  const celsius = n.tank.celsius + 0.7 * (n.unrest - 1) * random.normal()
  const filmed = { slow: 1 + 2 * e.film }
  read('found-process', volts(tank, celsius, 0, tank) + e.stray, celsius, { ...filmed, noise: e.hum })
  const second = n.tank.pH > 7 ? (['pH10.01', 10.01] as const) : (['pH4.01', 4.005] as const)
  const isBad = c.cause === 'bad-standard' && c.active
  const swapped = isBad && random.uniform() < 0.25
  const spoilt =
    isBad && !swapped ? c.sign * (random.uniform() < 0.6 ? random.between(0.06, 0.35) : random.between(0.35, 1.2)) : 0
  const spoiltFirst = random.uniform() < 0.4
  const first = { real: swapped ? second[1] : 7 + (spoiltFirst ? spoilt : 0) }
  const other = { real: swapped ? 7 : second[1] + (spoiltFirst ? 0 : spoilt) }
  const bubbleAt = c.cause === 'bubble' && c.active ? Math.floor(3 * random.uniform()) : -1
  const bubble = c.sign * 14 * Math.exp(0.7 * random.normal())
  const withBubble = (i: number) =>
    i === bubbleAt ? { mV: bubble, noise: 3 + 12 * random.uniform() } : { mV: 0, noise: 1 }
  const cells: [string, number, number, number, [string, number]][] = [
    ['found-first', first.real, e.film, tank, ['pH7.00', 7]],
    ['first', first.real, 0.12 * e.film, 7, ['pH7.00', 7]],
    ['second', other.real, 0.12 * e.film, 7, [second[0], second[1]]],
  ]
  cells.forEach(([step, pH, film, from, standard], i) => {
    const b = withBubble(i)
    read(step, volts(pH, seen.celsius, film, from) + b.mV, seen.celsius, {
      slow: step === 'found-first' ? filmed.slow : 1 + 0.3 * e.film,
      noise: b.noise,
      standard,
    })
  })
  if (random.uniform() < n.back) {
    // What the last solution leaves in a poor junction, and in a swelling gel.
    const left =
      (0.25 + 0.9 * (Math.max(1, e.junction) - 1) ** 0.7) * 0.9 +
      (c.cause === 'dried-out' && c.active ? 3 * random.uniform() : 0)
    read(
      'back-first',
      volts(first.real, seen.celsius, 0.1 * e.film, second[1]) -
        Math.sign(second[1] - 7) * left * Math.exp(0.3 * random.normal()),
      seen.celsius,
      { standard: ['pH7.00', 7] },
    )
  }
  read('back', volts(tank, celsius, 0.1 * e.film, 7) + e.stray, celsius, { noise: e.hum })
  const [one, two] = [readings.find((r) => r.step === 'first'), readings.find((r) => r.step === 'second')].map(
    (r) => r?.reading as CapturedReading,
  ) as [CapturedReading, CapturedReading]
  const k = nernst(two.temperature)
  const slope = (one.signal - two.signal) / (k * (second[1] - 7))
  const codes: FindingCode[] = []
  if (slope < 0) codes.push('wrong-sign')
  if (slope > 1.02) codes.push('slope-high')
  if (swapped) codes.push('standards-swapped')
  if (slope >= 0 && slope < 0.5) codes.push('no-response')
  if (Math.abs(seen.celsius + e.thermometer - 22) > 12) codes.push('temperature-implausible')
  const shift =
    n.onBody && c.before
      ? {
          common: referenceOf(e) - referenceOf(c.before) + 0.6 * random.normal(),
          own: e.own - c.before.own + 0.8 * random.normal(),
        }
      : null
  return {
    at: c.time,
    readings,
    // The server refuses a calibration that has no slope.
    characteristic: slope < 0.5 || slope > 1.2 ? null : { slopeEfficiency: slope, zero: one.signal, isoPH: 7 },
    codes,
    asLeft: 0,
    compared: null,
    shift,
    numbersChanged: n.typed ? null : e.reset,
  }
}

function eventsOf(cause: PhCause, c: { at: readonly number[]; began: number; nature: Nature; random: RandomStream }) {
  const { at, began, nature, random } = c
  const events: { at: number; kind: string }[] = []
  const when = (at[began] ?? at.at(-1) ?? 0) - random.between(1, 8) * DAY
  const note = (kind: string, share: number) => {
    if (random.uniform() < share * nature.notes) events.push({ at: when, kind })
  }
  if (cause === 'dried-out') note('left-dry', 0.9)
  if (cause === 'electrolyte-contaminated') note('upset', 0.7)
  if (cause === 'device-reset') note('power-failure', 0.7)
  // Things that happen to sound ones as well, and are noted.
  if (random.uniform() < 0.06) events.push({ at: random.between(0, at.at(-1) ?? 0), kind: 'upset' })
  if (random.uniform() < 0.05) events.push({ at: random.between(0, at.at(-1) ?? 0), kind: 'power-failure' })
  if (cause !== 'electrolyte-used-up' && random.uniform() < 0.3 * nature.notes)
    events.push({ at: random.between(0, 0.8 * (at.at(-1) ?? 0)), kind: 'refilled' })
  return events.sort((a, b) => a.at - b.at)
}

/** What somebody tried, with its outcome in nature, one in twenty told wrongly. */
function testsOf(cause: PhCause, random: RandomStream): DiagnosticEvidence {
  const tests: DiagnosticEvidence = {}
  const tried = () => random.uniform() < 0.18
  const so = (share: number) => random.uniform() < (random.uniform() < 0.05 ? 1 - share : share)
  const of = (shares: Partial<Record<PhCause, number>>) => so(shares[cause] ?? 0.03)
  if (tried())
    tests.stirring = of({ 'junction-blocked': 0.8, 'electrolyte-used-up': 0.55, bubble: 0.5, 'dried-out': 0.3 })
      ? 'moves it'
      : 'changes nothing'
  if (tried()) tests.tapping = of({ bubble: 0.9 }) ? 'moves it' : 'changes nothing'
  if (tried())
    tests.afterSoak = of({ 'dried-out': 0.85, 'electrolyte-used-up': 0.2, 'junction-blocked': 0.25 })
      ? 'comes back'
      : 'stays'
  if (tried())
    tests.afterRefill = of({ 'electrolyte-used-up': 0.9, 'electrolyte-contaminated': 0.3, 'junction-blocked': 0.1 })
      ? 'comes back'
      : 'stays'
  if (tried()) tests.freshStandard = of({ 'bad-standard': 0.95 }) ? 'reads otherwise' : 'reads the same'
  if (tried()) tests.unplugging = of({ 'ground-loop': 0.9 }) ? 'calms it' : 'changes nothing'
  return tests
}
