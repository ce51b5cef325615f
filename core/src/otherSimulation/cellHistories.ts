import type { Cause } from '../health/causes.ts'
import type { DiagnosticEvidence } from '../health/features.ts'
import type { ClosedVisit } from '../health/visitHealth.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { RandomStream } from '../statistics/random.ts'

/**
 * Whole histories of conductivity cells with a known fault, from the conductance between their electrodes down to the
 * readings that a visit captures. Written apart from the other simulations and not from the table of likelihoods.
 *
 * A cell measures G = κ / K. A deposit takes area and lies in series, so that it takes the larger share the better the
 * water conducts; a bubble shuts part of the bore; a film of water left in a dry cell conducts beside nothing. Potassium
 * chloride conducts 1.91 % more per degC near 25 degC, waters about 2 % (handbook figures, from memory).
 */

const DAY = 86_400_000

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

export interface CellHistory {
  cause: CellCause
  /** Oldest first. */
  visits: ClosedVisit[]
  events: { at: number; kind: string }[]
  installedAt: number
  now: number
  tests: DiagnosticEvidence
  /** The standard in use, and the water as it is at rest: µS/cm, degC. */
  standard: string
  water: { raw: number; celsius: number }
}

/** Standards and waters that go with each other, µS/cm at 25 degC. */
const PAIRS = [
  { code: 'kcl-1413', value: 1413, low: 600, high: 3200 },
  { code: 'kcl-12.88', value: 12_880, low: 5000, high: 20_000 },
]
const KCL_PER_DEGREE = 0.0191
const WATER_PER_DEGREE = 0.02

