import type { Finding, FindingCode } from '../calibration/finding.ts'
import { type CapturedReading, isDisplayAlone } from '../measurement/capturedReading.ts'
import type { CalibrationParameters, MeasurementModel } from '../measurement/measurementModel.ts'
import { parametersSentence } from '../measurement/parametersSentence.ts'
import { completed, isWhole, tellable, unknownIn } from '../measurement/wholeCalibration.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { render } from '../quantities/render.ts'
import type { Figure, VisitState } from './procedure.ts'
import { type Setup, seesSignal } from './setup.ts'
import type { FieldSpec, FormValues } from './step.ts'

/**
 * The calibration that a device held before the visit. Nobody may know it: a display then still tells its own errors,
 * but not the sensor's slope or zero.
 */

/** The calibration in a device for a visit's setup, from what is known of it. */
export function heldFor(
  model: MeasurementModel,
  known: CalibrationParameters,
  { adjustsBy, linked, gives }: Pick<Setup, 'adjustsBy' | 'linked' | 'gives'>,
): Pick<Setup, 'activeCalibration' | 'unknownParameters'> {
  const activeCalibration = completed(model, known)
  // Without a calibration of its own it computes as if the sensor were ideal; a bare signal is computed here.
  const isOwn = adjustsBy !== 'nothing' && !(linked && gives === 'signal')
  const unknown = isOwn ? unknownIn(model, known) : []
  return { activeCalibration, ...(unknown.length > 0 ? { unknownParameters: unknown } : {}) }
}

/** Field of a number as the device's menu shows it. */
const menuKey = (key: string) => `held-${key}`

/**
 * What is asked before a visit when the device's calibration is unknown. Not knowing it is an answer like any other.
 * @param unknown its unknown parameters
 */
export function heldFields(model: MeasurementModel, unknown: readonly string[]): readonly FieldSpec[] {
  if (unknown.length === 0) return []
  const asked = model.parameters.filter((p) => unknown.includes(p.key))
  const ideal = parametersSentence({ parameters: asked }, model.ideal)
  return [
    {
      key: 'held',
      label: 'Calibration in the device now',
      kind: 'choice',
      choices: [
        { value: 'unknown', label: 'I don’t know' },
        { value: 'default', label: `Factory default: ${render(ideal)}` },
        { value: 'menu', label: 'As its menu shows' },
      ],
      usual: 'unknown',
      optional: true,
    },
    ...asked.map(
      ({ key, label, unit, low, high, decimals }): FieldSpec => ({
        key: menuKey(key),
        label: `${label} in the menu`,
        kind: 'number',
        unit,
        low,
        high,
        decimals,
        when: { key: 'held', is: ['menu'] },
      }),
    ),
  ]
}

/** The calibration that was stated before a visit; empty when nobody knew it. */
export function statedHeld(model: MeasurementModel, opening: FormValues): CalibrationParameters {
  if (opening.held === 'default') return model.ideal
  if (opening.held !== 'menu') return {}
  return Object.fromEntries(
    model.parameters.flatMap(({ key, scale }) => {
      const typed = opening[menuKey(key)]
      return typeof typed === 'number' ? [[key, typed / scale]] : []
    }),
  )
}

/** Whether the visit read finished values alone, so that signals are worked out through the device's calibration. */
function isBehindDisplay({ readings, setup }: VisitState): boolean {
  const read = Object.values(readings)
  return (
    read.some((r) => isDisplayAlone(r.source)) || (!seesSignal(setup) && !read.some((r) => r.source !== 'not-noted'))
  )
}

const unknownOf = ({ setup }: VisitState) => setup.unknownParameters ?? []

/** Whether a reading tells its signal: not behind a display whose device's calibration is unknown. */
export const tellsSignal = (
  { unknownParameters }: Pick<Setup, 'unknownParameters'>,
  { source = 'not-noted' }: Partial<Pick<CapturedReading, 'source'>>,
): boolean => unknownParameters === undefined || !isDisplayAlone(source)

/** What the visit tells of a sensor: without what rests on a part of the device's calibration that nobody knows. */
export const tellableOf = (e: VisitState, c: CalibrationParameters): CalibrationParameters =>
  isBehindDisplay(e) ? tellable(c, unknownOf(e)) : c

/**
 * A sensor as worked out behind a display whose device held an unknown calibration, and what that was taken for. Both
 * together tell the errors of the display; neither is the sensor's own.
 */
export interface RelativeCalibration {
  found: CalibrationParameters
  held: CalibrationParameters
}

/** What was worked out of a sensor where not all of it can be told; null where it can. */
export const relativeOf = (
  { model, setup }: VisitState,
  found: CalibrationParameters,
  told: CalibrationParameters,
): RelativeCalibration | null =>
  isWhole(model, found) && !isWhole(model, told) ? { found, held: setup.activeCalibration } : null

/** Whether errors of the display are known: not where only signals were read of a device whose calibration is unknown. */
export const knowsErrors = (e: VisitState): boolean => unknownOf(e).length === 0 || isBehindDisplay(e)

/** Whether numbers for the device can be worked out. */
export const knowsNumbers = (e: VisitState): boolean => unknownOf(e).length === 0 || !isBehindDisplay(e)

