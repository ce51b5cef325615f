import type { PlannedTripView, PlanView } from '@frustum/contract'
import { useRef, useState } from 'react'
import { toast } from 'sonner'
import { Begin } from '../../components/Begin.tsx'
import { For } from '../../components/For.tsx'
import { day, daysUntil, duration, plural } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { Unfit } from '../../components/Unfit.tsx'
import {
  useMovePlanMutation,
  usePlanQuery,
  useRenewCalendarMutation,
  useRenewMutation,
  useSiteQuery,
} from '../../store/api.ts'
import { useMay } from '../../store/me.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Calendar } from './Calendar.tsx'
import { outText } from './outText.ts'
import { firstTrips, tripRisk } from './risk.ts'
import { TripSheet } from './TripSheet.tsx'

/** Which trips are coming, what must start when, what to pack. */
export function PlanRoom() {
  const { data: plan, error, refetch } = usePlanQuery(undefined, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  const { operator } = useAppSelector(actorOf)
  const [move] = useMovePlanMutation()
  const [chosen, setChosen] = useState<string | null>(null)
  const sheet = useRef<HTMLElement>(null)
  if (!plan || !site) return <Fetching what="the plan" error={error} onRetry={refetch} />
  const { timeZone } = site
  const trip = plan.trips.find((t) => t.id === chosen) ?? plan.trips[0]
  const choose = (id: string) => {
    setChosen(id)
    // Where the trip stands below the agenda and not beside it, it would open out of sight.
    const { current } = sheet
    if (current && current.getBoundingClientRect().top > window.innerHeight - 100) {
      requestAnimationFrame(() => current.scrollIntoView({ block: 'start' }))
    }
  }
  const moveTo = async (which: PlannedTripView, to: number | null) => {
    const answer = await move({ operator, positions: which.visits.map((v) => v.position), to })
    if (answer.error) {
      const problem = problemOf(answer.error)
      toast.error(`${problem.message} ${problem.hint ?? ''}`)
      return
    }
    const there = answer.data.trips.find((t) => t.visits.some((v) => v.position === which.visits[0]?.position))
    setChosen(there?.id ?? null)
    toast.success(to === null ? 'Back to what is proposed.' : `Moved to ${day(to, timeZone)}.`)
  }
  if (plan.trips.length + plan.consumables.length + plan.unfit.length === 0) {
    return (
      <Begin room="Plan">
        Here stand the visits to come, what must be started when, and what to pack. They follow from the sensors and
        their drift.
      </Begin>
    )
  }
  return (
    <div className="mx-auto flex w-full max-w-[1500px] flex-1 flex-col gap-6 px-4 py-5 sm:px-6 xl:flex-row">
      <div className="min-w-0 flex-1 space-y-6">
        <header className="flex flex-wrap items-center justify-between gap-x-6 gap-y-2">
          <h1 className="text-2xl">
            {plural(plan.trips.length, 'trip')} in {plan.daysAhead / 7} weeks{' '}
            <span className="text-base font-normal soft">
              {plan.tripsAlone} if each sensor were visited on its own date
            </span>
          </h1>
          <Share plan={plan} />
        </header>
        <Unfit sensors={plan.unfit} />
        <Calendar
          plan={plan}
          timeZone={timeZone}
          chosen={trip?.id ?? null}
          onChoose={choose}
          onMove={(t, to) => void moveTo(t, to)}
        />
        <Agenda plan={plan} timeZone={timeZone} chosen={trip?.id ?? null} onChoose={choose} />
        <Consumables plan={plan} timeZone={timeZone} />
      </div>
      <aside ref={sheet} className="scroll-mt-4 border-base-300 xl:w-96 xl:shrink-0 xl:border-l xl:pl-6">
        {trip ? (
          <TripSheet
            plan={plan}
            trip={trip}
            timeZone={timeZone}
            movable={firstTrips(plan).has(trip.id)}
            onMove={(to) => void moveTo(trip, to)}
          />
        ) : (
          <p className="soft">No trip is proposed: no sensor comes to its date within these weeks.</p>
        )}
      </aside>
    </div>
  )
}

/** The calendar for others: a file, an address to subscribe to, paper. */
function Share({ plan }: { plan: PlanView }) {
  const [renew, { isLoading }] = useRenewCalendarMutation()
  const { operator } = useAppSelector(actorOf)
  const lead = useMay('lead')
  if (plan.calendarPath === null) return <PrintButton />
  const address = `${window.location.origin}${plan.calendarPath}`
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(address)
      toast.success('The address is copied.')
    } catch {
      toast.error('This browser does not let pages copy. Mark the address and copy it by hand.')
    }
  }
  return (
    <details className="no-print relative">
      <summary className="min-h-11 cursor-pointer content-center font-bold underline underline-offset-4">Share</summary>
      <div className="absolute right-0 z-20 w-96 max-w-[90vw] space-y-3 border border-base-300 bg-base-100 p-4">
        <p className="text-sm">Subscribe to this address in any calendar. Anyone with this link can see the plan.</p>
        <input
          readOnly
          aria-label="Address of the calendar"
          className="h-11 w-full border border-[color:var(--line)] bg-base-100 px-2 font-mono text-sm"
          value={address}
          onFocus={(e) => e.target.select()}
        />
        <div className="flex flex-wrap gap-3">
          <button type="button" className="slant px-4" onClick={() => void copy()}>
            Copy
          </button>
          <a className="slant slant-plain px-4" href={plan.calendarPath} download="frustum-plan.ics">
            As a file
          </a>
          <PrintButton />
        </div>
        {lead && (
          <p className="text-sm">
            Given to the wrong people?{' '}
            <button
              type="button"
              className="min-h-11 underline underline-offset-4"
              disabled={isLoading}
              onClick={async () => {
                const { error } = await renew({ operator })
                if (error) toast.error(problemOf(error).message)
                else toast.success('New address. The old one shows nothing any more.')
              }}
            >
              Make a new address
            </button>
          </p>
        )}
      </div>
    </details>
  )
}

