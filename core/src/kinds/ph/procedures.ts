import type { Finding } from '../../calibration/finding.ts'
import {
  calibratePhTwoPoint,
  type PhCalibration,
  type PhPoint,
  phUncertaintyAt,
} from '../../calibration/phCalibration.ts'
import { calibratePhBracketing, calibratePhLeastSquares } from '../../calibration/phMultiPoint.ts'
import { settledAfter } from '../../measurement/capturedReading.ts'
import { pourable } from '../../measurement/standard.ts'
import {
  calibrationResult,
  checkVerdict,
  findingsOfReadings,
  findingsOfTemperature,
  lotTableOf,
  observeFrom,
  parameterFigure,
  pointReading,
  type StandardReading,
  uncertaintyAtProcess,
} from '../../procedures/assess.ts'
import { knowsErrors, knowsNumbers, tellableFigures, tellableFindings } from '../../procedures/heldCalibration.ts'
import type { Assessment, Observation, Procedure, StandardRole, VisitState } from '../../procedures/procedure.ts'
import { judgeSelf, observeSelf, selfSteps } from '../../procedures/selfCalibration.ts'
import type { Step } from '../../procedures/step.ts'
import {
  afterResult,
  clean,
  float,
  foundProcess,
  foundStandard,
  hold,
  leaving,
  points,
  result,
  soak,
  verdict,
  wentOn,
} from '../../procedures/steps.ts'
import { inPercent, millivolts, quantity, type Sentence, say } from '../../quantities/sentence.ts'
import { phBuffer } from '../../standards/phBuffers.ts'
import { findingsOfSegments, findingsOfTwoPoints } from './findings.ts'
import { PH_LIMITS } from './limits.ts'
import { phElectrodeOf } from './model.ts'
import { PH_STANDARDS } from './standards.ts'

const first = (preferred: string) => [preferred, ...pourable(PH_STANDARDS).filter((c) => c !== preferred)]

const FIRST: StandardRole = { role: 'first', label: 'First buffer', propose: () => first('pH7.00') }
/** Seawater is calibrated with 7 and 10, nutrient and acid water with 7 and 4 (common practice, no source). */
const SECOND: StandardRole = {
  role: 'second',
  label: 'Second buffer',
  propose: ({ processValue }) => first(processValue >= 7 ? 'pH10.01' : 'pH4.01'),
}
const THIRD: StandardRole = {
  role: 'third',
  label: 'Third buffer',
  propose: ({ processValue }) => first(processValue >= 7 ? 'pH4.01' : 'pH10.01'),
}

/** A soak of an electrode that dried out or went slow: at least an hour (common practice, no source). */
const SOAK_MINUTES = 60

/** The site's order of buffers: the far one first swaps the first two. */
function ordered(e: VisitState, roles: readonly string[]): readonly string[] {
  if (e.setup.practices.order !== 'far-first') return roles
  const [a, b, ...rest] = roles
  return a && b ? [b, a, ...rest] : roles
}

const calibrationSteps = (e: VisitState, roles: readonly string[]): Step[] => {
  const order = ordered(e, roles)
  const keys = order.map((_, i) => `point-${i + 1}`)
  return [
    ...soak(e, SOAK_MINUTES),
    clean(e, 'clean', (e.asked.condition ?? 0) > 0 ? ['soak'] : []),
    ...points(e, order),
    result(keys, `What the ${roles.length === 3 ? 'three' : 'two'} points say`, 'point-1'),
    ...afterResult(e, order),
  ]
}

function phPoints(e: VisitState): PhPoint[] {
  return ['point-1', 'point-2', 'point-3'].flatMap((key) => {
    const r = pointReading(e, key)
    return r ? [phPoint(e, r)] : []
  })
}

function phPoint(e: VisitState, r: StandardReading): PhPoint {
  const lotTable = lotTableOf(e, r.standard)
  return {
    bufferCode: r.standard.code,
    millivolts: r.signal,
    millivoltsUncertainty: r.signalUncertainty,
    temperature: r.temperature,
    ...(lotTable ? { lotTable } : {}),
  }
}

function worn(slopeEfficiency: number, zero: number): Sentence | null {
  if (slopeEfficiency >= PH_LIMITS.slopeReplace && Math.abs(zero) <= PH_LIMITS.zeroReplace) return null
  return say`Slope ${inPercent(slopeEfficiency)}, zero ${millivolts(zero, 1)}.`
}

