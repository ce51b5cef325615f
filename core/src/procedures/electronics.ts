import { checkElectronics, type ElectronicsLimits, type SimulatorStep } from '../calibration/electronicsCheck.ts'
import type { Finding } from '../calibration/finding.ts'
import type { DeviceSetting } from '../measurement/measurementModel.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { difference, quantity, say } from '../quantities/sentence.ts'
import { findingsOfInstruments } from './assess.ts'
import { readOwnInputs } from './ownInputs.ts'
import type { Assessment, Procedure, SimulatorRow, SimulatorTraits, VisitState } from './procedure.ts'
import type { FieldSpec, Step } from './step.ts'
import { hold, release } from './steps.ts'
import { shownQuantity } from './words.ts'

/** Only kinds with a simulator offer this procedure. */
function simulatorOf({ kind }: VisitState): SimulatorTraits {
  if (!kind.simulator) throw new RangeError('No simulator stands in for this kind of sensor.')
  return kind.simulator
}

/** The usual inputs, and those that the operator added. */
function rowsOf(e: VisitState): readonly SimulatorRow[] {
  const simulator = simulatorOf(e)
  const own = readOwnInputs(String(e.forms.connect?.values.own ?? ''), simulator)
  return [...simulator.rows(e.setup), ...(own.ok ? own.rows : [])]
}

/**
 * What the transmitter should show for a row with the calibration in force. At the reference of its compensation, 25 degC,
 * that changes nothing, also where its law does not reach. Null where it is not known.
 */
function rightOf(e: VisitState, row: SimulatorRow): number | null {
  if ('right' in row) return row.right
  const { model, setup } = e
  const shown = (device: DeviceSetting) =>
    nullIfOutOfRange(() => model.toShown(row.signal, row.temperature, setup.activeCalibration, device))
  const plain = row.temperature === REFERENCE ? shown({ ...setup.device, compensation: { law: 'none' } }) : null
  return shown(setup.device) ?? plain
}

const REFERENCE = 25

/** Those that can be judged, with the number of their field. */
const judgedRows = (e: VisitState) =>
  rowsOf(e).flatMap((row, i) => {
    const right = rightOf(e, row)
    return right === null ? [] : [{ key: `shown${i}`, right }]
  })

function limitsOf(e: VisitState): ElectronicsLimits {
  const { tolerance, zeroAt } = simulatorOf(e)
  const all = judgedRows(e).map((r) => r.right)
  return { toleranceAt: (right) => tolerance(right, all), zeroAt }
}

const known = (expected: number | null) => (expected === null ? {} : { expected })

function fields(e: VisitState): FieldSpec[] {
  const { unit, decimals } = e.model.shownScale(e.setup.device)
  const rows = rowsOf(e).map((row, i) => ({
    key: `shown${i}`,
    label: 'Display',
    ...known(rightOf(e, row)),
    kind: 'number' as const,
    unit,
    low: -1e6,
    high: 1e6,
    decimals,
    row: row.label,
    live: true,
    ...('right' in row ? {} : { appliedInput: { signal: row.signal, temperature: row.temperature } }),
  }))
  return [
    { key: 'simulator', label: 'Simulator', kind: 'instrument', optional: true, instruments: ['simulator'] },
    ...rows,
  ]
}

