/**
 * What a reading between visits was of. Only good ones, and what people typed or brought in, say what the water did; a
 * probe in a buffer, a device whose outputs are held for one, or a number that whoever typed it took back, does not. Their
 * order is how they are stored: further ones come at the end.
 */
export const READING_STATES = [
  'good',
  'held',
  'in-visit',
  'blind',
  'out-of-range',
  'typed',
  'imported',
  'taken-back',
] as const
export type ReadingState = (typeof READING_STATES)[number]

/** Whether a reading of a state is of the water. */
export const isOfWater = (state: ReadingState): boolean => state === 'good' || state === 'typed' || state === 'imported'
