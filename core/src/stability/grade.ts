import type { StabilityState } from './opinion.ts'

/** What a reading is waited for: that its end is known, or also that it comes to rest. */
export type SettlingGrade = 'known' | 'rest'

/**
 * Whether a reading in this state is what was waited for. What creeps slowly is taken under both: it is known to its
 * stated half-width, and more waiting makes it no better.
 * @example isTaken('rest', 'known') // false
 */
export const isTaken = (grade: SettlingGrade, state: StabilityState): boolean =>
  state === 'stable' || state === 'creeping' || (state === 'known' && grade === 'known')
