import type { RoundsRow } from '@frustum/contract'
import { day, daysUntil, plural } from '../../parts/format.ts'

/** Why a sensor stands where it stands, in one or two short sentences. */
export function whySentence(row: RoundsRow, timeZone: string, now: number): string {
  const { policy, next } = row.figure
  const outside = Math.round(100 * row.figure.outside)
  const limit = `${policy.tolerance.toFixed(policy.decimals ?? 2)} ${policy.unit ?? 'pH'}`
  switch (row.driftState) {
    case 'out':
      return `Past its limit of ${limit} since about ${day(row.outSince ?? now, timeZone, now)}, ${outside} % sure. ${next.reason}`
    case 'overdue':
      return `Its date was ${day(next.at, timeZone, now)}. ${next.reason}`
    case 'due':
      return `${dueWords(next.at, timeZone, now)} ${next.reason}`
    default:
      return `Next check ${day(next.at, timeZone, now)}. ${next.reason}`
  }
}

function dueWords(at: number, timeZone: string, now: number): string {
  const days = daysUntil(at, now)
  if (days === 0) return 'Due today.'
  return days < 0 ? `Due since ${day(at, timeZone, now)}.` : `Due in ${plural(days, 'day')}.`
}

/** What the headline says of the day's work. */
export function headline(rows: readonly RoundsRow[]): string {
  const count = rows.filter((r) => needsHands(r)).length
  const words = [
    'Nothing needs',
    'One needs',
    'Two need',
    'Three need',
    'Four need',
    'Five need',
    'Six need',
    'Seven need',
    'Eight need',
  ]
  return `${words[count] ?? `${count} need`} your hands today`
}

export const needsHands = (row: RoundsRow) =>
  ['out', 'overdue', 'due'].includes(row.driftState) || (row.openVisit !== null && !row.openVisit.pending)
