import { DAY_MS } from '../../../core/src/drift/observation.ts'
import { CAUSES, type Cause } from '../../../core/src/health/causes.ts'
import type { HealthRecord } from '../../../core/src/health/evidence.ts'
import type { DiagnosticEvidence } from '../../../core/src/health/features.ts'
import type { HealthVisit } from '../../../core/src/health/healthVisit.ts'
import { kindOf, sensorKinds } from '../../../core/src/kinds/index.ts'
import type { SensorKind } from '../../../core/src/measurement/sensorKind.ts'

import type { RandomStream } from '../../../core/src/statistics/random.ts'

/**
 * Histories of sensors with a known fault, from what the fault does to reference, glass, membrane, cell or wiring.
 * Not from the table of likelihoods: figures of an electrode come out, and the diagnosis has to read them as it reads
 * those of a real one. What a visit does not look at is missing, as it is in practice.
 */

/** Physical state of the sensor at a visit. */
interface State {
  /** mV by which the reference has moved. */
  reference: number
  /** mV of the electrode's own. */
  own: number
  slope: number
  /** Times as slow, and times as noisy, as when new. */
  slow: number
  noisy: number
  /** Restless in one standard and not in the others. */
  bubbled: boolean
  /** mV that the last solution leaves behind. */
  memory: number
  /** Share that a film takes away: of the slope, or of a cell's signal. */
  film: number
  junction: number
  glass: number
  tank: number
  /** Times as restless in the tank as in the beaker. */
  hum: number
  thermometer: number
  confused: boolean
  reset: boolean
  /** Of a cell in air, share of its usual reading. */
  wet: number
  /** Error of the standard, mV or share of a cell's reading. */
  standard: number
}

const soundState = (random: RandomStream): State => ({
  reference: 3 * random.normal(),
  own: 2 * random.normal(),
  slope: 0.985 + 0.008 * random.normal(),
  slow: 1,
  noisy: 1,
  bubbled: false,
  memory: 0.4,
  film: 0,
  junction: 1,
  glass: 1,
  tank: 0,
  hum: 1,
  thermometer: 0,
  confused: false,
  reset: false,
  wet: 0,
  standard: 0,
})

/** Draws a history of a fault: a kind of sensor that can have it, some visits before it began and some after. */
function simulateFault(cause: Cause, random: RandomStream): HealthRecord {
  const kinds = sensorKinds().filter((kind) => kindOf(kind).health.causes[cause] !== undefined)
  const kind = kinds[Math.floor(random.uniform() * kinds.length)] as SensorKind
  const count = 7 + Math.floor(random.between(0, 7))
  const every = random.between(21, 40)
  const now = 0
  const at = (i: number) => now - (count - 1 - i) * every * DAY_MS - DAY_MS
  const sudden = ['glass-cracked', 'dried-out', 'bubble', 'bad-standard', 'cell-not-dry', 'device-reset'].includes(
    cause,
  )
  const began = sudden ? count - 1 : Math.floor(random.between(count - 6, count - 3))
  const base = soundState(random)
  const severity = random.between(0.7, 1.6)
  const events: { at: number; kind: string }[] = []
  const ageDays = (count - 1) * every + random.between(5, cause === 'electrolyte-used-up' ? 500 : 250)
  if (cause === 'electrolyte-contaminated' && random.uniform() < 0.65)
    events.push({ at: at(began) - 5 * DAY_MS, kind: 'upset' })
  if (cause === 'dried-out' && random.uniform() < 0.6) events.push({ at: at(began) - 4 * DAY_MS, kind: 'left-dry' })
  if (cause === 'device-reset' && random.uniform() < 0.55)
    events.push({ at: at(began) - 3 * DAY_MS, kind: 'power-failure' })
  if (random.uniform() < 0.05) events.push({ at: at(Math.max(0, count - 3)), kind: 'upset' })
  if (cause !== 'electrolyte-used-up' && random.uniform() < 0.25)
    events.push({ at: now - random.between(30, 200) * DAY_MS, kind: 'refilled' })
  const sign = random.uniform() < 0.5 ? -1 : 1
  const onBody = random.uniform() < 0.4
  const reports = random.uniform() < 0.2
  const looks = {
    noise: random.uniform() < 0.85,
    back: random.uniform() < 0.7,
    thermometer: random.uniform() < 0.75,
    tank: random.uniform() < 0.8,
  }
  let wander = 0
  let before: State = base
  const visits = Array.from({ length: count }, (_, i): HealthVisit => {
    wander += 0.5 * random.normal()
    const since = i < began ? 0 : (at(i) - at(began)) / DAY_MS + every * random.between(0.4, 1)
    const state = since > 0 ? ill(cause, base, since, severity, sign, random) : { ...base }
    state.reference += wander
    const visit = look(kind, state, before, { at: at(i), onBody, reports, looks }, random)
    before = state
    return visit
  })
  return {
    traits: kindOf(kind).health,
    visits,
    events,
    installedAt: now - ageDays * DAY_MS,
    now,
    tests: testsOf(cause, kind, random),
  }
}

