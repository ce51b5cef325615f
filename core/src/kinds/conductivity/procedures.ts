import {
  type ConductivityCalibration,
  type ConductivityPoint,
  calibrateConductivity,
  calibrateConductivityTwoPoint,
} from '../../calibration/conductivityCalibration.ts'
import type { Finding } from '../../calibration/finding.ts'
import {
  calibrationResult,
  findingsOfReadings,
  findingsOfTemperature,
  lotTableOf,
  parameterFigure,
  pointReading,
  uncertaintyAtProcess,
} from '../../procedures/assess.ts'
import { calibrationProcedure } from '../../procedures/calibrationProcedure.ts'
import type { Assessment, Procedure, StandardRole, VisitState } from '../../procedures/procedure.ts'
import type { Step } from '../../procedures/step.ts'
import { OutOfRange } from '../../quantities/outOfRange.ts'
import { quantity, say } from '../../quantities/sentence.ts'
import { findingsOfConductivity } from './findings.ts'
import { settingFinding } from './settingFinding.ts'
import { CONDUCTIVITY_BOTTLES } from './standards.ts'

/** Standards by how near they are to the process value; for seawater the seawater standard comes first. */
function nearest(value: number, device: { display?: string | undefined }, rank: number): readonly string[] {
  const sea = device.display === 'salinity' || device.display === 'specific gravity'
  const list = CONDUCTIVITY_BOTTLES.filter((s) => !s.archived).sort((a, b) => {
    const apart = (nominal: number) => Math.abs(Math.log(nominal / Math.max(value, 1)))
    const bonus = (code: string) => (sea && code.startsWith('seawater') ? -1 : code.includes('al') ? 0.3 : 0)
    return apart(a.nominal) + bonus(a.code) - apart(b.nominal) - bonus(b.code)
  })
  const codes = list.map((s) => s.code)
  // A second standard lies apart from the first.
  const far = list.find((s) => Math.abs(Math.log(s.nominal / (list[0]?.nominal ?? 1))) > 1)?.code
  if (rank === 0 || !far) return codes
  return [far, ...codes.filter((c) => c !== far)]
}

export const CONDUCTIVITY_STANDARD: StandardRole = {
  role: 'first',
  label: 'Standard',
  propose: ({ processValue, device }) => nearest(processValue, device, 0),
}
const SECOND: StandardRole = {
  role: 'second',
  label: 'Second standard',
  propose: ({ processValue, device }) => nearest(processValue, device, 1),
}

/** Of a cell's own thermometer, half-width 95 %, degC (common practice, no source). */
const THERMOMETER = 0.3

const NONE = { law: 'none' } as const

/** The device's own zero stays where the school leaves it alone: it is taken off before the factor is worked out. */
function asPoint(e: VisitState, key: string, zero: number): ConductivityPoint | null {
  const r = pointReading(e, key)
  if (!r) return null
  const lotTable = lotTableOf(e, r.standard)
  return {
    standard: r.standard.code,
    shown: r.signal - zero,
    uncertainty: Math.max(r.signalUncertainty, 1e-6),
    temperature: r.temperature,
    temperatureUncertainty: THERMOMETER,
    ...(lotTable ? { lotTable } : {}),
  }
}

export function compensationFindings(e: VisitState, keys: readonly string[]): Finding[] {
  for (const key of keys) {
    const r = pointReading(e, key)
    const found = r && settingFinding(e, r.standard.value, r)
    if (found) return [found]
  }
  return []
}

function judgeWith(
  e: VisitState,
  keys: readonly string[],
  calibrate: () => ConductivityCalibration | null,
): Assessment | null {
  const all = ['found-standard', ...keys]
  const common = [...compensationFindings(e, keys), ...findingsOfReadings(e, all), ...findingsOfTemperature(e, all)]
  let calibration: ConductivityCalibration | null
  try {
    calibration = calibrate()
  } catch (error) {
    if (!(error instanceof OutOfRange)) throw error
    const finding: Finding = {
      code: 'no-response',
      severity: 'stop',
      sentence: say`These readings give no cell factor. ${error.sentence}`,
      advice: 'Is the cell in the standard, covered, without a bubble, and plugged in? Take the point again.',
      numbers: {},
    }
    return calibrationResult(e, { found: null, findings: [finding, ...common], figures: [], uncertainty: 0 })
  }
  if (!calibration) return null
  const point = asPoint(e, keys.at(-1) as string, 0)
  const activeCalibration = e.setup.activeCalibration.factor ?? 1
  // Dirt and wrong standards show against the factor in force, not against the nominal cell constant.
  const relative = {
    ...calibration,
    factor: { ...calibration.factor, value: calibration.factor.value / activeCalibration },
  }
  const findings = [...(point ? findingsOfConductivity(relative, point) : []), ...common]
  const keepsZero = calibration.school === 'one-point'
  const zero = keepsZero ? (e.setup.activeCalibration.zero ?? 0) : calibration.zero.value
  const characteristic = { factor: calibration.factor.value, zero }
  return calibrationResult(e, {
    found: {
      characteristic,
      uncertainty: { factor: calibration.factor.uncertainty, zero: calibration.zero.uncertainty },
    },
    findings,
    figures: [
      parameterFigure(e, 'factor', calibration.factor),
      ...(keepsZero ? [] : [parameterFigure(e, 'zero', calibration.zero)]),
    ],
    uncertainty: uncertaintyAtProcess(e, characteristic, {
      factor: calibration.factor,
      ...(keepsZero ? {} : { zero: calibration.zero }),
    }),
    worn:
      characteristic.factor > 2 || characteristic.factor < 0.5
        ? say`The cell factor is ${quantity(characteristic.factor, '', 2)}: the cell is damaged, or its constant is keyed in wrongly.`
        : null,
  })
}

