import { Check } from 'lucide-react'
import { Link, useNavigate, useParams } from 'react-router'
import { For } from '../../components/For.tsx'
import { clock, listed } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { useEndTripMutation, useRoundsQuery, useSiteQuery, useTripQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { useAppSelector } from '../../store/store.ts'

/** Where one stands on a trip: go to any sensor, leave it, come back. */
export function TripRoom() {
  const { id = '' } = useParams()
  const { data: trip, error, refetch } = useTripQuery(id, { refetchOnMountOrArgChange: true, pollingInterval: 20_000 })
  const { data: site } = useSiteQuery()
  const { data: rounds } = useRoundsQuery()
  const [end, { isLoading }] = useEndTripMutation()
  const asker = useAppSelector(actorOf)
  const navigate = useNavigate()
  if (!trip || !site) return <Fetching what="the trip" error={error} onRetry={refetch} />
  const about = (position: string) => {
    const row = rounds?.rows.find((r) => r.position === position)
    return row ? listed(row.quantity, row.spot) : ''
  }
  const open = trip.visits.filter((v) => v.outcome === null)
  const first = open[0]
  return (
    <div className="mx-auto w-full max-w-3xl px-5 py-6">
      <h1 className="text-2xl">{trip.name}</h1>
      <p className="soft">
        {trip.operator}, on the way since {clock(trip.startedAt, site.timeZone)}.{' '}
        {open.length === 0 ? 'All are done.' : `${trip.visits.length - open.length} of ${trip.visits.length} are done.`}
      </p>
      <ol className="mt-4 border-t border-base-300">
        {trip.visits.map((v, i) => (
          <li key={v.position} className="flex min-h-16 flex-wrap items-center gap-4 border-b border-base-300 py-2">
            <span className="w-6 font-mono soft">{i + 1}</span>
            <span className="flex-1">
              <span className="text-lg font-bold">{v.position}</span> <span className="soft">{about(v.position)}</span>
              <span className="block soft">
                {v.outcome === 'done'
                  ? 'done'
                  : v.outcome === 'abandoned'
                    ? 'ended without a result'
                    : v.step
                      ? `at “${v.step}”`
                      : 'not begun'}
              </span>
            </span>
            {v.outcome === 'done' ? (
              <Link to={`/ledger/${v.id}`} className="slant slant-plain">
                <Check className="size-4" aria-hidden="true" /> The record
              </Link>
            ) : (
              <For needs="operator">
                <Link
                  to={v.id && v.outcome === null ? `/bench/${v.id}` : `/bench/start/${v.position}?trip=${trip.id}`}
                  className={`slant ${v === first ? 'slant-strong' : ''}`}
                >
                  {v.id && v.outcome === null ? 'Go on' : 'Begin'}
                </Link>
              </For>
            )}
          </li>
        ))}
      </ol>
      <For needs="operator">
        <button
          type="button"
          className={`slant mt-6 ${open.length === 0 ? 'slant-strong' : 'slant-plain'}`}
          disabled={isLoading}
          onClick={() => void end({ id, ...asker }).then(() => navigate('/'))}
        >
          {open.length === 0 ? 'The trip is over' : 'End the trip here'}
        </button>
      </For>
      {open.length > 0 && (
        <p className="pt-2 text-sm soft">Sensors that are half done stay open, and stand on Rounds.</p>
      )}
    </div>
  )
}
