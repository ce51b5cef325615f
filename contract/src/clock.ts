/** Where the program takes the time from: whatever stamps, waits or ages asks the one clock that it was given. */
export interface Clock {
  /** Epoch ms. */
  now(): number
  /** Seconds of this clock in one second of the system's. */
  readonly rate: number
}

export const systemClock: Clock = { now: () => Date.now(), rate: 1 }

/** A clock that agreed with the system's at `start` (epoch ms) and runs `rate` times as fast since. */
export function acceleratedClock(rate: number, start: number): Clock {
  return { now: () => Math.round(start + rate * (Date.now() - start)), rate }
}
