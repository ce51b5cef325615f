import { randomBytes } from 'node:crypto'
import type { CalendarDay, PlannedTripView } from '@frustum/contract'
import ical, { ICalAlarmType, ICalCalendarMethod } from 'ical-generator'
import { noteDone } from '../changes/changes.ts'
import type { Database } from '../database/open.ts'
import { sites } from '../database/schema.ts'
import { notFound } from '../problem.ts'
import { calendarIn } from '../zone.ts'
import { planOf } from './plan.ts'

const MINUTE = 60_000

/** The plan as iCalendar (RFC 5545), for whoever knows the site's token. @throws Problem 404 */
export async function calendarOf(db: Database, token: string, now: number): Promise<string> {
  const [site] = await db.select().from(sites)
  if (!site || site.calendarToken !== token) throw notFound('calendar')
  const plan = await planOf(db, now)
  const { dayOf } = calendarIn(site.timeZone, now)
  const calendar = ical({
    name: `Sensors, ${site.name}`,
    method: ICalCalendarMethod.PUBLISH,
    prodId: { company: 'Frustum', product: 'Plan' },
    ttl: 3600,
  })
  for (const trip of plan.trips) addTrip(calendar, trip, dayOf(trip.day))
  for (const c of plan.consumables) {
    calendar.createEvent({
      id: `consumable-${c.id}-${dayOf(c.due)}@frustum`,
      // Of an all-day event the generator writes the day that this has in UTC.
      start: new Date(`${dayOf(c.due)}T00:00:00Z`),
      allDay: true,
      summary: `${c.name}, ${c.place}`,
      description: `Every ${c.everyDays} days.`,
    })
  }
  return calendar.toString()
}

/** A new address for the calendar: who subscribed to the one before sees the plan no longer. */
export async function renewAddress(db: Database, operator: string, at: Date): Promise<void> {
  await db.transaction(async (tx) => {
    await tx.update(sites).set({ calendarToken: randomBytes(16).toString('hex') })
    await noteDone(tx, { subject: 'site', id: null }, { operator, at }, 'Calendar given a new address')
  })
}

function addTrip(calendar: ReturnType<typeof ical>, trip: PlannedTripView, day: CalendarDay): void {
  const { timeline } = trip
  const names = trip.visits.map((v) => v.position)
  const start = new Date(trip.arrival)
  const event = calendar.createEvent({
    id: `trip-${trip.place.replaceAll(' ', '-')}-${day}@frustum`,
    start,
    end: new Date(trip.arrival + Math.max(15, Math.ceil(timeline.length)) * MINUTE),
    summary: `${names.length === 1 ? names[0] : `${names.length} sensors`}, ${trip.place}`,
    location: trip.place,
    description: [
      ...trip.visits.map((v) => `${v.position} ${v.quantity}, ${v.spot}: ${v.procedure.toLowerCase()}`),
      '',
      ...trip.kit.map(
        (k) => `${k.pours} x ${k.label}${k.lot ? `, lot ${k.lot}` : ''}${k.warning ? ` (${k.warning})` : ''}`,
      ),
    ].join('\n'),
  })
  if (timeline.lead > 0) {
    event.createAlarm({
      type: ICalAlarmType.display,
      trigger: timeline.lead * 60,
      description: `Start now: ${timeline.entries
        .filter((e) => e.start < 0)
        .map((e) => e.what)
        .join(', ')}`,
    })
  }
}
