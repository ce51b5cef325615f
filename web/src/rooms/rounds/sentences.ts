import type { RoundsRow } from '@frustum/contract'
import { day, daysUntil, percent, plural, text } from '../../components/format.ts'

/** Why a sensor stands where it stands, in one or two short sentences. */
export function whySentence(row: RoundsRow, timeZone: string, now: number): string {
  const { next } = row.figure
  switch (row.driftState) {
    case 'out':
      return `Out of tolerance since about ${day(row.outSince ?? now, timeZone, now)} (${percent(row.figure.outside)} sure). ${text(next.reason)}`
    case 'overdue':
      return `Now (was due ${day(next.at, timeZone, now)}). ${text(next.reason)}`
    case 'due':
      return `${dueWords(next.at, timeZone, now)} ${text(next.reason)}`
    default:
      return `${leadWords(row, timeZone, now)}Next check ${day(next.at, timeZone, now)}. ${text(next.reason)}`
  }
}

/** What comes before the date is said before it. */
function leadWords({ lead }: RoundsRow, timeZone: string, now: number): string {
  switch (lead?.kind) {
    case 'out':
      return `Likely out of tolerance from ${day(lead.at, timeZone, now)}. `
    case 'end':
      return `Its ${lead.name} reaches its limit about ${day(lead.at, timeZone, now)}. `
    case 'cause':
      return `Likely: ${lead.name} (${percent(lead.probability)} sure). `
    default:
      return ''
  }
}

function dueWords(at: number, timeZone: string, now: number): string {
  const days = daysUntil(at, now)
  if (days === 0) return 'Due today.'
  return days < 0 ? `Now (was due ${day(at, timeZone, now)}).` : `Due in ${plural(days, 'day')}.`
}

/** What the headline counts: what is out, overdue, due within three days, or half done. */
export function headline(rows: readonly RoundsRow[]): string {
  const count = rows.filter((r) => needsHands(r)).length
  const words = ['Nothing', 'One', 'Two', 'Three', 'Four', 'Five', 'Six', 'Seven', 'Eight']
  return `${words[count] ?? count} to do within three days`
}

export const needsHands = (row: RoundsRow) =>
  ['out', 'overdue', 'due'].includes(row.driftState) || (row.openVisit !== null && !row.openVisit.pending)

/** Which of two sensors that disagree is off, as far as their forecasts tell. */
export const whichIsOff = (off: readonly string[]): string =>
  off.length === 0
    ? 'One of them is off; their drift doesn’t show which.'
    : off.length === 1
      ? `${off[0]} is likely out of tolerance.`
      : 'Both are likely out of tolerance.'