/** A slow electrode with a tired slope or a moved zero has often only dried out: soak it before it is judged. */
function mayRecover(e: VisitState, findings: Assessment['findings']) {
  const slow = findings.some((f) => f.code === 'slow-response')
  const tired = findings.some((f) => f.code === 'slope-ageing' || f.code === 'zero-beyond' || f.code === 'slope-low')
  if (!slow || !tired) return null
  return {
    sentence:
      'Slow, and its slope or zero has moved: it may only have dried out. Soak it an hour and take the points again.',
    soaked: e.doneAt.soak !== undefined,
  }
}

const previousOf = (e: VisitState) => (e.setup.previous ? phElectrodeOf(e.setup.previous.characteristic) : undefined)

const foundOf = (c: PhCalibration) => ({
  characteristic: { zero: c.zero, slopeEfficiency: c.slopeEfficiency },
  uncertainty: { zero: c.zeroUncertainty, slopeEfficiency: c.slopeEfficiencyUncertainty },
})

/** An electrode that does not answer leaves its slope behind, near nothing as it is. */
const unanswered = (a: PhPoint, b: PhPoint, findings: readonly Finding[]) =>
  findings.every((f) => f.severity !== 'stop' || f.code === 'no-response') ? foundOf(calibratePhTwoPoint(a, b)) : null

function judgeTwo(e: VisitState): Assessment | null {
  const [a, b] = phPoints(e)
  if (!a || !b) return null
  const keys = ['found-standard', 'point-1', 'point-2']
  const findings = [...findingsOfTwoPoints(a, b, {}, previousOf(e)), ...findingsOfReadings(e, keys)]
  if (findings.some((f) => f.severity === 'stop')) {
    return calibrationResult(e, { found: unanswered(a, b, findings), findings, figures: [], uncertainty: 0 })
  }
  const c = calibratePhTwoPoint(a, b)
  return calibrationResult(e, {
    found: foundOf(c),
    findings,
    figures: [
      parameterFigure(e, 'slopeEfficiency', { value: c.slopeEfficiency, uncertainty: c.slopeEfficiencyUncertainty }),
      parameterFigure(e, 'zero', { value: c.zero, uncertainty: c.zeroUncertainty }),
    ],
    uncertainty: phUncertaintyAt(c, e.setup.processValue, e.setup.processTemperature),
    worn: worn(c.slopeEfficiency, c.zero),
    mayRecover: mayRecover(e, findings),
  })
}

function judgeThree(e: VisitState): Assessment | null {
  const taken = phPoints(e)
  const [a, b, c] = taken
  if (!a || !b || !c) return null
  const keys = ['found-standard', 'point-1', 'point-2', 'point-3']
  const findings = [...findingsOfReadings(e, keys), ...findingsOfTemperature(e, keys)]
  if (new Set(taken.map((p) => p.bufferCode)).size < 3) {
    findings.unshift({
      code: 'same-standard-twice',
      severity: 'stop',
      sentence: 'Two of the three points are the same buffer.',
      advice: 'Three points need three different buffers.',
      numbers: {},
    })
  }
  const ends = [...taken].sort((x, y) => x.millivolts - y.millivolts)
  findings.push(
    ...findingsOfTwoPoints(ends[0] as PhPoint, ends[2] as PhPoint, {}, previousOf(e)).filter(
      (f) => !findings.some((g) => g.code === f.code),
    ),
  )
  // In the order of their buffers the signals must fall: a point out of line is a swapped or a wrong cup.
  const nominal = (p: PhPoint) => phBuffer(p.bufferCode).nominal
  const byBuffer = [...taken].sort((x, y) => nominal(x) - nominal(y))
  const falls = byBuffer.every((p, i) => i === 0 || p.millivolts < (byBuffer[i - 1] as PhPoint).millivolts)
  if (!falls && !findings.some((f) => f.severity === 'stop')) {
    findings.push({
      code: 'standards-swapped',
      severity: 'stop',
      sentence: 'The signals do not fall from the lowest buffer to the highest: two cups look swapped.',
      advice: 'Check the labels on the cups, rinse, and take the points again.',
      numbers: {},
    })
  }
  if (findings.some((f) => f.severity === 'stop')) {
    const [low, , high] = ends as [PhPoint, PhPoint, PhPoint]
    return calibrationResult(e, { found: unanswered(low, high, findings), findings, figures: [], uncertainty: 0 })
  }
  const fit = calibratePhLeastSquares(taken)
  findings.push(...findingsOfSegments(calibratePhBracketing(taken)))
  const characteristic = { zero: fit.zero.value, slopeEfficiency: fit.slopeEfficiency.value }
  const largest = Math.max(...fit.residuals.map(Math.abs))
  return calibrationResult(e, {
    found: {
      characteristic,
      uncertainty: { zero: fit.zero.uncertainty, slopeEfficiency: fit.slopeEfficiency.uncertainty },
    },
    findings,
    figures: [
      parameterFigure(e, 'slopeEfficiency', fit.slopeEfficiency),
      parameterFigure(e, 'zero', fit.zero),
      { label: 'Farthest from the line', value: say`${millivolts(largest, 1)}`, note: 'one line through all three' },
    ],
    uncertainty: uncertaintyAtProcess(e, characteristic, { zero: fit.zero, slopeEfficiency: fit.slopeEfficiency }),
    worn: worn(characteristic.slopeEfficiency, characteristic.zero),
    mayRecover: mayRecover(e, findings),
  })
}