const PrintButton = () => (
  <button type="button" className="no-print slant slant-plain px-4" onClick={() => window.print()}>
    Print
  </button>
)

interface AgendaProps {
  plan: PlanView
  timeZone: string
  chosen: string | null
  onChoose: (id: string) => void
}

function Agenda({ plan, timeZone, chosen, onChoose }: AgendaProps) {
  return (
    <section aria-label="Agenda">
      <h2 className="border-b border-base-300 pb-2 text-base soft">Agenda</h2>
      <ul>
        {plan.trips.map((t) => (
          <li key={t.id} className="border-b border-base-300">
            <button
              type="button"
              aria-pressed={t.id === chosen}
              className={`grid min-h-12 w-full grid-cols-[5.5rem_1fr_auto] items-center gap-x-4 px-2 py-2 text-left ${t.id === chosen ? 'bg-secondary text-secondary-content' : 'hover:bg-base-200'}`}
              onClick={() => onChoose(t.id)}
            >
              <strong>{day(t.day, timeZone)}</strong>
              <span>
                {t.place} <span className="soft">{t.visits.map((v) => v.position).join(', ')}</span>
              </span>
              <span className="text-right text-sm">
                {duration(t.timeline.hands)}
                <br />
                <span className="font-mono soft">{outText(tripRisk(t))}</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

function Consumables({ plan, timeZone }: { plan: PlanView; timeZone: string }) {
  const { operator } = useAppSelector(actorOf)
  const [renew, { isLoading }] = useRenewMutation()
  const done = async (id: number) => {
    const { error } = await renew({ id: String(id), operator })
    if (error) toast.error(problemOf(error).message)
  }
  if (plan.consumables.length === 0) return null
  return (
    <section aria-label="Consumables">
      <h2 className="border-b border-base-300 pb-2 text-base soft">Consumables</h2>
      <ul>
        {plan.consumables.map((c) => {
          const days = daysUntil(c.due)
          return (
            <li
              key={c.id}
              className="grid grid-cols-[5.5rem_1fr_auto] items-center gap-x-4 border-b border-base-300 px-2 py-1"
            >
              <strong>{day(c.due, timeZone)}</strong>
              <span>
                {c.name}{' '}
                <span className="soft">
                  {c.place}, every {c.everyDays} days,{' '}
                  {days < 0 ? `${plural(-days, 'day')} late` : `in ${plural(days, 'day')}`}
                </span>
              </span>
              <For needs="operator">
                <button
                  type="button"
                  className="no-print min-h-11 px-2 underline underline-offset-4"
                  disabled={isLoading}
                  onClick={() => void done(c.id)}
                >
                  renewed today
                </button>
              </For>
            </li>
          )
        })}
      </ul>
    </section>
  )
}
