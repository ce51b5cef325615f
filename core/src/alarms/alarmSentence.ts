import { difference, quantity, type Sentence, say, signedQuantity, timeSpan } from '../quantities/sentence.ts'
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

const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' })
/** "2026-10-12" as "12 Oct": a calendar day is the same in every time zone. */
const dayText = (day: string | null): string => (day === null ? '' : DAY.format(Date.parse(day)))

/** States what is wrong. With a sensor, the text follows its code; of the site, it is a whole sentence. */
export function alarmSentence({ kind, value, limit, unit, decimals, subject }: Raised): Sentence {
  const shown = (v: number | null): Sentence => (v === null ? '' : [quantity(v, unit, decimals)])
  const apart = (v: number | null): Sentence => (v === null ? '' : [difference(Math.abs(v), unit, decimals)])
  const span = (ms: number): Sentence => [timeSpan(ms)]
  switch (kind) {
    case 'high-high':
      return say`high-high: ${shown(value)}, limit ${shown(limit)}`
    case 'high':
      return say`high: ${shown(value)}, limit ${shown(limit)}`
    case 'low-low':
      return say`low-low: ${shown(value)}, limit ${shown(limit)}`
    case 'low':
      return say`low: ${shown(value)}, limit ${shown(limit)}`
    case 'impossible':
      return say`shows an implausible reading: ${shown(value)}`
    case 'unit':
      return say`shows ${shown(value)}, usually about ${shown(limit)}: a different unit, or a device fault`
    case 'change':
      return say`changes by more than ${apart(limit)} per hour, now ${shown(value)}`
    case 'blind':
      return 'sends no data'
    case 'frozen':
      return say`is frozen at ${shown(value)}, for much longer than usual`
    case 'apart':
      return say`and ${subject ?? ''} differ by ${apart(value)}; expected at most ${apart(limit)}`
    case 'noise':
      return say`is noisier than usual, now ${shown(value)}`
    case 'unusual':
      return value !== null && limit !== null && value < limit
        ? say`is unusually low: ${shown(value)}, usually at least ${shown(limit)} at this hour`
        : say`is unusually high: ${shown(value)}, usually at most ${shown(limit)} at this hour`
    case 'shifted':
      return say`has shifted by ${value === null ? '' : [signedQuantity(value, unit, decimals)]} since ${dayText(subject)}; expected at most ${apart(limit)}`
    case 'numbers-changed':
      return subject === null
        ? 'calibration changed in the device'
        : say`calibration changed in the device: now ${subject}`
    case 'hold-forgotten':
      return 'outputs have been on hold for over two hours, so nothing is being dosed'
    case 'no-room':
      return say`Disk nearly full: ${[quantity(value ?? 0, 'MB', 0)]} left`
    case 'not-told':
      return say`Messages to ${subject ?? ''} aren't being delivered`
    case 'not-watched':
      return say`Frustum was off for ${span((value ?? 0) * MINUTE_MS)}, so nothing was monitored`
    case 'clock-set':
      return (value ?? 0) < 0
        ? say`The server's clock was set back by ${span(-1000 * (value ?? 0))}`
        : say`The server's clock was set forward by ${span(1000 * (value ?? 0))}, or the server slept`
  }
}
