import { OutOfRange, requireWithin } from '../quantities/outOfRange.ts'
import { bracketedRoot } from '../statistics/bracketedRoot.ts'

export interface Addition {
  /** Volume of the sample, mL. */
  sampleVolume: number
  /** Volume of standard added, mL. */
  addedVolume: number
  /** Concentration of that standard, in the unit wanted. */
  standard: number
}

function checkAddition({ sampleVolume, addedVolume, standard }: Addition): void {
  requireWithin('Sample volume', sampleVolume, 0.1, 1e5, 'mL')
  requireWithin('Added volume', addedVolume, 1e-3, sampleVolume, 'mL')
  requireWithin('Concentration of the standard', standard, 1e-9, 1e6)
}

/**
 * Single known addition: concentration of the sample before the addition,
 * c = cs Vs / ((V + Vs) 10^(dE/S) - V)  (IUPAC, Pure Appl. Chem. 66 (1994) 2527, methods of addition).
 * @param change signal after minus before, mV
 * @param slope of the electrode, mV per decade, negative for anions
 * @returns in the unit of the standard
 * @throws OutOfRange, also when the signal moved the wrong way
 * @example singleAddition({ sampleVolume: 100, addedVolume: 1, standard: 1000 }, -17.2, -57.2) // 9.8187
 */
export function singleAddition(addition: Addition, change: number, slope: number): number {
  checkAddition(addition)
  const { sampleVolume: v, addedVolume: vs, standard } = addition
  requireWithin('Size of the slope', Math.abs(slope), 5, 80, 'mV per decade')
  const decades = requireWithin('Change in decades (signal change over slope)', change / slope, 1e-4, 6)
  const below = (v + vs) * 10 ** decades - v
  return (standard * vs) / below
}

/**
 * Double known addition: concentration and slope from two like additions one after the other, the slope not being known.
 * @param first change of the signal at the first addition, mV; `second` at the next, as much again
 * @throws OutOfRange when the two changes fit no concentration
 * @example doubleAddition({ sampleVolume: 100, addedVolume: 1, standard: 1000 }, -17, -10) // { concentration: 10.523, slope: -59.485 }
 */
export function doubleAddition(
  addition: Addition,
  first: number,
  second: number,
): { concentration: number; slope: number } {
  checkAddition(addition)
  const { sampleVolume: v, addedVolume: vs, standard } = addition
  requireWithin('First change', Math.abs(first), 0.01, 500, 'mV')
  const wanted = (first + second) / first
  const concentrationAfter = (c: number, n: number) => (c * v + n * standard * vs) / (v + n * vs)
  const decades = (c: number, n: number) => Math.log10(concentrationAfter(c, n) / c)
  const ratio = (logC: number) => decades(10 ** logC, 2) / decades(10 ** logC, 1)
  // The ratio of the two answers rises from 1 (hardly anything in the sample) towards 2 (the standard's own strength).
  const low = Math.log10(standard) - 9
  const high = Math.log10(standard) - 1e-4
  if (!(wanted > ratio(low) && wanted < ratio(high))) {
    throw new OutOfRange({
      quantity: 'Second change over first change',
      value: wanted - 1,
      low: ratio(low) - 1,
      high: ratio(high) - 1,
      unit: '',
    })
  }
  const concentration = 10 ** bracketedRoot((x) => ratio(x) - wanted, low, high, 1e-12)
  return { concentration, slope: first / decades(concentration, 1) }
}
