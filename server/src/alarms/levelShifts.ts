import { type CalendarDay, dayAt } from '@frustum/contract'
import { DAY_MS, dayLevels, LEVEL_DAYS, LEVEL_SHIFT, levelShift } from '@frustum/core'
import { max } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { visits } from '../database/schema.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { rollUpsBetween } from '../readings/readingStore.ts'
import { type Installed, installedSensors } from '../sensors.ts'
import { shownError } from '../shown.ts'
import { hourIn, siteCalendar } from '../zone.ts'
import { type Alarm, type AlarmOf, endAlarm, lastingAlarms, setAlarms } from './alarmStore.ts'
import { learnedThrough } from './learned.ts'

/** A shift took days, so it never wakes anyone: it is raised within these hours of the site. */
const RAISED_FROM_HOUR = 8
const RAISED_TO_HOUR = 20
/** The newest day with readings must not be older, days: a level of long ago says nothing of now. */
const RECENT_DAYS = 3

/** Raises an alarm when the level of a sensor's days has moved farther than its water does, judged once a day. */
export class LevelShifts {
  private judgedOn: CalendarDay | null = null

  constructor(private readonly context: Pick<RouteContext, 'db' | 'clock'>) {}

  /** Ends what a visit has settled, and judges all sensors if that is due. */
  async look(): Promise<void> {
    const { db, clock } = this.context
    const now = clock.now()
    const lastVisits = await lastVisitOf(db)
    const installed = await installedSensors(db)
    const open = new Map<number, Alarm>()
    for (const alarm of await lastingAlarms(db)) {
      if (alarm.kind !== LEVEL_SHIFT.kind || alarm.positionId === null) continue
      const of = installed.find((i) => i.position.id === alarm.positionId)
      const visit = of && lastVisits.get(of.installation.id)
      if (visit && visit > alarm.raisedAt.getTime()) await endAlarm(db, alarm, now)
      else open.set(alarm.positionId, alarm)
    }
    const { timeZone, today } = await siteCalendar(db, now)
    const hour = hourIn(timeZone)(now)
    if (this.judgedOn === today || hour < RAISED_FROM_HOUR || hour >= RAISED_TO_HOUR) return
    const changed = new Map((await learnedThrough(db)).map((l) => [l.installationId, l.since?.getTime() ?? 0]))
    const wrong: (AlarmOf & { at: number; value: number; limit: number })[] = []
    for (const one of installed) {
      const { id, installedAt } = one.installation
      const since = Math.max(installedAt.getTime(), lastVisits.get(id) ?? 0, changed.get(id) ?? 0)
      const raised = open.get(one.position.id)
      const found = await shiftOf(db, one, { since, now, isRaised: raised !== undefined })
      // Without recent days nothing is known of now: what is raised stays.
      if (found === 'unknown' && raised)
        wrong.push({ ...raised, at: now, value: raised.value ?? 0, limit: raised.limit ?? 0 })
      if (!found || found === 'unknown') continue
      // Its text keeps the day that was first found, so that it stays one alarm.
      const subject = raised?.subject ?? dayAt(found.since, timeZone)
      wrong.push({
        kind: LEVEL_SHIFT.kind,
        positionId: one.position.id,
        subject,
        at: now,
        value: found.by,
        limit: found.limit,
      })
    }
    await setAlarms(db, [LEVEL_SHIFT.kind], wrong, now)
    this.judgedOn = today
  }
}

async function shiftOf(
  db: Database,
  one: Installed,
  { since, now, isRaised }: { since: number; now: number; isRaised: boolean },
) {
  const midnight = Math.floor(now / DAY_MS) * DAY_MS
  const span = { from: midnight - LEVEL_DAYS * DAY_MS, to: midnight - 1 }
  const levels = dayLevels(await rollUpsBetween(db, [one.installation.id], { ...span, hours: 1 }))
  if ((levels.at(-1)?.day ?? 0) < midnight - RECENT_DAYS * DAY_MS) return 'unknown'
  const tolerance = shownError(one, one.position.tolerance)
  return levelShift(levels, { since, tolerance, isRaised })
}

/** When the last visit of each sensor was closed, epoch ms. */
export async function lastVisitOf(db: Database): Promise<Map<number, number>> {
  const rows = await db
    .select({ id: visits.installationId, at: max(visits.closedAt) })
    .from(visits)
    .groupBy(visits.installationId)
  return new Map(rows.map(({ id, at }) => [id, at?.getTime() ?? 0]))
}
