import type { Finding } from '../../calibration/finding.ts'
import {
  calibrateOrpOffset,
  calibrateOrpTwoPoint,
  calibrateOrpZeroPlug,
  type OrpCalibration,
  type OrpPoint,
} from '../../calibration/orpCalibration.ts'
import { findNoResponse } from '../../calibration/slips.ts'
import { pourable } from '../../measurement/standard.ts'
import {
  calibrationResult,
  checkVerdict,
  findingsOfReadings,
  findingsOfTemperature,
  observeFrom,
  parameterFigure,
  pointReading,
  uncertaintyAtProcess,
} from '../../procedures/assess.ts'
import { afterCleaning, calibrationProcedure } from '../../procedures/calibrationProcedure.ts'
import type { Assessment, Procedure, StandardRole, VisitState } from '../../procedures/procedure.ts'
import { judgeSelf, observeSelf, selfSteps } from '../../procedures/selfCalibration.ts'
import type { Step } from '../../procedures/step.ts'
import { clean, foundProcess, foundStandard, hold, leaving, verdict, wentOn } from '../../procedures/steps.ts'
import { OutOfRange } from '../../quantities/outOfRange.ts'
import { millivolts, say } from '../../quantities/sentence.ts'
import { ORP_STANDARDS, type OrpStandardCode } from '../../standards/orpStandards.ts'
import { findingsOfOrp } from './findings.ts'
import { ORP_BOTTLES } from './standards.ts'

const WHAT_IT_SAYS = 'What the standard says'

/** Those of the site's own first: they are what stands on its shelf. */
const codes = () => {
  const all = pourable(ORP_BOTTLES)
  const known = new Set(ORP_STANDARDS.map((s) => s.code))
  return [...all.filter((c) => !known.has(c)), ...all.filter((c) => known.has(c))]
}
const STANDARD: StandardRole = { role: 'first', label: 'Standard', propose: codes }
const SECOND: StandardRole = {
  role: 'second',
  label: 'Second standard',
  propose: () => ['light', ...codes().filter((c) => c !== 'light')],
}

const referenceOf = (e: VisitState) => e.setup.device.reference ?? 'agcl-3M'

function asPoint(e: VisitState, key: string, gain: number): OrpPoint | null {
  const r = pointReading(e, key)
  return r
    ? {
        standard: r.standard.code as OrpStandardCode,
        shown: gain * r.signal,
        uncertainty: r.signalUncertainty,
        temperature: r.temperature,
      }
    : null
}

function judgeWith(e: VisitState, keys: readonly string[], calibrate: () => OrpCalibration | null): Assessment | null {
  const all = ['found-standard', ...keys]
  const common = [...findingsOfReadings(e, all), ...findingsOfTemperature(e, all)]
  const none = (findings: Finding[]) => calibrationResult(e, { found: null, findings, figures: [], uncertainty: 0 })
  const [a, b] = [pointReading(e, 'point-1'), pointReading(e, 'point-2')]
  if (a && b) {
    const dead = findNoResponse(b.signal - a.signal, b.standard.value - a.standard.value)
    if (dead && a.standard.code !== b.standard.code) return none([dead, ...common])
    if ((b.signal - a.signal) * (b.standard.value - a.standard.value) < 0) {
      return none([
        {
          code: 'standards-swapped',
          severity: 'stop',
          sentence: 'The reading went the wrong way from one standard to the other: the cups look swapped.',
          advice: 'Check the labels, rinse, and take both points again.',
          numbers: { first: a.signal, second: b.signal },
        },
        ...common,
      ])
    }
  }
  let calibration: OrpCalibration | null
  try {
    calibration = calibrate()
  } catch (error) {
    if (!(error instanceof OutOfRange)) throw error
    return none([
      {
        code: a && b && a.standard.code === b.standard.code ? 'same-standard-twice' : 'no-response',
        severity: 'stop',
        sentence: say`These readings give no calibration. ${error.sentence}`,
        advice: 'Look at the plug and the cups, and take the points again.',
        numbers: {},
      },
      ...common,
    ])
  }
  if (!calibration) return null
  const keepsGain = calibration.school === 'offset'
  const gain = keepsGain ? (e.setup.activeCalibration.gain ?? 1) : calibration.gain.value
  const characteristic = { gain, offset: calibration.offset.value }
  return calibrationResult(e, {
    found: {
      characteristic,
      uncertainty: { gain: calibration.gain.uncertainty, offset: calibration.offset.uncertainty },
    },
    findings: [...findingsOfOrp(calibration), ...common],
    figures: [
      parameterFigure(e, 'offset', calibration.offset),
      ...(keepsGain ? [] : [parameterFigure(e, 'gain', calibration.gain)]),
    ],
    uncertainty: uncertaintyAtProcess(e, characteristic, {
      offset: calibration.offset,
      ...(keepsGain ? {} : { gain: calibration.gain }),
    }),
    worn:
      Math.abs(calibration.offset.value) > 100
        ? say`The offset is ${millivolts(calibration.offset.value, 0)}: the reference is spent.`
        : null,
  })
}

