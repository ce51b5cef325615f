import type { CheckNow, RoundsRow } from '@frustum/contract'
import { alarmTypeOf, modelOf, say, timeSpan } from '@frustum/core'
import { type Alarm, lastingAlarms } from '../alarms/alarmStore.ts'
import type { Database } from '../database/open.ts'
import type { Installed } from '../sensors.ts'

/**
 * Sensors that their own readings speak against: to be checked before their date. Readings alone never say that one is
 * out; the proposal goes when its reason does.
 */
export async function checkNow(
  db: Database,
  installed: readonly Installed[],
  rows: readonly RoundsRow[],
  now: number,
): Promise<CheckNow[]> {
  const lasting = (await lastingAlarms(db)).filter(({ kind }) => alarmTypeOf(kind).callsForCheck)
  const proposed = new Map<string, CheckNow>()
  for (const alarm of lasting) {
    const of = installed.find((i) => i.position.id === alarm.positionId)
    const row = of && likelier(of, alarm, rows)
    if (!of || !row || row.openVisit || proposed.has(row.position)) continue
    const waits = row.figure.next.at - now
    const { unit, decimals } = modelOf(of.position.kind).shownScale(of.device.setting)
    const { sentence, isOfPair } = alarmTypeOf(alarm.kind)
    proposed.set(row.position, {
      position: row.position,
      of: of.position.code,
      beside: isOfPair ? alarm.subject : null,
      since: alarm.raisedAt.getTime(),
      sentence: sentence({ ...alarm, unit, decimals }),
      // One whose date is here is on top already.
      risk: waits > 0 ? say`To wait for its own date is to trust it for ${[timeSpan(waits)]} more` : null,
    })
  }
  return [...proposed.values()]
}

/** Of two that part the one that is likelier out by its own drift. */
function likelier(of: Installed, alarm: Alarm, rows: readonly RoundsRow[]): RoundsRow | undefined {
  const rowAt = (code: string | null) => rows.find((r) => r.position === code)
  const [own, other] = [rowAt(of.position.code), alarmTypeOf(alarm.kind).isOfPair ? rowAt(alarm.subject) : undefined]
  return own && other && other.figure.outside > own.figure.outside ? other : own
}
