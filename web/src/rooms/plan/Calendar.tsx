import { TZDate } from '@date-fns/tz'
import type { ConsumableView, PlannedTripView, PlanView } from '@frustum/contract'
import { addDays, format, isSameDay, startOfWeek } from 'date-fns'
import { useState } from 'react'
import { percent, weekStart } from '../../components/format.ts'
import { useMay } from '../../store/me.ts'
import { firstTrips, riskOn, riskWord, tripRisk } from './risk.ts'

const WEEKS = 6

interface CalendarProps {
  plan: PlanView
  timeZone: string
  chosen: string | null
  onChoose: (id: string) => void
  onMove: (trip: PlannedTripView, to: number) => void
}

/** Six weeks of proposed trips. A trip is dragged to another day, and while it moves each day says what it would risk. */
export function Calendar({ plan, timeZone, chosen, onChoose, onMove }: CalendarProps) {
  const [dragged, setDragged] = useState<PlannedTripView | null>(null)
  const today = new TZDate(plan.today, timeZone)
  const begin = startOfWeek(today, { weekStartsOn: weekStart() })
  const days = Array.from({ length: 7 * WEEKS }, (_, i) => addDays(begin, i))
  const may = useMay('operator')
  const first = may ? firstTrips(plan) : new Set<string>()
  return (
    <section aria-label="Calendar" className="overflow-x-auto max-sm:hidden">
      <div className="grid min-w-160 grid-cols-7 border-l border-base-300">
        {days.slice(0, 7).map((d) => (
          <div key={d.getTime()} className="border-b border-base-300 px-2 pb-1 text-sm soft">
            {format(d, 'EEE')}
          </div>
        ))}
        {days.map((d) => {
          const past = d < today
          const trips = plan.trips.filter((t) => isSameDay(new TZDate(t.day, timeZone), d))
          const due = plan.consumables.filter((c) => isSameDay(new TZDate(Math.max(c.due, plan.today), timeZone), d))
          const risk = dragged && !past ? riskOn(plan, dragged, d.getTime()) : null
          const word = risk && riskWord(risk.outside)
          return (
            // biome-ignore lint/a11y/noStaticElementInteractions: dragging is one of two ways; the other is the day field of the trip
            <div
              key={d.getTime()}
              data-day={format(d, 'yyyy-MM-dd')}
              className={`min-h-24 border-r border-b border-base-300 p-1 ${past ? 'bg-base-200' : ''} ${word === 'high' ? 'bg-error/20' : word === 'raised' ? 'bg-[color:var(--brass-tint)]' : ''}`}
              onDragOver={(e) => {
                if (dragged && !past) e.preventDefault()
              }}
              onDrop={(e) => {
                e.preventDefault()
                if (dragged && !past) onMove(dragged, d.getTime())
                setDragged(null)
              }}
            >
              <div className="flex items-baseline justify-between px-1 text-sm">
                <span className={isSameDay(d, today) ? 'font-bold' : 'soft'}>
                  {format(d, d.getDate() === 1 || d === days[0] ? 'd MMM' : 'd')}
                </span>
                {risk && (
                  <span className="font-mono text-xs" role="status">
                    {percent(risk.outside)} out
                  </span>
                )}
              </div>
              {trips.map((t) => (
                <TripChip
                  key={t.id}
                  trip={t}
                  movable={first.has(t.id)}
                  chosen={t.id === chosen}
                  onChoose={() => onChoose(t.id)}
                  onDrag={(on) => setDragged(on ? t : null)}
                />
              ))}
              {due.map((c) => (
                <ConsumableChip key={c.id} consumable={c} />
              ))}
            </div>
          )
        })}
      </div>
    </section>
  )
}

interface TripChipProps {
  trip: PlannedTripView
  movable: boolean
  chosen: boolean
  onChoose: () => void
  onDrag: (on: boolean) => void
}

function TripChip({ trip, movable, chosen, onChoose, onDrag }: TripChipProps) {
  const late = riskWord(tripRisk(trip) ?? 0)
  const names = trip.visits.map((v) => v.position)
  return (
    <button
      type="button"
      draggable={movable}
      aria-pressed={chosen}
      className={`mt-1 block w-full border-l-4 px-2 py-1 text-left text-sm ${late === 'high' ? 'border-error' : late === 'raised' ? 'border-accent' : 'border-primary'} ${chosen ? 'bg-primary text-primary-content' : 'bg-secondary text-secondary-content'} ${movable ? 'cursor-grab' : 'opacity-75'}`}
      onClick={onChoose}
      onDragStart={(e) => {
        e.dataTransfer.effectAllowed = 'move'
        e.dataTransfer.setData('text/plain', trip.id)
        onDrag(true)
      }}
      onDragEnd={() => onDrag(false)}
    >
      <span className="block truncate font-bold print:whitespace-normal">
        {names.length === 1 ? names[0] : `${names.length} sensors`}
      </span>
      <span className="block truncate print:whitespace-normal">{trip.place}</span>
    </button>
  )
}

function ConsumableChip({ consumable }: { consumable: ConsumableView }) {
  return (
    <p className="mt-1 border border-dashed border-[color:var(--line)] px-1 text-xs">
      {consumable.name}, {consumable.place}
    </p>
  )
}
