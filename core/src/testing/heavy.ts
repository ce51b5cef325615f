import { inject } from 'vitest'

declare module 'vitest' {
  interface ProvidedContext {
    /** Whether heavy checks run in full numbers. */
    soak: boolean
  }
}

/** How much of a heavy check to do: a seeded share within `npm test`, all of it within `npm run soak`. */
export const heavy = <T>(share: T, full: T): T => (inject('soak') ? full : share)
