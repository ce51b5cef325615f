import { Link } from 'react-router'
import { duration } from '../components/format.ts'
import { useWaitsQuery } from '../store/api.ts'
import { useNow } from '../store/clock.ts'

/** What floats, dries and soaks just now: visible in every room, each the way back to its sensor. */
export function WaitStrip() {
  const { data: waits } = useWaitsQuery(undefined, { pollingInterval: 15_000 })
  const now = useNow(1000)
  if (!waits || waits.length === 0) return null
  return (
    <ul
      aria-label="Running"
      className="no-print flex gap-2 overflow-x-auto border-b border-base-300 px-4 py-1.5 sm:px-6"
    >
      {waits.map((wait) => {
        const left = (wait.until - now) / 60_000
        return (
          <li key={wait.visit} className="shrink-0">
            <Link to={`/bench/${wait.visit}`} className={`wait-plate ${left <= 0 ? 'wait-over' : ''}`}>
              <span className="font-bold">{wait.what}</span> {wait.position}{' '}
              <span className="font-mono">{left <= 0 ? 'ready' : `${duration(left)} left`}</span>
            </Link>
          </li>
        )
      })}
    </ul>
  )
}
