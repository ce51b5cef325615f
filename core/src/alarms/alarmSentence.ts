import { difference, quantity, type Sentence, say, timeSpan } from '../quantities/sentence.ts'
import type { AlarmKind } from './alarmKinds.ts'

const MINUTE_MS = 60_000

/** What is known of an alarm, in the unit that is shown. */
interface Raised {
  kind: AlarmKind
  value: number | null
  limit: number | null
  unit: string
  decimals: number
  /** What else it is of: the other of two sensors, a standard, who was to be told. */
  subject: string | null
}

/** What is wrong: of a position what stands behind its code, of the site a whole sentence. */
export function alarmSentence({ kind, value, limit, unit, decimals, subject }: Raised): Sentence {
  const shown = (v: number | null): Sentence => (v === null ? '' : [quantity(v, unit, decimals)])
  const apart = (v: number | null): Sentence => (v === null ? '' : [difference(Math.abs(v), unit, decimals)])
  const span = (ms: number): Sentence => [timeSpan(ms)]
  switch (kind) {
    case 'high-high':
      return say`far too high: ${shown(value)}, highest ${shown(limit)}`
    case 'high':
      return say`too high: ${shown(value)}, limit ${shown(limit)}`
    case 'low-low':
      return say`far too low: ${shown(value)}, lowest ${shown(limit)}`
    case 'low':
      return say`too low: ${shown(value)}, limit ${shown(limit)}`
    case 'impossible':
      return say`reads what cannot be: ${shown(value)}`
    case 'unit':
      return say`reads ${shown(value)} where it is usually about ${shown(limit)}: another unit, or a fault of the device`
    case 'change':
      return say`changes too fast: by more than ${apart(limit)} in an hour, now ${shown(value)}`
    case 'blind':
      return 'does not answer'
    case 'frozen':
      return say`hangs: it has read ${shown(value)} for far longer than it ever stands still`
    case 'apart':
      return say`and ${subject ?? ''} are ${apart(value)} apart, more than both can explain (${apart(limit)})`
    case 'noise':
      return say`is noisier than usual, now ${shown(value)}`
    case 'unusual':
      return say`is outside its ordinary day: ${shown(value)}, usually ${
        value !== null && limit !== null && value < limit ? 'from' : 'up to'
      } ${shown(limit)} at this hour`
    case 'numbers-changed':
      return subject === null
        ? 'calibration changed in the device'
        : say`calibration changed in the device: now ${subject}`
    case 'hold-forgotten':
      return 'has its outputs held for more than two hours: nothing doses there'
    case 'no-room':
      return say`The disk is nearly full: ${[quantity(value ?? 0, 'MB', 0)]} left`
    case 'not-told':
      return say`Messages do not reach ${subject ?? ''}`
    case 'not-watched':
      return say`Frustum was off for ${span((value ?? 0) * MINUTE_MS)}: nothing was watched`
    case 'clock-set':
      return say`The clock of the server was set ${(value ?? 0) < 0 ? 'back' : 'forward'} by ${span(
        Math.abs(value ?? 0) * 1000,
      )}, or it slept`
  }
}
