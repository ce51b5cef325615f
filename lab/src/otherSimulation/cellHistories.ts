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
 * Whole histories of conductivity cells with a known fault, from the conductance between their electrodes down to the
 * readings that a visit captures. Written apart from the other simulations and not from the table of likelihoods.
 *
 * A cell measures G = κ / K. A deposit takes area and lies in series, so that it takes the larger share the better the
 * water conducts; a bubble shuts part of the bore; a film of water left in a dry cell conducts beside nothing. Potassium
 * chloride conducts 1.91 % more per degC near 25 degC, waters about 2 % (handbook figures, from memory).
 */

export const CELL_CAUSES = [
  'nothing',
  'bubble',
  'bad-standard',
  'temperature-wrong',
  'ground-loop',
  'cell-fouled',
  'cell-not-dry',
  'device-reset',
] as const satisfies readonly Cause[]
export type CellCause = (typeof CELL_CAUSES)[number]

/** What does not come at once. */
const ONSET: Partial<Record<CellCause, Onset>> = {
  nothing: 'never',
  'cell-fouled': 'grows',
  'temperature-wrong': 'stays',
  'ground-loop': 'stays',
}

export interface CellHistory extends History<CellCause> {
  /** The water as it is at rest: µS/cm there, degC. */
  water: { value: number; celsius: number }
}

/** Standards and waters that go with each other, µS/cm at 25 degC. */
const PAIRS = [
  { code: 'kcl-1413', value: 1413, low: 600, high: 3200 },
  { code: 'kcl-12.88', value: 12_880, low: 5000, high: 20_000 },
]
const KCL_PER_DEGREE = 0.0191
const WATER_PER_DEGREE = 0.02

interface Nature extends People {
  pair: (typeof PAIRS)[number]
  water: number
  celsius: number
  /** Share by which the cell differs from its label, and by which it ages in a year. */
  off: number
  ageing: number
  seconds: number
  noise: number
}

interface Cell {
  /** Share of the area under a deposit, and how much slower that makes it. */
  deposit: number
  /** Share of its usual reading that a film of water conducts in air. */
  film: number
  thermometer: number
  /** Share by which the water's reading is moved by a current through it, and its hum. */
  stray: number
  hum: number
  reset: boolean
}

/** Draws a history of a cause. */
export function cellHistory(cause: CellCause, random: RandomStream): CellHistory {
  const n = natureOf(random)
  const course = drawCourse(ONSET[cause] ?? 'sudden', random)
  const { last, began, strength, sign } = course
  const { at, before, now } = course.times
  const visits = at.map((time, i): ClosedVisit => {
    const months = monthsSince(course, i, random)
    const cell = soundCell(random)
    if (months > 0) spoil(cause, cell, { months, strength, sign, random })
    const years = (time + before) / DAY / 365
    return look(n, cell, { time, years, cause: months > 0 ? cause : 'nothing', sign, random })
  })
  const when = (at[began] ?? last) - random.between(1, 8) * DAY
  const powerFailure = { kind: 'power-failure', share: cause === 'device-reset' ? 0.7 * n.notes : 0, at: when }
  return {
    cause,
    visits,
    events: notedEvents([powerFailure], last, random),
    installedAt: -before,
    now,
    tests: testsOf(cause, random),
    water: { value: n.water * (1 + WATER_PER_DEGREE * (n.celsius - 25)), celsius: n.celsius },
  }
}

function natureOf(random: RandomStream): Nature {
  const pair = PAIRS[random.uniform() < 0.75 ? 0 : 1] as (typeof PAIRS)[number]
  return {
    ...drawPeople(random),
    pair,
    water: pair.low * (pair.high / pair.low) ** random.uniform(),
    celsius: random.between(18, 28),
    off: 0.012 * random.normal(),
    ageing: 0.006 * random.normal(),
    seconds: 16 * Math.exp(0.35 * random.normal()),
    noise: 0.0004 * Math.exp(0.5 * random.normal()),
  }
}

const soundCell = (random: RandomStream): Cell => ({
  deposit: 0.004 * Math.abs(random.normal()),
  film: 0.0002 * Math.exp(0.8 * random.normal()),
  thermometer: 0.1 * random.normal(),
  stray: 0,
  hum: 1,
  reset: false,
})

interface Spoiling {
  months: number
  strength: number
  sign: number
  random: RandomStream
}

function spoil(cause: CellCause, cell: Cell, { months, strength, sign, random }: Spoiling): void {
  if (cause === 'cell-fouled') cell.deposit += 0.45 * (1 - Math.exp(-0.16 * strength * months))
  if (cause === 'cell-not-dry') cell.film = 0.02 * Math.exp(0.7 * random.normal())
  if (cause === 'temperature-wrong') cell.thermometer += sign * random.between(1.5, 7)
  if (cause === 'device-reset') cell.reset = true
  if (cause !== 'ground-loop') return
  cell.stray = sign * random.between(0.04, 0.25)
  cell.hum = random.uniform() < 0.6 ? random.between(3, 30) : 1
}