export const PH_TWO_POINT: Procedure = {
  id: 'ph-two-point',
  name: 'Two points',
  summary: 'As found, clean, two buffers, slope and zero, verify.',
  needs: '3 cups',
  pours: { first: 3, second: 1 },
  roles: [FIRST, SECOND],
  version: 1,
  handsOnMinutes: 12,
  steps: (e) => [
    hold(e),
    ...float(e),
    ...(e.kind.inPlace?.(e) ?? []),
    foundProcess(e),
    foundStandard(e, ordered(e, ['first', 'second'])[0] as string),
    ...calibrationSteps(e, ['first', 'second']),
  ],
  judge: (e) => judgeTwo(e),
  observe: (e) => observeFrom(e, judgeTwo(e)),
  past: { points: 2, judge: judgeTwo },
}

export const PH_THREE_POINT: Procedure = {
  id: 'ph-three-point',
  name: 'Three points',
  summary: 'For water that swings across 7, and to find out whether a buffer is off.',
  needs: '4 cups',
  pours: { first: 3, second: 1, third: 1 },
  roles: [FIRST, SECOND, THIRD],
  version: 1,
  handsOnMinutes: 16,
  steps: (e) => [
    hold(e),
    ...float(e),
    ...(e.kind.inPlace?.(e) ?? []),
    foundProcess(e),
    foundStandard(e, ordered(e, ['first', 'second', 'third'])[0] as string),
    ...calibrationSteps(e, ['first', 'second', 'third']),
  ],
  judge: (e) => judgeThree(e),
  observe: (e) => observeFrom(e, judgeThree(e)),
  past: { points: 3, judge: judgeThree },
}

/** From a check to the calibration that the device takes: by numbers, or by its own key. */
const goingOn = (e: VisitState): Step[] =>
  e.setup.adjustsBy === 'key' ? selfSteps(e, ['first', 'second']) : calibrationSteps(e, ['first', 'second'])

const judgeGoneOn = (e: VisitState) => (e.setup.adjustsBy === 'key' ? judgeSelf(e, PH_TWO_POINT) : judgeTwo(e))

function observeGoneOn(e: VisitState, found: Assessment | null): Observation | null {
  if (!wentOn(e)) return observeFrom(e, found)
  if (e.setup.adjustsBy !== 'key') return observeFrom(e, judgeTwo(e))
  const observed = observeSelf(e, PH_TWO_POINT)
  return observed && { ...observed, asFound: found?.errorNow ?? observed.asFound }
}