function judgeOne(e: VisitState): Assessment | null {
  return judgeWith(e, ['point-1'], () => {
    const point = asPoint(e, 'point-1', e.setup.activeCalibration.zero ?? 0)
    return point && calibrateConductivity(point, NONE)
  })
}

function judgeDry(e: VisitState): Assessment | null {
  if (e.skipped.air !== undefined) return judgeOne(e)
  return judgeWith(e, ['point-1'], () => {
    const point = asPoint(e, 'point-1', 0)
    const air = e.readings.air
    return point && air
      ? calibrateConductivity(point, NONE, { shown: air.signal, uncertainty: Math.max(air.signalUncertainty, 1e-6) })
      : null
  })
}

function judgeTwo(e: VisitState): Assessment | null {
  return judgeWith(e, ['point-1', 'point-2'], () => {
    const [first, second] = [asPoint(e, 'point-1', 0), asPoint(e, 'point-2', 0)]
    return first && second ? calibrateConductivityTwoPoint(first, second, NONE) : null
  })
}

const adjustable: Procedure['suits'] = ({ device }) => !device.factoryCell

const DRY_MINUTES = 60

export const drying = (): Step[] => [
  {
    key: 'dry',
    kind: 'wait',
    short: 'Dry the cell',
    title: 'Blow the cell out and let it dry in air',
    hint: 'Up to two hours in still air, less when it is blown dry. A drop that is left behind becomes the zero.',
    main: 'Start drying',
    usualSkips: ['It is bone dry already'],
    after: ['clean'],
    minutes: DRY_MINUTES,
  },
  {
    key: 'bone-dry',
    kind: 'confirm',
    short: 'Look: bone dry',
    title: 'Look into the cell: is it bone dry?',
    hint: 'Look through it against the light, vent holes too.',
    main: 'Confirm dryness',
    ticks: ['No drop in the channel', 'No film on the face'],
    usualSkips: [],
    after: ['dry'],
  },
  {
    key: 'air',
    kind: 'capture',
    medium: 'air',
    short: 'Zero in air',
    title: 'Hold the dry cell in air',
    hint: 'Clear of everything. It should read next to nothing.',
    main: 'Capture reading',
    usualSkips: ['The device takes no zero'],
    after: ['bone-dry'],
  },
]

export const CONDUCTIVITY_DRY_ZERO = calibrationProcedure(
  {
    id: 'conductivity-dry-zero',
    name: 'Dry zero and one standard',
    summary: 'The whole calibration: zero in dry air, cell factor from one standard.',
    needs: '3 cups, and an hour for drying',
    pours: { first: 3 },
    roles: [CONDUCTIVITY_STANDARD],
    version: 1,
    handsOnMinutes: 14,
    suits: adjustable,
  },
  { points: ['first'], title: 'What zero and standard say', zero: drying, judge: judgeDry },
)

export const CONDUCTIVITY_ONE_POINT = calibrationProcedure(
  {
    id: 'conductivity-one-point',
    name: 'One standard',
    summary: 'Cell factor from one standard near the process; the zero stays as it is.',
    needs: '3 cups',
    pours: { first: 3 },
    roles: [CONDUCTIVITY_STANDARD],
    version: 1,
    handsOnMinutes: 8,
    suits: adjustable,
    past: { points: 1, judge: judgeOne },
  },
  { points: ['first'], title: 'What the standard says', judge: judgeOne },
)

export const CONDUCTIVITY_TWO_POINT = calibrationProcedure(
  {
    id: 'conductivity-two-point',
    name: 'Two standards',
    summary: 'Cell factor and zero from two standards on either side of the process.',
    needs: '4 cups',
    pours: { first: 3, second: 1 },
    roles: [CONDUCTIVITY_STANDARD, SECOND],
    version: 1,
    handsOnMinutes: 11,
    suits: adjustable,
    past: { points: 2, judge: judgeTwo },
  },
  { points: ['first', 'second'], title: 'What the two standards say', judge: judgeTwo },
)
