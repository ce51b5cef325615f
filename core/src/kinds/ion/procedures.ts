import type { Finding } from '../../calibration/finding.ts'
import { calibrateIon, type IonCalibration, type IonPoint } from '../../calibration/ionCalibration.ts'
import type { CalibrationParameters, DeviceSetting } from '../../measurement/measurementModel.ts'
import { pourable } from '../../measurement/standard.ts'
import {
  calibrationResult,
  findingsOfReadings,
  observeFrom,
  parameterFigure,
  pointReading,
  uncertaintyAtProcess,
  VERIFY_KEYS,
  wasRepeated,
} from '../../procedures/assess.ts'
import type { Assessment, Prerequisite, Procedure, StandardRole, VisitState } from '../../procedures/procedure.ts'
import type { Step } from '../../procedures/step.ts'
import { afterResult, clean, foundProcess, foundStandard, hold, point, result, soak } from '../../procedures/steps.ts'
import { standardLabel } from '../../procedures/words.ts'
import { nullIfOutOfRange, OutOfRange } from '../../quantities/outOfRange.ts'
import { degreesApart, millivolts, type Sentence, say } from '../../quantities/sentence.ts'
import { ionStandard } from '../../standards/ionStandards.ts'
import { findingsOfIonPair } from './findings.ts'
import { ION_BOTTLES } from './standards.ts'

/** Standards of the device's own ion, the strongest first. */
const ofIon = (device: DeviceSetting) =>
  pourable(ION_BOTTLES)
    .map(ionStandard)
    .filter((s) => s.ion === (device.ion ?? 'chloride'))
    .sort((a, b) => b.molarity - a.molarity)
    .map((s) => s.code)

const HIGH: StandardRole = { role: 'high', label: 'High standard', propose: ({ device }) => ofIon(device) }
const LOW: StandardRole = { role: 'low', label: 'Low standard', propose: ({ device }) => ofIon(device).toReversed() }

/** Ion activity is computed from these, and they share one reference electrode. */
const SHARED_BODY: Prerequisite = {
  kinds: ['ph', 'orp', 'conductivity'],
  withinDays: 2,
  why: 'Ion activity is computed from pH and conductivity, and they share one reference electrode: they come first.',
}

const KEYS = ['point-1', 'point-2', 'point-3', 'point-4'] as const

function ionPoint(e: VisitState, key: string): IonPoint | null {
  const r = pointReading(e, key)
  return r
    ? {
        standard: ionStandard(r.standard.code),
        millivolts: r.signal,
        uncertainty: r.signalUncertainty,
        temperature: r.temperature,
      }
    : null
}

const HYDRATE_MINUTES = 24 * 60

function characteristicOf({ levels: [first, second] }: IonCalibration): CalibrationParameters {
  if (!first) throw new RangeError('A calibration has at least one level.')
  return {
    zero: first.zero.value,
    slopeEfficiency: first.slopeEfficiency.value,
    temperature: first.temperature,
    ...(second
      ? {
          zero2: second.zero.value,
          slopeEfficiency2: second.slopeEfficiency.value,
          temperature2: second.temperature,
        }
      : {}),
  }
}

function foundOf(calibration: IonCalibration) {
  const level = calibration.levels[0] as IonCalibration['levels'][number]
  return {
    characteristic: characteristicOf(calibration),
    uncertainty: { zero: level.zero.uncertainty, slopeEfficiency: level.slopeEfficiency.uncertainty },
  }
}

/** A pair is judged as soon as it is there, before the other points are taken. */
export function pairFindings(e: VisitState): Finding[] {
  const [high, low, warmHigh, warmLow] = KEYS.map((key) => ionPoint(e, key))
  return [
    ...(high && low ? findingsOfIonPair(high, low) : []),
    ...(warmHigh && warmLow ? findingsOfIonPair(warmHigh, warmLow) : []),
  ]
}

function judgeIon(e: VisitState, count: 2 | 3 | 4): Assessment | null {
  const taken = KEYS.slice(0, count).map((key) => ionPoint(e, key))
  const [high, low, warmHigh = null, warmLow = null] = taken
  if (!high || !low || (count > 2 && !warmHigh) || (count > 3 && !warmLow)) return null
  const keys = ['found-standard', ...KEYS.slice(0, count)]
  const findings = [...pairFindings(e), ...findingsOfReadings(e, keys)]
  const none = (more: Finding[]) =>
    calibrationResult(e, { found: null, findings: [...more, ...findings], figures: [], uncertainty: 0 })
  const stops = findings.filter((f) => f.severity === 'stop')
  if (stops.length > 0) {
    const dead = stops.every((f) => f.code === 'no-response') && nullIfOutOfRange(() => calibrateIon(high, low))
    return dead ? calibrationResult(e, { found: foundOf(dead), findings, figures: [], uncertainty: 0 }) : none([])
  }
  let calibration: IonCalibration
  try {
    calibration = calibrateIon(high, low, warmHigh, warmLow)
  } catch (error) {
    if (!(error instanceof OutOfRange)) throw error
    return none([
      {
        code: 'points-too-close',
        severity: 'stop',
        sentence: say`These points give no calibration. ${error.sentence}`,
        advice: say`The standards near the sample\u2019s temperature must be at least ${degreesApart(2, 0)} from the others.`,
        numbers: {},
      },
    ])
  }
  const level = calibration.levels[0] as IonCalibration['levels'][number]
  const characteristic = characteristicOf(calibration)
  const small = findings.some((f) => f.code === 'gap-outside' && (f.numbers.gap ?? 0) < (f.numbers.low ?? 0))
  const gap = Math.abs(high.millivolts - low.millivolts)
  const soaked = e.doneAt.soak !== undefined
  const known = e.setup.diagnosed?.final === true
  return calibrationResult(e, {
    found: foundOf(calibration),
    findings,
    figures: [
      { label: 'Gap of the pair', value: say`${millivolts(gap, 1)}`, note: 'shrinks as the tip ages' },
      parameterFigure(e, 'slopeEfficiency', level.slopeEfficiency),
      parameterFigure(e, 'zero', level.zero),
    ],
    uncertainty: uncertaintyAtProcess(e, characteristic, { zero: level.zero, slopeEfficiency: level.slopeEfficiency }),
    worn:
      small && (soaked || known)
        ? say`The gap is only ${millivolts(gap, 1)}${known ? '' : ', after a soak too'}.`
        : null,
    // Fresh standards first, then a soak, then another tip; what its record calls spent needs no soak.
    mayRecover:
      small && !known && wasRepeated(e)
        ? {
            sentence: say`The gap is only ${millivolts(gap, 1)}: hydrate the tip for a day and take the pair again before you replace it.`,
            soaked,
          }
        : null,
  })
}