export const PH_CHECK: Procedure = {
  id: 'ph-check',
  name: 'Check only',
  summary: 'One fresh buffer. Close enough: leave it alone. If not, go on to calibrate from there.',
  needs: '1 cup',
  pours: { first: 1, second: 0 },
  roles: [FIRST, SECOND],
  version: 1,
  handsOnMinutes: 4,
  steps: (e) => [
    hold(e),
    ...float(e),
    ...(e.kind.inPlace?.(e) ?? []),
    foundProcess(e),
    foundStandard(e, 'first'),
    verdict(['found-standard']),
    ...(wentOn(e) ? goingOn(e) : leaving(e, ['verdict'])),
  ],
  judge: (e, step) => (step === 'verdict' ? checkVerdict(e) : judgeGoneOn(e)),
  observe: (e) => observeGoneOn(e, checkVerdict(e)),
  past: { points: 1, judge: (e) => checkVerdict(e, 'point-1') },
}

/** Asks whether the electrode is still worth calibrating: two buffers on the uncleaned electrode. */
function judgeHealth(e: VisitState): Assessment | null {
  const found = pointReading(e, 'found-standard')
  const second = pointReading(e, 'health')
  if (!found || !second) return null
  const [one, other] = [phPoint(e, found), phPoint(e, second)]
  const keys = ['found-standard', 'health']
  const findings = [...findingsOfTwoPoints(one, other, {}, previousOf(e)), ...findingsOfReadings(e, keys)]
  if (findings.some((f) => f.severity === 'stop')) {
    return {
      ...calibrationResult(e, { found: unanswered(one, other, findings), findings, figures: [], uncertainty: 0 }),
      choices: ['leave-alone', 'adjust', 'replace'],
    }
  }
  const c = calibratePhTwoPoint(one, other)
  const error = knowsErrors(e)
    ? e.model.errorAt(
        { zero: c.zero, slopeEfficiency: c.slopeEfficiency },
        e.setup.activeCalibration,
        { value: e.setup.processValue, temperature: e.setup.processTemperature },
        e.setup.device,
      )
    : null
  const uncertainty = phUncertaintyAt(c, e.setup.processValue, e.setup.processTemperature)
  const dead = knowsNumbers(e) ? worn(c.slopeEfficiency, c.zero) : null
  const near = error !== null && Math.abs(error) + uncertainty <= e.setup.tolerance
  return {
    figures: tellableFigures(e, [
      parameterFigure(e, 'slopeEfficiency', { value: c.slopeEfficiency, uncertainty: c.slopeEfficiencyUncertainty }),
      parameterFigure(e, 'zero', { value: c.zero, uncertainty: c.zeroUncertainty }),
      ...(e.setup.linked
        ? [
            {
              label: 'Settled in',
              value: say`${quantity(settledAfter(second), 's', 0)}`,
              note: 'in the second buffer',
            },
          ]
        : []),
    ]),
    findings: tellableFindings(e, findings),
    proposal: dead
      ? { decision: 'adjust', reason: say`${dead} As it is, it is not worth calibrating: clean it first, then see.` }
      : near
        ? {
            decision: 'leave-alone',
            reason: 'It is sound and within its limit: a calibration would add more error than it takes away.',
          }
        : {
            decision: 'adjust',
            reason: 'It is worth calibrating: sound, and off at the process value. Go on with cleaning and two points.',
          },
    choices: ['leave-alone', 'adjust', 'replace'],
    found: null,
    asFoundError: error,
    errorNow: error,
    uncertainty,
    fouling: null,
  }
}

export const PH_HEALTH: Procedure = {
  id: 'ph-health',
  name: 'Is it worth calibrating?',
  summary: 'Two buffers as it is, uncleaned: slope, zero and pace say whether it is worth the work.',
  needs: '2 cups',
  pours: { first: 1, second: 1 },
  roles: [FIRST, SECOND],
  version: 1,
  handsOnMinutes: 7,
  steps: (e) => [
    hold(e),
    ...(e.kind.inPlace?.(e) ?? []),
    foundProcess(e),
    foundStandard(e, 'first'),
    {
      ...foundStandard(e, 'second'),
      key: 'health',
      short: `As found, ${e.setup.standards.second?.code.replace('pH', 'pH ') ?? 'second buffer'}`,
      usualSkips: [],
    },
    verdict(['found-standard', 'health'], 'Is it worth calibrating?'),
    ...(wentOn(e) ? goingOn(e) : leaving(e, ['verdict'])),
  ],
  judge: (e, step) => (step === 'verdict' ? judgeHealth(e) : judgeGoneOn(e)),
  observe: (e) => observeGoneOn(e, judgeHealth(e)),
}
