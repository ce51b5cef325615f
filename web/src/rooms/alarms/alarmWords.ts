import type { AlarmView } from '@frustum/contract'
import { asRead, duration, fixed } from '../../components/format.ts'

/** What is wrong, in a sentence. */
export function alarmWords({ kind, value, limit, unit, decimals, subject }: AlarmView): string {
  const read = asRead({ unit, decimals })
  const said = (v: number | null) => (v === null ? '' : `${fixed(read.of(v), read.decimals)} ${read.unit}`)
  switch (kind) {
    case 'high-high':
      return `far too high: ${said(value)}, highest ${said(limit)}`
    case 'high':
      return `too high: ${said(value)}, limit ${said(limit)}`
    case 'low-low':
      return `far too low: ${said(value)}, lowest ${said(limit)}`
    case 'low':
      return `too low: ${said(value)}, limit ${said(limit)}`
    case 'impossible':
      return `reads what cannot be: ${said(value)}`
    case 'unit':
      return `reads ${said(value)} where it is usually about ${said(limit)}: another unit, or a fault of the device`
    case 'change':
      return `changes too fast: by more than ${said(limit)} in an hour, now ${said(value)}`
    case 'blind':
      return 'does not answer'
    case 'frozen':
      return `hangs: it has read ${said(value)} for longer than it ever stands still`
    case 'apart':
      return `and ${subject} are ${said(value === null ? null : Math.abs(value))} apart, more than both can explain (${said(limit)})`
    case 'noise':
      return `is noisier than usual, now ${said(value)}`
    case 'unusual':
      return `is outside its ordinary day: ${said(value)}, usually ${
        value !== null && limit !== null && value < limit ? 'from' : 'to'
      } ${said(limit)} at this hour`
    case 'numbers-changed':
      return 'holds other calibration numbers than those of its last visit'
    case 'hold-forgotten':
      return 'has its outputs held for more than two hours: nothing doses there'
    case 'visit-half-done':
      return `has a visit of ${subject} that nobody went on with`
    case 'no-room':
      return `The disk is nearly full: ${value ?? 0} MB left`
    case 'not-told':
      return `Messages do not reach ${subject}`
    case 'not-watched':
      return `Frustum was off for ${duration(value ?? 0)}: nothing was watched`
    case 'clock-set':
      return `The clock of the server was set ${(value ?? 0) < 0 ? 'back' : 'forward'} by ${duration(Math.abs(value ?? 0) / 60)}, or it slept`
    case 'backup-old':
      return 'The last good backup is more than two days old'
    case 'standard-used-up':
      return `${subject} is used up: no good bottle is left`
  }
}

/** What it is of. */
export const alarmTitle = ({ position, place }: AlarmView): string => (position ? `${position}, ${place}` : 'The site')