/** Findings about the sensor's own parameters. */
const OF_PARAMETERS: readonly FindingCode[] = [
  'slope-low',
  'slope-ageing',
  'slope-high',
  'zero-watch',
  'zero-beyond',
  'factor-beyond',
  'gap-outside',
  'change-larger-than-drift',
]

/** Findings without those that rest on an unknown calibration; a note says so. */
export function tellableFindings(e: VisitState, findings: readonly Finding[]): readonly Finding[] {
  if (knowsNumbers(e)) return findings
  const names = e.model.parameters.filter((p) => unknownOf(e).includes(p.key)).map((p) => p.label.toLowerCase())
  return [
    ...findings.filter((f) => !OF_PARAMETERS.includes(f.code)),
    {
      code: 'calibration-unknown',
      severity: 'note',
      sentence: `The device’s ${names.join(' and ')} ${names.length > 1 ? 'are' : 'is'} unknown, so the sensor’s own can’t be worked out from the display.`,
      advice:
        e.setup.adjustsBy === 'numbers'
          ? 'To calculate new values, start again and enter those in the device’s calibration menu.'
          : 'Errors on the display are still measured.',
      numbers: {},
    },
  ]
}

/** Figures without those of parameters that cannot be told. */
export function tellableFigures(e: VisitState, figures: readonly Figure[]): readonly Figure[] {
  const all = Object.fromEntries(e.model.parameters.map((p) => [p.key, 0]))
  const told = tellableOf(e, all)
  const hidden = e.model.parameters.filter((p) => told[p.key] === undefined).map((p) => p.label)
  return figures.filter((f) => !hidden.includes(f.label))
}

/** Readings before anything was changed on the device. */
const isBefore = (step: string, { adjustsBy }: Setup) =>
  /^(found|moment)/.test(step) || (adjustsBy === 'numbers' && step.startsWith('point-'))

/**
 * The setup with the calibration that the device's own display shows it to hold, where signal and display were read
 * side by side: what it showed counts, not what it is believed to hold.
 */
export function withHeldAsShown(
  model: MeasurementModel,
  setup: Setup,
  counting: Readonly<Record<string, readonly CapturedReading[]>>,
): Setup {
  const pairs = Object.entries(counting)
    .filter(([step]) => isBefore(step, setup))
    .flatMap(([, readings]) => readings)
    .filter(
      (r) => r.shown !== null && (r.source === 'signal-typed' || (setup.unknownParameters && r.source === 'line')),
    )
  const held = pairs.length > 0 ? nullIfOutOfRange(() => heldByPairs(model, setup, pairs)) : null
  if (!held) return setup
  const { unknownParameters: _, ...known } = setup
  return { ...known, activeCalibration: held }
}

/** Steps of the search; the models are linear in their parameters, or nearly. */
const STEPS = 12

/** The parameters with which the display follows from the signal: by least squares, with one pair by the zero alone. */
function heldByPairs(
  model: MeasurementModel,
  { device, activeCalibration }: Setup,
  pairs: readonly CapturedReading[],
): CalibrationParameters | null {
  const signals = pairs.map((r) => r.signal)
  const apart = Math.max(...signals) - Math.min(...signals) > 0.1 * Math.max(1, ...signals.map(Math.abs))
  const added = ['zero', 'offset'].filter((key) => activeCalibration[key] !== undefined)
  const gains = model.parameters.filter((p) => !p.condition && !p.secondLevel && !added.includes(p.key))
  const free = [...added, ...(apart || added.length === 0 ? gains.slice(0, 1).map((p) => p.key) : [])]
  let held = activeCalibration
  for (let step = 0; step < STEPS; step++) {
    const missing = (c: CalibrationParameters) =>
      pairs.map((r) => (r.shown as number) - model.toShown(r.signal, r.temperature, c, device))
    const residuals = missing(held)
    const slopes = free.map((key) => {
      const width = 1e-4 * Math.max(1, Math.abs(held[key] ?? 0))
      const moved = missing({ ...held, [key]: (held[key] ?? 0) + width })
      return moved.map((m, i) => ((residuals[i] as number) - m) / width)
    })
    const change = leastSquares(slopes, residuals)
    if (!change?.every(Number.isFinite)) return null
    held = { ...held, ...Object.fromEntries(free.map((key, i) => [key, (held[key] ?? 0) + (change[i] as number)])) }
  }
  return held
}

/** Of one column or two: the coefficients by which they come nearest to `wanted`; null where they tell nothing apart. */
function leastSquares([a = [], b]: readonly number[][], wanted: readonly number[]): number[] | null {
  const dot = (x: readonly number[], y: readonly number[]) => x.reduce((sum, v, i) => sum + v * (y[i] as number), 0)
  if (!b) return dot(a, a) > 0 ? [dot(a, wanted) / dot(a, a)] : null
  const determinant = dot(a, a) * dot(b, b) - dot(a, b) ** 2
  if (!(determinant > 0)) return null
  return [
    (dot(b, b) * dot(a, wanted) - dot(a, b) * dot(b, wanted)) / determinant,
    (dot(a, a) * dot(b, wanted) - dot(a, b) * dot(a, wanted)) / determinant,
  ]
}
