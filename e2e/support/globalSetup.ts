import { seedOnce } from './station.ts'

/** The whole station is seeded once for all journeys. */
export default seedOnce
