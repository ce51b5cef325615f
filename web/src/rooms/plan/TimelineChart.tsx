import type { Timeline } from '@frustum/core'
import { clock } from '../../components/format.ts'

const MINUTE = 60_000

interface TimelineChartProps {
  timeline: Timeline
  arrival: number
  timeZone: string
}

/** The trip's hours: solid is hands on, striped runs by itself; what is left of the line must be started before. */
export function TimelineChart({ timeline, arrival, timeZone }: TimelineChartProps) {
  const { entries, length, lead } = timeline
  const span = Math.max(1, lead + length)
  const place = (minutes: number) => (100 * (minutes + lead)) / span
  return (
    <ol className="relative space-y-1 text-sm">
      <span
        aria-hidden="true"
        className="absolute inset-y-0 border-l-2 border-accent"
        style={{ left: `${place(0)}%` }}
        title="arrival"
      />
      {entries.map((e) => (
        <li key={`${e.position} ${e.what} ${e.start}`} className="relative min-h-11">
          <span
            className={`absolute top-5 h-5 ${e.hands ? 'bg-primary' : 'border border-[color:var(--line)] bg-[repeating-linear-gradient(135deg,var(--brass-tint)_0_6px,transparent_6px_12px)]'}`}
            style={{ left: `${place(e.start)}%`, width: `${Math.max(0.7, (100 * (e.end - e.start)) / span)}%` }}
          />
          <span className="relative bg-base-100/80 pr-2">
            <span className="font-mono">{clock(arrival + e.start * MINUTE, timeZone)}</span> {e.position ?? 'all'}:{' '}
            {e.what.toLowerCase()}
          </span>
        </li>
      ))}
    </ol>
  )
}