interface Nature {
  pair: (typeof PAIRS)[number]
  water: number
  celsius: number
  room: number
  /** Share by which the cell differs from its label, and by which it ages in a year. */
  off: number
  ageing: number
  seconds: number
  noise: number
  typed: boolean
  back: number
  notes: number
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

/** Draws a history of a cause. What grows is asked about once it has grown, what comes at once at the visit that meets it. */
export function cellHistory(cause: CellCause, random: RandomStream): CellHistory {
  const n = natureOf(random)
  const count = 6 + Math.floor(9 * random.uniform())
  const every = random.between(16, 48)
  const at: number[] = []
  for (let i = 0, t = 0; i < count; i++, t += every * random.between(0.7, 1.35) * DAY) at.push(t)
  const last = at.at(-1) as number
  const before = random.between(2, 260) * DAY
  const began = beginning(cause, count, random)
  const strength = Math.exp(0.35 * random.normal())
  const sign = random.uniform() < 0.5 ? -1 : 1
  const visits = at.map((time, i): ClosedVisit => {
    const active = i >= began
    const months = active ? (time - (at[began] as number)) / DAY / 30.4 + (every / 30.4) * random.between(0.3, 1) : 0
    const cell = soundCell(random)
    if (active) spoil(cause, cell, { months, strength, sign, random })
    return look(n, cell, { time, age: (time + before) / DAY, cause: active ? cause : 'nothing', sign, random })
  })
  return {
    cause,
    visits,
    events: eventsOf(cause, (at[began] ?? last) - random.between(1, 8) * DAY, { last, notes: n.notes, random }),
    installedAt: -before,
    now: last + random.between(0.02, 4) * DAY,
    tests: testsOf(cause, random),
    standard: n.pair.code,
    water: { raw: n.water * (1 + WATER_PER_DEGREE * (n.celsius - 25)), celsius: n.celsius },
  }
}

function natureOf(random: RandomStream): Nature {
  const pair = PAIRS[random.uniform() < 0.75 ? 0 : 1] as (typeof PAIRS)[number]
  return {
    pair,
    water: pair.low * (pair.high / pair.low) ** random.uniform(),
    celsius: random.between(18, 28),
    room: random.between(18, 25),
    off: 0.012 * random.normal(),
    ageing: 0.006 * random.normal(),
    seconds: 16 * Math.exp(0.35 * random.normal()),
    noise: 0.0004 * Math.exp(0.5 * random.normal()),
    typed: random.uniform() < 0.25,
    back: random.uniform() < 0.5 ? 0.8 : 0.1,
    notes: random.uniform() < 0.6 ? 0.75 : 0.2,
  }
}

function beginning(cause: CellCause, count: number, random: RandomStream): number {
  if (cause === 'nothing') return count
  if (cause === 'cell-fouled') return count - 2 - Math.floor(random.uniform() * Math.min(4, count - 4))
  if (cause === 'temperature-wrong' || cause === 'ground-loop') return count - 1 - Math.floor(random.uniform() * 3)
  return count - 1
}

const soundCell = (random: RandomStream): Cell => ({
  deposit: 0.004 * Math.abs(random.normal()),
  film: 0.0002 * Math.exp(0.8 * random.normal()),
  thermometer: 0.1 * random.normal(),
  stray: 0,
  hum: 1,
  reset: false,
})

interface Course {
  months: number
  strength: number
  sign: number
  random: RandomStream
}

function spoil(cause: CellCause, cell: Cell, { months, strength, sign, random }: Course): void {
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
  /** How long the cell has been in use, days. */
  age: number
  /** What is wrong at this visit. */
  cause: CellCause
  sign: number
  random: RandomStream
}

function look(n: Nature, cell: Cell, { time, age, cause, sign, random }: Looking): ClosedVisit {
  const readings: ClosedVisit['readings'][number][] = []
  const room = n.room + 0.5 * random.normal()
  const celsius = n.celsius + 0.3 * random.normal()
  const constant = 1 + n.off + (n.ageing * age) / 365
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
    const over = !n.typed
    const reading: CapturedReading = {
      source: over ? 'line' : 'display-typed',
      signal: signal + Math.max(sd / 2, 0.0007 * signal) * random.normal(),
      signalUncertainty: 0.004 * Math.abs(signal) + sd,
      ...(over ? { noise: sd } : {}),
      temperature: at + cell.thermometer,
      shown: null,
      stability: {
        state: 'stable',
        reason: 'not-noted',
        seconds: n.seconds * (more.slow ?? 1) * Math.exp(0.22 * random.normal()),
        confidence: 0.95,
      },
      trace: [],
      signature: null,
      ...(more.code && more.right !== undefined
        ? {
            standard: {
              code: more.code,
              value: more.right,
              lot: null,
              expired: false,
              openTooLong: false,
              daysOver: 0,
            },
          }
        : {}),
    }
    readings.push({ step, reading })
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

function eventsOf(
  cause: CellCause,
  when: number,
  { last, notes, random }: { last: number; notes: number; random: RandomStream },
) {
  const events: { at: number; kind: string }[] = []
  if (cause === 'device-reset' && random.uniform() < 0.7 * notes) events.push({ at: when, kind: 'power-failure' })
  // Things that happen to sound ones as well, and are noted.
  if (random.uniform() < 0.06) events.push({ at: random.between(0, last), kind: 'upset' })
  if (random.uniform() < 0.05) events.push({ at: random.between(0, last), kind: 'power-failure' })
  return events.sort((a, b) => a.at - b.at)
}

/** What somebody tried, with its outcome in nature, one in twenty told wrongly. */
function testsOf(cause: CellCause, random: RandomStream): DiagnosticEvidence {
  const tests: DiagnosticEvidence = {}
  const tried = () => random.uniform() < 0.18
  const so = (of: CellCause, share: number) => {
    const truly = cause === of ? share : 0.03
    return random.uniform() < (random.uniform() < 0.05 ? 1 - truly : truly)
  }
  if (tried()) tests.tapping = so('bubble', 0.9) ? 'moves it' : 'changes nothing'
  if (tried()) tests.freshStandard = so('bad-standard', 0.95) ? 'reads otherwise' : 'reads the same'
  if (tried()) tests.unplugging = so('ground-loop', 0.9) ? 'calms it' : 'changes nothing'
  return tests
}