interface Looking {
  time: number
  /** How long the cell has been in use. */
  years: number
  /** What is wrong at this visit. */
  cause: CellCause
  sign: number
  random: RandomStream
}

function look(n: Nature, cell: Cell, { time, years, cause, sign, random }: Looking): ClosedVisit {
  const readings: ClosedVisit['readings'][number][] = []
  const room = n.room + 0.5 * random.normal()
  const celsius = n.celsius + 0.3 * random.normal()
  const constant = 1 + n.off + n.ageing * years
  /** What the cell makes of a solution of so much at this temperature; the better it conducts, the more a deposit takes. */
  const measure = (raw: number, deposit: number) =>
    (raw * (1 - deposit)) / constant / (1 + 0.15 * deposit * (raw / n.pair.value))
  const read = (
    step: string,
    signal: number,
    at: number,
    more: { slow?: number; noise?: number; code?: string; right?: number },
  ) => {
    const sd = Math.max(n.noise * (more.noise ?? 1) * Math.exp(0.3 * random.normal()) * Math.abs(signal), 0.02)
    const standard = more.code && more.right !== undefined ? { code: more.code, value: more.right } : undefined
    readings.push({
      step,
      reading: captured(
        {
          signal: signal + Math.max(sd / 2, 0.0007 * signal) * random.normal(),
          sd,
          width: 0.004 * Math.abs(signal) + sd,
          celsius: at + cell.thermometer,
          seconds: n.seconds * (more.slow ?? 1) * Math.exp(0.22 * random.normal()),
          standard,
        },
        n.typed,
      ),
    })
  }
  const water = n.water * (1 + 0.01 * random.normal()) * (1 + WATER_PER_DEGREE * (celsius - 25))
  // It evaporates, or the last solution is carried into it; or somebody took the other bottle.
  const spoilt = cause !== 'bad-standard' ? 0 : sign > 0 ? random.between(0.02, 0.14) : -random.between(0.02, 0.18)
  const kcl = (t: number) => n.pair.value * (1 + KCL_PER_DEGREE * (t - 25))
  const standard = kcl(room) * (1 + spoilt)
  const shut = Math.min(0.6, 0.12 * Math.exp(0.7 * random.normal()))
  const again = random.uniform() < n.back
  const bubbleAt = cause === 'bubble' ? Math.floor((again ? 3 : 2) * random.uniform()) : -1
  const bore = (i: number) => (i === bubbleAt ? 1 - shut : 1)
  const hum = (i: number) => (i === bubbleAt ? 2 + 15 * random.uniform() : 1)
  // A rinse takes what lies loose; what it leaves is a sixth.
  const left = cell.deposit * random.between(0.03, 0.3)
  const slow = 1 + 5 * cell.deposit
  const asRead = { code: n.pair.code, right: kcl(room + cell.thermometer) }
  read('found-process', measure(water, cell.deposit) * (1 + cell.stray), celsius, { slow, noise: cell.hum })
  read('found-standard', measure(standard, cell.deposit) * bore(0), room, { slow, noise: hum(0), ...asRead })
  const zero = (cell.film * n.pair.value) / constant
  read('air', zero, room, {})
  read('point-1', measure(standard, left) * bore(1), room, { slow: 1 + 5 * left, noise: hum(1), ...asRead })
  if (again) read('verify', measure(standard, left) * bore(2), room, { slow: 1 + 5 * left, noise: hum(2), ...asRead })
  read('back', measure(water, left) * (1 + cell.stray), celsius, { noise: cell.hum })
  return {
    at: time,
    readings,
    characteristic: null,
    codes: [],
    asLeft: 0,
    compared: null,
    shift: null,
    numbersChanged: n.typed ? null : cell.reset,
  }
}

/** What somebody tried, with its outcome in nature. */
function testsOf(cause: CellCause, random: RandomStream): DiagnosticEvidence {
  const so = tried(random)
  const of = (showing: CellCause, share: number) => so(cause === showing ? share : 0.03)
  const tests: DiagnosticEvidence = {}
  const [tapping, fresh, unplugged] = [of('bubble', 0.9), of('bad-standard', 0.95), of('ground-loop', 0.9)]
  if (tapping !== null) tests.tapping = tapping ? 'moves it' : 'changes nothing'
  if (fresh !== null) tests.freshStandard = fresh ? 'reads otherwise' : 'reads the same'
  if (unplugged !== null) tests.unplugging = unplugged ? 'calms it' : 'changes nothing'
  return tests
}
