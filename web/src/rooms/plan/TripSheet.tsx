import type { PlannedTripView, PlanView } from '@frustum/contract'
import { dayAt, isCalendarDay, startOfDayIn } from '@frustum/contract/calendarDay'
import { useState } from 'react'
import { Link } from 'react-router'
import { For } from '../../components/For.tsx'
import { clock, day, duration, fixed, percent, plural } from '../../components/format.ts'
import { outText } from './outText.ts'
import { riskOn } from './risk.ts'
import { TimelineChart } from './TimelineChart.tsx'

interface TripSheetProps {
  plan: PlanView
  trip: PlannedTripView
  timeZone: string
  movable: boolean
  onMove: (to: number | null) => void
}

/** One proposed trip: who is visited and why then, what must be started when, and what to pack. */
export function TripSheet({ plan, trip, timeZone, movable, onMove }: TripSheetProps) {
  const { timeline, visits, kit, arrival } = trip
  const moved = visits.some((v) => v.moved)
  return (
    <article className="space-y-5" aria-label="Trip">
      <header>
        <h2 className="text-xl">
          {day(trip.day, timeZone)}, {trip.place}
        </h2>
        <p className="soft">
          {plural(visits.length, 'sensor')}, {duration(timeline.hands)} hands-on, {duration(timeline.length)} in all
          from {clock(arrival, timeZone)}.
          {timeline.lead > 0 && ` First thing at ${clock(arrival - timeline.lead * 60_000, timeZone)}.`}
        </p>
      </header>
      {movable && (
        <For needs="operator">
          <Mover key={trip.id} plan={plan} trip={trip} timeZone={timeZone} moved={moved} onMove={onMove} />
        </For>
      )}
      <ul>
        {visits.map((v) => (
          <li key={v.position} className="flex items-baseline justify-between gap-3 border-t border-base-300 py-2">
            <span>
              <Link to={`/probes/${v.position}`} className="font-bold hover:underline">
                {v.position}
              </Link>{' '}
              <span className="text-sm soft">
                {v.quantity} · {v.procedure.toLowerCase()}
                {v.moved ? ' · moved by hand' : ` · own date ${day(v.due, timeZone)}`}
              </span>
            </span>
            <span className="shrink-0 font-mono text-sm whitespace-nowrap">{outText(v.outside)}</span>
          </li>
        ))}
      </ul>
      <section>
        <h3 className="pb-1 text-base soft">The day</h3>
        <TimelineChart timeline={timeline} arrival={arrival} timeZone={timeZone} />
      </section>
      <section>
        <h3 className="pb-1 text-base soft">Take with you</h3>
        <ul>
          {kit.map((k) => (
            <li key={k.label} className="flex flex-wrap justify-between gap-x-3">
              <span>
                {k.label} {k.lot && <span className="soft">lot {k.lot}</span>}
                {k.warning && <span className="font-bold text-error"> {k.warning}</span>}
              </span>
              <span className="font-mono text-sm">
                {k.pours} × {fixed(k.milliliters / k.pours, 0)} mL
              </span>
            </li>
          ))}
          {trip.needs.map((n) => (
            <li key={n} className="soft">
              {n}
            </li>
          ))}
        </ul>
      </section>
    </article>
  )
}

interface MoverProps {
  plan: PlanView
  trip: PlannedTripView
  timeZone: string
  moved: boolean
  onMove: (to: number | null) => void
}

/** The other way to move a trip: a day typed or stepped to, with its risk before it is done. */
function Mover({ plan, trip, timeZone, moved, onMove }: MoverProps) {
  const iso = (at: number) => dayAt(at, timeZone)
  const [text, setText] = useState<string>(iso(trip.day))
  const to = isCalendarDay(text) ? startOfDayIn(text, timeZone) : Number.NaN
  const valid = to >= plan.today
  const risk = valid ? riskOn(plan, trip, to) : null
  return (
    <div className="no-print border-y border-base-300 py-3">
      <label className="flex flex-wrap items-center gap-3">
        <span className="soft">Move it to</span>
        <input
          type="date"
          className="h-11 border border-[color:var(--line)] bg-base-100 px-2"
          value={text}
          min={iso(plan.today)}
          onChange={(e) => setText(e.target.value)}
        />
        <button type="button" className="slant px-4" disabled={!valid || to === trip.day} onClick={() => onMove(to)}>
          Move
        </button>
        {moved && (
          <button type="button" className="min-h-11 underline underline-offset-4" onClick={() => onMove(null)}>
            back to what is proposed
          </button>
        )}
      </label>
      <p className="min-h-6 pt-1 text-sm" role="status" data-testid="move-risk">
        {!risk && 'Choose today or a later day.'}
        {risk &&
          (risk.worst
            ? `Most likely out of tolerance that day: ${risk.worst}, ${percent(risk.outside)}.`
            : 'No sensor is likely to be out of tolerance that day.')}
      </p>
    </div>
  )
}
