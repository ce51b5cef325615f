import { useState } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import { Begin } from '../../components/Begin.tsx'
import { listed } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { StateMark } from '../../components/StateMark.tsx'
import { useRoundsQuery, useStartTripMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { needsHands } from '../rounds/sentences.ts'

/** Which sensors one way round takes in. Those that need hands are ticked already. */
export function NewTrip() {
  const { data, error, refetch } = useRoundsQuery()
  const [start, { isLoading }] = useStartTripMutation()
  const asker = useAppSelector(actorOf)
  const navigate = useNavigate()
  const [place, setPlace] = useState<string | null>(null)
  const [changed, setChanged] = useState<Record<string, boolean>>({})
  if (!data) return <Fetching what="the sensors" error={error} onRetry={refetch} />
  const places = [...new Set(data.rows.map((r) => r.place))]
  const busiest = places.toSorted((a, b) => count(b) - count(a))[0] ?? ''
  function count(name: string) {
    return data?.rows.filter((r) => r.place === name && needsHands(r)).length ?? 0
  }
  const here = place ?? busiest
  if (data.rows.length === 0) {
    return (
      <Begin room="One way round several sensors">
        A trip takes several sensors in one go. It needs sensors first.
      </Begin>
    )
  }
  const rows = data.rows.filter((r) => r.place === here).toSorted((a, b) => a.position.localeCompare(b.position))
  const isOn = (position: string, usual: boolean) => changed[position] ?? usual
  const chosen = rows.filter((r) => isOn(r.position, needsHands(r))).map((r) => r.position)
  const begin = async () => {
    const answer = await start({ name: here, positions: chosen, ...asker })
    if (answer.data) void navigate(`/trips/${answer.data.id}`, { replace: true })
    else toast.error(problemOf(answer.error).message)
  }
  return (
    <div className="mx-auto w-full max-w-3xl px-5 py-6">
      <h1 className="text-2xl">One way round several sensors</h1>
      <p className="max-w-prose pt-1 soft">
        One float and one rinse serve them all, each caution is said once, and those that others rest on come first.
      </p>
      <fieldset className="py-4">
        <legend className="pb-2 font-bold">Where?</legend>
        <div className="flex flex-wrap gap-3">
          {places.map((p) => (
            <button
              key={p}
              type="button"
              aria-pressed={p === here}
              className={`slant ${p === here ? '' : 'slant-plain'}`}
              onClick={() => setPlace(p)}
            >
              {p}
            </button>
          ))}
        </div>
      </fieldset>
      <ul className="border-t border-base-300">
        {rows.map((r) => (
          <li key={r.position} className="border-b border-base-300">
            <label className="flex min-h-12 cursor-pointer items-center gap-4">
              <input
                type="checkbox"
                className="checkbox border-[color:var(--line)] text-primary"
                checked={isOn(r.position, needsHands(r))}
                onChange={(e) => setChanged({ ...changed, [r.position]: e.target.checked })}
              />
              <span className="flex-1">
                <span className="font-bold">{r.position}</span>{' '}
                <span className="soft">{listed(r.quantity, r.spot)}</span>
              </span>
              <StateMark state={r.state} />
            </label>
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="slant slant-strong mt-5 min-h-14 px-8 text-xl max-sm:w-[94%]"
        disabled={isLoading || chosen.length === 0}
        onClick={() => void begin()}
      >
        {chosen.length === 0 ? 'Choose at least one' : `Start with ${chosen.length}`}
      </button>
    </div>
  )
}