function judge(e: VisitState, step: string): Assessment | null {
  const [found, left] = [e.forms['as-found']?.values, e.forms['as-left']?.values]
  const values = step === 'left-verdict' ? left : found
  if (!found || !values) return null
  const rows = judgedRows(e)
  const steps: SimulatorStep[] = rows.map(({ key, right }) => ({
    right,
    asFound: Number(found[key]),
    asLeft: left ? Number(left[key]) : null,
    direction: 'up',
  }))
  const after = step === 'left-verdict'
  const limits = limitsOf(e)
  const checked = checkElectronics(steps, limits)
  const judged = step === 'left-verdict' && checked.asLeft ? checked.asLeft : checked.asFound
  const { unit, decimals } = e.model.shownScale(e.setup.device)
  const text = (v: number) => difference(v, unit, decimals)
  // The worst of all is the one that is farthest beyond, or nearest to, what is allowed in its own row.
  const errors = rows.map(({ key, right }) => ({
    error: Math.abs(Number(values[key]) - right),
    allowed: limits.toleranceAt(right),
  }))
  const { error: worst, allowed } = errors.reduce((a, b) => (b.error / b.allowed > a.error / a.allowed ? b : a))
  const findings: Finding[] = findingsOfInstruments(e, after ? 'as-left' : 'as-found')
  if (!judged.isLinear) {
    findings.push({
      code: 'segments-disagree',
      severity: 'warn',
      sentence: say`The inputs do not lie on one line: ${text(judged.linearity)} off it at the most.`,
      advice:
        'Gain and zero cannot mend that. Check the simulator on another transmitter, then have this one serviced.',
      numbers: { linearity: judged.linearity },
    })
  }
  const ok = judged.withinTolerance
  return {
    figures: [
      { label: 'Largest error', value: text(worst), note: say`at most ${text(allowed)}` },
      { label: 'Gain', value: quantity(judged.gain, '', 4), note: '1 is right' },
      { label: 'Zero', value: text(judged.zero), note: say`at ${shownQuantity(e, limits.zeroAt)}` },
      { label: 'Linearity', value: text(judged.linearity), note: 'farthest from the line' },
    ],
    findings,
    proposal: ok
      ? {
          decision: 'leave-alone',
          reason: 'The electronics are fine: every input is within its tolerance. Check the sensor.',
        }
      : after || findings.some((f) => f.code === 'segments-disagree')
        ? {
            decision: 'replace',
            reason: say`It is still ${text(worst)} off. Have the transmitter serviced or replaced.`,
          }
        : {
            decision: 'adjust',
            reason: say`Off by ${text(worst)} where ${text(allowed)} is allowed. Adjust zero and gain as its manual says, then repeat the inputs.`,
          },
    choices: after ? ['leave-alone', 'repeat', 'replace'] : ['leave-alone', 'adjust', 'replace', 'repeat'],
    found: null,
    asFoundError: null,
    errorNow: null,
    uncertainty: null,
    fouling: null,
  }
}

const table = (e: VisitState, key: string, short: string, title: string, after: readonly string[]): Step => ({
  key,
  kind: 'form',
  short,
  title,
  hint: 'Set the simulator to each input, wait until the display stands, and enter what it shows.',
  main: 'Save readings',
  usualSkips: [],
  after,
  fields: fields(e),
})

export const ELECTRONICS: Procedure = {
  id: 'electronics',
  name: 'Transmitter, with a simulator',
  summary: 'A decade box or simulator in place of the sensor: is it the electronics or the sensor?',
  needs: 'Simulator or decade box',
  pours: {},
  roles: [],
  version: 2,
  handsOnMinutes: 15,
  steps: (e) => {
    const adjust = e.decisions['found-verdict']?.decision === 'adjust'
    const end = adjust ? 'left-verdict' : 'found-verdict'
    return [
      { ...hold(e), hazards: ['loop', 'mains'] },
      {
        key: 'connect',
        kind: 'form',
        short: 'Simulator on',
        title: 'Take the sensor off and put the simulator in its place',
        hint: 'Plug dry and clean. Note where each wire was. Keep the sensor wet meanwhile.',
        main: 'Confirm connection',
        usualSkips: [],
        after: [],
        fields: [
          {
            key: 'own',
            label: 'Further inputs',
            kind: 'text',
            optional: true,
            inputsOf: e.setup.kind,
            hint: `Apart by semicolons: ${[...Object.keys(simulatorOf(e).units).map((unit) => `40 ${unit} at 25`), 'what is set = what is right'].join('; ')}`,
          },
        ],
      },
      table(e, 'as-found', 'As found', 'What does it show, as found?', ['connect']),
      {
        key: 'found-verdict',
        kind: 'verdict',
        short: 'What it means',
        title: 'What the inputs say',
        hint: '',
        main: '',
        usualSkips: [],
        after: ['as-found'],
        repeatFrom: 'as-found',
      },
      ...(adjust
        ? [
            {
              key: 'trim',
              kind: 'confirm' as const,
              short: 'Adjust',
              title: 'Adjust gain and zero on the transmitter',
              hint: 'As its manual says, zero first, then gain, then zero once more.',
              main: 'Confirm adjustment',
              usualSkips: [],
              after: ['found-verdict'],
            },
            table(e, 'as-left', 'As left', 'What does it show now, as left?', ['trim']),
            {
              key: 'left-verdict',
              kind: 'verdict' as const,
              short: 'As left',
              title: 'What is left',
              hint: '',
              main: '',
              usualSkips: [],
              after: ['as-left'],
              repeatFrom: 'trim',
            },
          ]
        : []),
      {
        key: 'reconnect',
        kind: 'confirm',
        short: 'Sensor back on',
        title: 'Take the simulator off and put the sensor back on',
        hint: 'Does the reading come back to where it was?',
        main: 'Confirm sensor',
        usualSkips: [],
        after: [end],
      },
      { ...release(), after: [end] },
    ]
  },
  judge,
  observe: () => null,
}