/** What the fault has done after so many days. */
function ill(cause: Cause, sound: State, days: number, severity: number, sign: number, random: RandomStream): State {
  const s = { ...sound }
  const months = days / 30
  switch (cause) {
    case 'electrolyte-used-up':
      // Nernst on the chloride of the reference: 59 mV a decade, and it goes faster towards the end.
      // With less chloride the reference rises, and what is measured against it falls.
      s.reference += 59 * Math.log10(Math.max(1 - 0.09 * severity * months, 0.12))
      s.junction = 1 + 0.9 * months * random.between(0.3, 1.4)
      s.slow = 1 + 0.22 * months * severity
      s.noisy = 1 + 0.5 * months * random.between(0, 1.5)
      s.memory = 0.4 + 0.4 * months * random.between(0, 1.5)
      break
    case 'electrolyte-contaminated':
      s.reference += 5.5 * severity * months ** 0.9
      s.slow = 1 + 0.12 * months * random.between(0, 2)
      break
    case 'junction-blocked':
      s.junction = 1 + 3.5 * severity * months
      s.slow = 1 + 0.95 * severity * months
      s.noisy = 1 + 1.5 * months * random.between(0.3, 1.5)
      s.memory = 0.4 + 1.3 * severity * months
      s.reference += sign * 2 * months * random.between(0.2, 1.6)
      s.film = random.uniform() < 0.3 ? 0.04 : 0
      break
    case 'glass-aged':
      s.slope -= 0.016 * severity * months
      s.slow = 1 + 0.2 * severity * months
      s.glass = 1 + 0.35 * severity * months
      break
    case 'glass-coated':
      s.film = Math.min(0.25, 0.05 * severity * months ** 0.5 + 0.02)
      s.slow = 1 + 0.75 * severity * months ** 0.7
      s.memory = 0.4 + 0.6 * months * random.between(0.2, 1.2)
      break
    case 'glass-cracked':
      s.slope = random.between(0, 0.3)
      s.own = 15 * random.normal()
      s.glass = 0.01
      break
    case 'dried-out':
      s.own += sign * random.between(8, 30)
      s.slope -= random.between(0.03, 0.2)
      s.slow = random.between(2.2, 6)
      s.memory = random.between(0.5, 6)
      s.noisy = random.between(1, 5)
      s.glass = random.between(1.2, 5)
      s.junction = random.between(1, 8)
      break
    case 'bubble':
      s.own += sign * random.between(3, 25)
      s.slope += random.between(-0.2, 0.04)
      s.noisy = random.between(2.5, 15)
      s.bubbled = true
      s.film = random.between(0.05, 0.3)
      s.confused = random.uniform() < 0.3
      break
    case 'bad-standard': {
      // One of the two is off by 0.05 to 0.6 pH: zero and slope share it.
      const wrong = sign * random.between(4, 30)
      s.own += wrong * random.between(0, 1)
      s.slope += (wrong / 177) * random.between(0.6, 1.6)
      s.standard = sign * random.between(0.03, 0.12)
      s.confused = random.uniform() < 0.7
      break
    }
    case 'temperature-wrong':
      s.thermometer = sign * random.between(1.2, 6)
      s.slope *= 1 + (-sign * random.between(1.2, 6)) / 300
      break
    case 'connector-wet':
      s.slope *= 1 - random.between(0, 0.2)
      s.own += 8 * random.normal()
      s.noisy = random.between(5, 30)
      s.glass = random.between(0.05, 0.9)
      break
    case 'ground-loop':
      s.tank = sign * random.between(1.3, 6)
      // A direct current only shifts; a mains or switching one also shakes.
      s.hum = random.uniform() < 0.5 ? random.between(3, 25) : 1
      break
    case 'interfering-ion':
      s.tank = random.between(1.3, 8)
      break
    case 'ion-tip-spent':
      s.slope -= 0.028 * severity * months
      s.own += sign * 1.3 * severity * months
      s.slow = 1 + 0.25 * severity * months
      break
    case 'cell-fouled':
      s.film = Math.min(0.4, 0.035 * severity * months + 0.02)
      s.slow = 1 + 0.2 * months * random.between(0, 1.5)
      break
    case 'cell-not-dry':
      s.wet = random.between(0.012, 0.2)
      break
    case 'device-reset':
      s.reset = true
  }
  return s
}

