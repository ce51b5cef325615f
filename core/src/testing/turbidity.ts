import { PLAIN_HEALTH, TWO_PERCENT } from '../kinds/common.ts'
import { GAIN, linearModel } from '../measurement/linearModel.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import type { Standard } from '../measurement/standard.ts'
import {
  calibrationResult,
  checkVerdict,
  findingsOfReadings,
  observeFrom,
  parameterFigure,
  pointReading,
} from '../procedures/assess.ts'
import { calibrationProcedure } from '../procedures/calibrationProcedure.ts'
import { COMPARE } from '../procedures/compare.ts'
import { commissioning, RETIRE } from '../procedures/lifeCycle.ts'
import type { Assessment, Kind, Procedure, StandardRole, VisitState } from '../procedures/procedure.ts'
import { back, foundProcess, foundStandard, hold, release, verdict } from '../procedures/steps.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { quantity } from '../quantities/sentence.ts'
import { plainPreset } from '../stability/presets.ts'

/** A made-up eighth kind, whole in this file: what a new kind needs, and that nothing else has to be told of it. */

// A kind of the product declares its name; one that comes at run time is not known to the compiler.
const ID = 'turbidity' as string as SensorKind

const formazin = (nominal: number): Standard => ({
  code: `formazin-${nominal}`,
  kind: ID,
  label: `Formazin ${nominal} FNU`,
  shortLabel: `${nominal} FNU`,
  unit: 'FNU',
  decimals: 1,
  nominal,
  uncertainty: 0.03 * nominal,
  relative: true,
  low: 5,
  high: 40,
  caution: 'Formazin harms the skin: gloves.',
  takesLotTable: false,
  valueAt: (temperature) => {
    requireWithin('Temperature of formazin', temperature, 5, 40, '°C')
    return nominal
  },
  quantityOf: (value) => quantity(value, 'FNU', 1),
})
const STANDARDS = [formazin(10), formazin(40)]

const CLEAR: StandardRole = { role: 'first', label: 'Standard', propose: () => STANDARDS.map((s) => s.code) }

function judge(e: VisitState): Assessment | null {
  const point = pointReading(e, 'point-1')
  if (!point) return null
  const gain = point.standard.value / point.signal
  const uncertainty = gain * (point.signalUncertainty / point.signal + 0.03)
  const { activeCalibration: active, processValue } = e.setup
  return calibrationResult(e, {
    found: { characteristic: { gain, offset: active.offset ?? 0 }, uncertainty: { gain: uncertainty } },
    findings: findingsOfReadings(e, ['found-standard', 'point-1']),
    figures: [parameterFigure(e, 'gain', { value: gain, uncertainty })],
    uncertainty: processValue * uncertainty,
  })
}

const ONE_POINT = calibrationProcedure(
  {
    id: 'turbidity-one-point',
    name: 'One formazin',
    summary: 'Slope from one standard; the zero stays.',
    needs: '3 cups',
    pours: { first: 3 },
    roles: [CLEAR],
    version: 1,
    handsOnMinutes: 9,
  },
  { points: ['first'], title: 'What the standard says', judge },
)

const CHECK: Procedure = {
  id: 'turbidity-check',
  name: 'Check only',
  summary: 'One fresh standard.',
  needs: '1 cup',
  pours: { first: 1 },
  roles: [CLEAR],
  version: 1,
  handsOnMinutes: 3,
  steps: (e) => [
    hold(e),
    foundProcess(e),
    foundStandard(e, 'first'),
    verdict(['found-standard']),
    ...[back(), release()].map((s) => ({ ...s, after: ['verdict'] })),
  ],
  judge: (e) => checkVerdict(e),
  observe: (e) => observeFrom(e, checkVerdict(e)),
}

export const TURBIDITY: Kind = {
  id: ID,
  name: 'Turbidity',
  short: 'TU',
  alsoCalled: ['ntu'],
  model: linearModel({
    quantity: 'Turbidity',
    unit: 'FNU',
    decimals: 1,
    parameters: [GAIN, { key: 'offset', label: 'Offset', unit: 'FNU', decimals: 2, scale: 1, low: -100, high: 100 }],
    preset: (level) => plainPreset(level),
    standardValue: (code, temperature) =>
      (STANDARDS.find((s) => s.code === code) as Standard | undefined)?.valueAt(temperature) ?? Number.NaN,
    wrongCup: { miss: 8, near: 4 },
    moved: 1,
    usualDrift: { rateSd: 0.5 / 30, walk: 0.3 ** 2 / 30 },
    range: { low: 0, high: 1000 },
    check: (value) => requireWithin('Turbidity', value, -10, 1e4, 'FNU'),
  }),
  words: {
    sensor: 'window',
    immerse: 'The window under water, no bubbles on it, in the dark.',
    clean: { title: 'Wipe the window', hint: 'A soft cloth and water.' },
  },
  settingText: () => '',
  standards: STANDARDS,
  commonStandards: STANDARDS.map((s) => s.code),
  procedures: [CHECK, ONE_POINT, COMPARE, RETIRE, commissioning(ONE_POINT)],
  quickCheck: CHECK.id,
  verb: 'Calibrate',
  tripOrder: 6,
  rest: null,
  flatWaitSeconds: 60,
  signalDisplay: null,
  signalLeads: false,
  readsUncalibrated: true,
  temperatureInput: true,
  fragile: false,
  rated: null,
  sample: null,
  simulator: { rows: () => [], units: {}, tolerance: TWO_PERCENT, zeroAt: 0 },
  health: { ...PLAIN_HEALTH, causes: { nothing: 12, 'bad-standard': 4, 'device-reset': 3 } },
  unitSlip: () => null,
  leftOverSpread: () => 0.2,
  standardNote: 'as on its label',
  expectsDisplay: false,
  slopeTitle: null,
}