/** Points after warming: their cups have another temperature than those before. */
const WARM_KEYS = ['point-3', 'point-4']

const conditioning = (e: VisitState, role: string, number: number, after: readonly string[]): Step => ({
  key: `rinse-${number}`,
  kind: 'confirm',
  short: 'Conditioning rinse',
  title: `Fill a quarter of the cup with ${standardLabel(e, role)}, shake the tip in it, then discard the solution`,
  hint: 'Rinse with water first. The dip takes the last drop off, so that nothing dilutes the cup that counts.',
  main: 'Confirm rinse',
  usualSkips: ['Conditioned already'],
  after,
})

const warming = (): Step => ({
  key: 'warm',
  kind: 'wait',
  short: 'To sample temperature',
  title: 'Bring the standards to the sample\u2019s temperature',
  hint: say`Float the closed bottles in the water. At least ${degreesApart(2, 0)} from the pair before, or a further point tells nothing new.`,
  main: 'Start float',
  usualSkips: ['They have its temperature'],
  after: [],
  minutes: 45,
  shared: true,
})

function ionSteps(e: VisitState, count: 2 | 3 | 4): Step[] {
  const pair = (role: string, number: number, more: readonly string[] = []): Step[] => [
    conditioning(e, role, number, ['clean', ...more]),
    point(e, role, number, ['clean', `rinse-${number}`, ...more]),
  ]
  const suffix = (s: Step): Step =>
    s.kind === 'capture' ? { ...s, short: `${s.short.split(',')[0]}, warm`, sameLevel: WARM_KEYS } : s
  return [
    hold(e),
    foundProcess(e),
    foundStandard(e, 'high'),
    ...soak(e, HYDRATE_MINUTES),
    clean(e, 'clean', (e.asked.condition ?? 0) > 0 ? ['soak'] : []),
    ...pair('high', 1),
    ...pair('low', 2),
    ...(count > 2 ? [warming(), ...pair('high', 3, ['warm']).map(suffix)] : []),
    ...(count > 3 ? pair('low', 4, ['warm']).map(suffix) : []),
    result(KEYS.slice(0, count), 'What the points say', 'point-1'),
    // Nobody knows at which of the two levels these are read.
    ...afterResult(e, ['high', 'low']).map((s) =>
      count > 2 && s.medium === 'standard' ? { ...s, sameLevel: VERIFY_KEYS } : s,
    ),
  ].map((s) => (s.kind === 'capture' ? { ...s, hint: shortLabel(s.hint) } : s))
}

const shortLabel = (hint: Sentence) => say`${hint} Five minutes are usual by the clock; here it is judged.`

const ionProcedure = (count: 2 | 3 | 4, name: string, summary: string): Procedure => ({
  id: `ion-${{ 2: 'two', 3: 'three', 4: 'four' }[count]}-point`,
  name,
  summary,
  needs: `${2 * count} cups`,
  pours: { high: count > 2 ? 5 : 4, low: count > 3 ? 4 : 2 },
  roles: [HIGH, LOW],
  version: 1,
  handsOnMinutes: 10 + 6 * count,
  prerequisites: [SHARED_BODY],
  steps: (e) => ionSteps(e, count),
  judge: (e) => judgeIon(e, count),
  observe: (e) => observeFrom(e, judgeIon(e, count)),
  ...(count === 2 ? { past: { points: 2, highFirst: true, judge: (e) => judgeIon(e, 2) } } : {}),
})

export const ION_TWO_POINT = ionProcedure(2, 'Two points', 'High and low standard at one temperature: slope and E0.')
export const ION_THREE_POINT = ionProcedure(
  3,
  'Three points',
  'The pair, and the high standard once more near the sample\u2019s temperature.',
)
export const ION_FOUR_POINT = ionProcedure(
  4,
  'Four points',
  'The pair at room temperature and again near the sample\u2019s: slope and E0 at both.',
)