interface Circumstances {
  at: number
  onBody: boolean
  reports: boolean
  looks: { noise: boolean; back: boolean; thermometer: boolean; tank: boolean }
}

/** What a visit reads of a state. */
function look(kind: SensorKind, s: State, before: State, c: Circumstances, random: RandomStream): HealthVisit {
  const electrode = kind === 'ph' || kind === 'orp' || kind === 'ion'
  const cell = kind === 'conductivity'
  // Zero and slope are measured after cleaning: of a film on glass, a little stays.
  const filmLeft = electrode ? 0.2 * s.film : 0
  const shared = s.reference - before.reference
  const own = s.own - before.own
  return {
    at: c.at,
    zero: electrode
      ? -kindOf(kind).health.zeroWithReference * (s.reference + s.own + 0.6 * random.normal())
      : cell
        ? s.wet + 0.001 * random.normal()
        : null,
    slope: electrode ? s.slope - filmLeft + 0.004 * random.normal() : null,
    settlingSeconds: 45 * s.slow * Math.exp(0.13 * random.normal()),
    noise: c.looks.noise ? 0.1 * s.noisy * Math.exp(0.2 * random.normal()) : null,
    noiseApart: c.looks.noise && s.bubbled ? random.between(1.5, 12) : null,
    processNoise: c.looks.noise ? 0.15 * s.noisy * s.hum * Math.exp(0.3 * random.normal()) : null,
    againstBefore: null,
    hysteresis: electrode && c.looks.back ? s.memory * (1 + 0.2 * random.normal()) : null,
    fasterAfterCleaning: null,
    cleaningAway: null,
    cleaning: electrode ? 60 * s.film + 0.7 * random.normal() : cell ? s.film + 0.004 * random.normal() : null,
    cellFactor: cell
      ? ((1 + s.standard) * (1 + (s.noisy > 2 ? s.film : 0)) + 0.005 * random.normal()) /
        (1 + s.wet) ** 0 /
        (1 - (s.noisy > 2 ? 0 : s.film))
      : null,
    tankNow: null,
    tankByBefore: null,
    processWarmer: null,
    standardTemperature: null,
    tankAlone: c.looks.tank ? s.tank + 0.25 * random.normal() : null,
    temperatureError: c.looks.thermometer ? s.thermometer + 0.15 * random.normal() : null,
    standardsDisagree: s.confused || random.uniform() < 0.02,
    sharedShift: electrode && c.onBody ? shared + 0.7 * random.normal() : null,
    ownShift: electrode && c.onBody ? own + 0.7 * random.normal() : null,
    junctionResistance: c.reports ? s.junction : null,
    glassResistance: c.reports && kind === 'ph' ? s.glass : null,
    deviceNumbersChanged: s.reset || random.uniform() < 0.003,
  }
}

/** Tests that the operator happens to have made, with their outcome in nature. */
function testsOf(cause: Cause, kind: SensorKind, random: RandomStream): DiagnosticEvidence {
  const tests: DiagnosticEvidence = {}
  const done = (share: number) => random.uniform() < share
  const reference = cause === 'junction-blocked' || cause === 'electrolyte-used-up'
  if (kind === 'ph' || kind === 'orp' || kind === 'ion') {
    if (done(0.3))
      tests.stirring = (reference && done(0.8)) || (cause === 'bubble' && done(0.6)) ? 'moves it' : 'changes nothing'
    if (done(0.25)) {
      tests.afterSoak =
        (cause === 'dried-out' && done(0.93)) || (cause === 'electrolyte-used-up' && done(0.25))
          ? 'comes back'
          : 'stays'
    }
    if (done(0.25)) {
      tests.afterRefill =
        (cause === 'electrolyte-used-up' && done(0.95)) || (cause === 'electrolyte-contaminated' && done(0.2))
          ? 'comes back'
          : 'stays'
    }
  }
  if (done(0.35)) tests.tapping = cause === 'bubble' ? 'moves it' : 'changes nothing'
  if (done(0.3)) tests.freshStandard = cause === 'bad-standard' ? 'reads otherwise' : 'reads the same'
  if (done(0.35)) tests.unplugging = cause === 'ground-loop' ? 'calms it' : 'changes nothing'
  return tests
}

/** So many histories of each cause, in turn. */
export function simulateFaults(each: number, random: RandomStream): { cause: Cause; record: HealthRecord }[] {
  return CAUSES.flatMap((cause) =>
    Array.from({ length: each }, () => ({ cause, record: simulateFault(cause, random.fork()) })),
  )
}
