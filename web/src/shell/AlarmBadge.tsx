import type { AlarmView } from '@frustum/contract'
import { Link } from 'react-router'
import { plural } from '../components/format.ts'
import { useAlarmsQuery } from '../store/api.ts'
import { useAlarmCalls } from './useAlarmCalls.ts'

const LOOK_EVERY_MS = 5000

/** The active alarms, in every room; once there are none, those that still have to be acknowledged. */
export function AlarmBadge() {
  const { data } = useAlarmsQuery(undefined, { pollingInterval: LOOK_EVERY_MS, refetchOnFocus: true })
  useAlarmCalls(data)
  const alarms = data ?? []
  if (alarms.length === 0) return null
  const active = alarms.filter((a) => a.returnedAt === null && a.shelved === null)
  const isUnacknowledged = alarms.some((a) => a.acknowledged === null && a.shelved === null)
  const isGrave = active.some((a) => a.severity === 'alarm' && a.acknowledged === null)
  return (
    <span role="status" data-alarms>
      <Link
        to="/alarms"
        className={`inline-flex min-h-11 items-center gap-2 px-1 font-bold whitespace-nowrap sm:px-3 ${
          isGrave
            ? 'border-2 border-error text-error'
            : isUnacknowledged
              ? 'text-warning underline underline-offset-4'
              : 'soft'
        }`}
      >
        {badgeText(alarms, active)}
      </Link>
    </span>
  )
}

function badgeText(alarms: readonly AlarmView[], active: readonly AlarmView[]): string {
  if (active.length > 0)
    return `${plural(active.length, 'alarm')}${active.every((a) => a.acknowledged) ? ', acknowledged' : ''}`
  const returned = alarms.filter((a) => a.returnedAt !== null)
  return returned.length > 0
    ? `${plural(returned.length, 'alarm')} to acknowledge`
    : `${plural(alarms.length, 'alarm')} shelved`
}