function judgeOffset(e: VisitState): Assessment | null {
  return judgeWith(e, ['point-1'], () => {
    const point = asPoint(e, 'point-1', e.setup.activeCalibration.gain ?? 1)
    return point && calibrateOrpOffset(point, referenceOf(e))
  })
}

function judgePlug(e: VisitState): Assessment | null {
  const plug = e.readings.plug
  // A connector out of reach leaves the zero as it is: then one standard sets the offset only.
  if (!plug || e.skipped.plug !== undefined) return judgeOffset(e)
  return judgeWith(e, ['plug', 'point-1'], () => {
    const point = asPoint(e, 'point-1', 1)
    return (
      point && calibrateOrpZeroPlug({ shown: plug.signal, uncertainty: plug.signalUncertainty }, point, referenceOf(e))
    )
  })
}

function judgeTwo(e: VisitState): Assessment | null {
  return judgeWith(e, ['point-1', 'point-2'], () => {
    const [first, second] = [asPoint(e, 'point-1', 1), asPoint(e, 'point-2', 1)]
    return first && second ? calibrateOrpTwoPoint(first, second, referenceOf(e)) : null
  })
}

const shortingPlug = (): Step[] => [
  {
    key: 'plug',
    kind: 'capture',
    medium: 'plug',
    short: 'Zero, plug',
    title: 'Take the sensor off and put the shorting plug on',
    hint: say`It should read ${millivolts(0, 0)}. This is the channel\u2019s own zero, without any sensor.`,
    main: 'Capture reading',
    usualSkips: ['The connector cannot be reached', 'No plug at hand'],
    after: ['clean'],
    hazards: ['loop'],
  },
]

export const ORP_OFFSET = calibrationProcedure(
  {
    id: 'orp-offset',
    name: 'One standard',
    summary: 'The offset from one standard at its temperature, for this reference electrode.',
    needs: '3 cups',
    pours: { first: 3 },
    roles: [STANDARD],
    version: 1,
    handsOnMinutes: 8,
    past: { points: 1, judge: judgeOffset },
  },
  { points: ['first'], title: WHAT_IT_SAYS, judge: judgeOffset },
)

export const ORP_ZERO_PLUG = calibrationProcedure(
  {
    id: 'orp-zero-plug',
    name: 'Shorting plug and one standard',
    summary: 'Electrical zero with a shorting plug in place of the sensor, then one standard.',
    needs: '3 cups, shorting plug',
    pours: { first: 3 },
    roles: [STANDARD],
    version: 1,
    handsOnMinutes: 11,
  },
  { points: ['first'], title: 'What plug and standard say', zero: shortingPlug, judge: judgePlug },
)

export const ORP_TWO_POINT = calibrationProcedure(
  {
    id: 'orp-two-point',
    name: 'Two standards',
    summary: 'Offset and gain: for a channel that is in doubt.',
    needs: '4 cups',
    pours: { first: 3, second: 1 },
    roles: [STANDARD, SECOND],
    version: 1,
    handsOnMinutes: 12,
    past: { points: 2, judge: judgeTwo },
  },
  { points: ['first', 'second'], title: 'What the two standards say', judge: judgeTwo },
)

export const ORP_CHECK: Procedure = {
  id: 'orp-check',
  name: 'Check only',
  summary: 'One fresh standard. Close enough: leave it alone. If not, go on from there.',
  needs: '1 cup',
  pours: { first: 1 },
  roles: [STANDARD],
  version: 1,
  handsOnMinutes: 4,
  steps: (e) => [
    hold(e),
    foundProcess(e),
    foundStandard(e, 'first'),
    verdict(['found-standard']),
    ...(wentOn(e)
      ? e.setup.adjustsBy === 'key'
        ? selfSteps(e, ['first'])
        : [clean(e), ...afterCleaning(e, { roles: ['first'], title: WHAT_IT_SAYS, zero: [] })]
      : leaving(e, ['verdict'])),
  ],
  judge: (e, step) =>
    step === 'verdict' ? checkVerdict(e) : e.setup.adjustsBy === 'key' ? judgeSelf(e, ORP_OFFSET) : judgeOffset(e),
  observe: (e) =>
    wentOn(e) && e.setup.adjustsBy === 'key'
      ? observeSelf(e, ORP_OFFSET)
      : observeFrom(e, wentOn(e) ? judgeOffset(e) : checkVerdict(e)),
}
