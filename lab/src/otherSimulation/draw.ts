import type { RandomStream } from '../../../core/src/statistics/random.ts'

/** Draws evenly in the logarithm. */
export const logBetween =
  (random: RandomStream) =>
  (low: number, high: number): number =>
    Math.exp(random.between(Math.log(low), Math.log(high)))

/**
 * Units a minute by which a dip of a shape creeps; 0 for one that does not.
 * @param fast between which it does where it creeps on or back; `slow` where it creeps slowly
 * @param towards 1 or -1: the direction of its settling
 */
export function creepOf(
  shape: string,
  { fast, slow, towards }: { fast: [number, number]; slow: [number, number]; towards: number },
  random: RandomStream,
): number {
  if (shape === 'creeping on') return random.between(...fast) * towards
  if (shape === 'creeping back') return -random.between(...fast) * towards
  if (shape === 'creeping slowly') return random.between(...slow) * (random.uniform() < 0.5 ? -1 : 1)
  return 0
}
