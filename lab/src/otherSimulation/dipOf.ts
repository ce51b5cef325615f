import type { Sample } from '../../../core/src/stability/opinion.ts'

/** Readings of a dip of a shape, and what they come to. */
export interface Dip<Shape extends string> {
  shape: Shape
  /** In the unit that is read. */
  samples: Sample[]
  /** At which it would end if it did not creep. */
  end: number
  /** Units a minute, for ever; 0 for one that comes to rest. */
  creep: number
}
