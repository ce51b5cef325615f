import type { TellingWishes } from '@frustum/contract'

export const SEVERITY_CHOICES = [
  ['alarm', 'only the gravest'],
  ['warning', 'all that want somebody today'],
  ['notice', 'every one'],
  ['', 'none'],
] as const

export const USUAL_WISHES: TellingWishes = {
  alarms: 'warning',
  from: 7,
  to: 22,
  afterMinutes: 0,
  repeatMinutes: 60,
  digestHour: 7,
  reminders: true,
}

const oClock = (hour: number) => `${String(hour).padStart(2, '0')}:00`

/** What somebody is told, in a sentence or two. */
export function wishesText({ alarms, from, to, afterMinutes, repeatMinutes, digestHour, reminders }: TellingWishes) {
  const hours = from === to ? '' : `, ${oClock(from)} to ${oClock(to)} (the gravest at any hour)`
  const of =
    alarms === null
      ? 'No alarms.'
      : `Alarms: ${SEVERITY_CHOICES.find(([value]) => value === alarms)?.[1]}${hours}${
          afterMinutes > 0 ? `, after ${afterMinutes} min that nobody saw them` : ''
        }${repeatMinutes > 0 ? `, again every ${repeatMinutes} min until seen` : ''}.`
  const digest = digestHour === null ? '' : ` What is due: each day at ${oClock(digestHour)}.`
  return `${of}${digest}${reminders ? ' When something has to begin.' : ''}`
}
