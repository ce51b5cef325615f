import { Link } from 'react-router'
import { plural } from '../components/format.ts'
import { useAlarmsQuery } from '../store/api.ts'
import { useAlarmCalls } from './useAlarmCalls.ts'

const LOOK_EVERY_MS = 5000

/** How many alarms there are that nobody saw, in every room. */
export function AlarmBadge() {
  const { data } = useAlarmsQuery(undefined, { pollingInterval: LOOK_EVERY_MS, refetchOnFocus: true })
  useAlarmCalls(data)
  const alarms = data ?? []
  if (alarms.length === 0) return null
  const loud = alarms.filter((a) => a.acknowledged === null && a.shelved === null)
  const grave = loud.some((a) => a.severity === 'alarm' && a.returnedAt === null)
  return (
    <span role="status" data-alarms>
      <Link
        to="/alarms"
        className={`inline-flex min-h-11 items-center gap-2 px-1 font-bold whitespace-nowrap sm:px-3 ${
          grave
            ? 'border-2 border-error text-error'
            : loud.length > 0
              ? 'text-warning underline underline-offset-4'
              : 'soft'
        }`}
      >
        {loud.length > 0 ? plural(loud.length, 'alarm') : `${plural(alarms.length, 'alarm')}, acknowledged`}
      </Link>
    </span>
  )
}
