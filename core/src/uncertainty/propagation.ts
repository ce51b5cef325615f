import { OutOfRange, requireWithin } from '../quantities/outOfRange.ts'
import { Z95 } from '../statistics/normalDistribution.ts'
import type { RandomStream } from '../statistics/random.ts'

/** One input of a measurement: what is put into the model, and how far it may be off. */
export interface InputQuantity {
  name: string
  estimate: number
  /** Standard uncertainty (one standard deviation), in the input's own unit. */
  sd: number
  /** What is believed about it within that; `normal` unless said. */
  shape?: 'normal' | 'rectangular'
}

/** A measured value: the estimate and the half-width of its 95 % interval. */
export interface Measured {
  value: number
  uncertainty: number
}

export interface Contribution {
  name: string
  /** Change of the result per unit of the input. */
  sensitivity: number
  /** Its share of the standard uncertainty, in the unit of the result. */
  sd: number
}

export interface Budget extends Measured {
  contributions: Contribution[]
}

/** Results of a model with several outputs, with what they have in common. */
export interface JointBudget {
  outputs: Budget[]
  /** covariance[i][j] between outputs i and j. */
  covariance: number[][]
}

/** The input of a reading whose 95 % half-width is known. */
export function input(name: string, estimate: number, halfWidth95: number): InputQuantity {
  return { name, estimate, sd: halfWidth95 / Z95 }
}

/** The input of a display whose last digit counts `step`: rectangular over one step (JCGM 100:2008, F.2.2.1). */
export function resolutionInput(name: string, step: number): InputQuantity {
  return { name, estimate: 0, sd: step / Math.sqrt(12), shape: 'rectangular' }
}

/**
 * Law of propagation of uncertainty for a model with several outputs (JCGM 100:2008, 5.1; JCGM 102:2011, 6.2).
 * Sensitivities are taken by central differences of one standard uncertainty each way, as 5.1.3 note 2 has it.
 * At the edge of a table, where only one way is open, the difference is taken that way.
 * @param model gives the outputs for the inputs, in their order; must accept each input one sd one way at least
 * @throws RangeError for no inputs; OutOfRange for an sd that is negative or no number; whatever the model throws
 */
export function propagateJointly(
  model: (values: readonly number[]) => readonly number[],
  inputs: readonly InputQuantity[],
): JointBudget {
  if (inputs.length === 0) throw new RangeError('A budget needs at least one input.')
  for (const { name, sd } of inputs) requireWithin(`Uncertainty of ${name}`, sd, 0, 1e12)
  const at = inputs.map((i) => i.estimate)
  const centre = model(at)
  const sensitivities = inputs.map(({ sd }, i) => {
    if (sd === 0) return centre.map(() => 0)
    const up = within(() => model(at.map((x, j) => (j === i ? x + sd : x))))
    const down = within(() => model(at.map((x, j) => (j === i ? x - sd : x))))
    if (!up && !down) throw new RangeError(`The result cannot be had for ${inputs[i]?.name} as uncertain as it is.`)
    const width = up && down ? 2 * sd : sd
    return centre.map((value, k) => ((up?.[k] ?? value) - (down?.[k] ?? value)) / width)
  })
  const part = (i: number, k: number) => (sensitivities[i] as number[])[k] as number
  const covariance = centre.map((_, k) =>
    centre.map((__, l) => inputs.reduce((sum, { sd }, i) => sum + part(i, k) * part(i, l) * sd * sd, 0)),
  )
  return {
    outputs: centre.map((value, k) => ({
      value,
      uncertainty: Z95 * Math.sqrt((covariance[k] as number[])[k] as number),
      contributions: inputs.map(({ name, sd }, i) => ({
        name,
        sensitivity: part(i, k),
        sd: Math.abs(part(i, k)) * sd,
      })),
    })),
    covariance,
  }
}

/** What the model gives, or null where it has no answer. */
function within<T>(model: () => T): T | null {
  try {
    return model()
  } catch (error) {
    if (error instanceof OutOfRange) return null
    throw error
  }
}

/** propagateJointly for a model with one output. */
export function propagate(model: (values: readonly number[]) => number, inputs: readonly InputQuantity[]): Budget {
  return propagateJointly((values) => [model(values)], inputs).outputs[0] as Budget
}

/** Draws of one output, and what they say. */
export interface MonteCarloResult {
  mean: number
  sd: number
  /** Probabilistically symmetric 95 % interval. */
  low: number
  high: number
  /** Draws for which the model had no answer. */
  refused: number
}

/**
 * Propagation of distributions by the Monte Carlo method (JCGM 101:2008, GUM Supplement 1).
 * @param runs number of draws, 100 to 1e7
 * @throws OutOfRange for the number of runs; RangeError when more than 5 % of the draws have no answer
 */
export function monteCarlo(
  model: (values: readonly number[]) => number,
  inputs: readonly InputQuantity[],
  runs: number,
  random: RandomStream,
): MonteCarloResult {
  requireWithin('Runs', runs, 100, 1e7)
  const draws = new Float64Array(runs)
  const values = inputs.map((i) => i.estimate)
  let kept = 0
  for (let run = 0; run < runs; run++) {
    for (let i = 0; i < inputs.length; i++) {
      const { estimate, sd, shape } = inputs[i] as InputQuantity
      values[i] =
        estimate + sd * (shape === 'rectangular' ? Math.sqrt(3) * (2 * random.uniform() - 1) : random.normal())
    }
    try {
      draws[kept] = model(values)
      kept++
    } catch (error) {
      if (!(error instanceof RangeError || error instanceof OutOfRange)) throw error
    }
  }
  if (kept < 0.95 * runs) throw new RangeError('The model has no answer for much of what the inputs may be.')
  const sorted = draws.subarray(0, kept).sort()
  const mean = sorted.reduce((a, b) => a + b, 0) / kept
  const variance = sorted.reduce((a, b) => a + (b - mean) ** 2, 0) / (kept - 1)
  const at = (p: number) => sorted[Math.min(kept - 1, Math.floor(p * kept))] as number
  return { mean, sd: Math.sqrt(variance), low: at(0.025), high: at(0.975), refused: runs - kept }
}
