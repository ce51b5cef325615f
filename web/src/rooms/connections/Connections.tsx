import { Link } from 'react-router'
import { plural } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { useConnectionsQuery } from '../../store/api.ts'
import { ConnectionMark } from './ConnectionMark.tsx'

const POLL_MS = 3000

/** All connections of the site, with their state. */
export function Connections() {
  const { data, error, refetch } = useConnectionsQuery(undefined, {
    pollingInterval: POLL_MS,
    refetchOnMountOrArgChange: true,
  })
  if (!data) return <Fetching what="the connections" error={error} onRetry={refetch} />
  if (data.length === 0) {
    return (
      <p className="max-w-prose py-6 text-lg text-pretty">
        No connections yet. To connect a device, open one of its sensors and choose Connection.
      </p>
    )
  }
  return (
    <ul>
      {data.map((c) => (
        <li
          key={c.id}
          className="grid items-center gap-x-4 border-b border-base-300 py-1 sm:grid-cols-[16rem_1fr_10rem_10rem]"
        >
          <Link to={`/rig/connection/${c.id}`} className="min-h-11 content-center font-bold hover:underline">
            {c.name}
          </Link>
          <span className="text-sm">
            {c.reached}
            <span className="block soft">
              {c.devices
                .flatMap((d) => d.sensors.map((s) => s.code))
                .slice(0, 8)
                .join(', ') || 'no sensors'}
              {c.devices.flatMap((d) => d.sensors).length > 8 &&
                ` and ${c.devices.flatMap((d) => d.sensors).length - 8} more`}
            </span>
          </span>
          <ConnectionMark state={c.state} polled={c.polled} />
          <span className="text-sm soft">
            {c.answerMs === null ? '' : `in ${Math.max(1, Math.round(c.answerMs))} ms`}
            {c.failuresAnHour > 0 && <span className="block">{plural(c.failuresAnHour, 'failure')} an hour</span>}
          </span>
        </li>
      ))}
    </ul>
  )
}
