import type { UnfitSensor } from '@frustum/contract'
import { Link } from 'react-router'
import { listed, text } from './format.ts'

/** Sensors of which something cannot be computed: the rest of the room goes on without them. */
export function Unfit({ sensors }: { sensors: readonly UnfitSensor[] }) {
  if (sensors.length === 0) return null
  return (
    <ul aria-label="Cannot be computed" className="py-1">
      {sensors.map(({ position, positionId, place, spot, quantity, why }) => (
        <li
          key={position}
          className="flex flex-wrap items-center justify-between gap-x-6 border-l-4 border-warning bg-base-200 px-4 py-1.5 not-last:mb-1"
        >
          <span className="max-w-prose text-pretty">
            <strong>{position}</strong>, {quantity} at {listed(place, spot)}, cannot be computed. {text(why)} Its
            records are whole.
          </span>
          <Link
            to={`/rig/position/${positionId}`}
            className="min-h-11 content-center px-2 font-bold underline underline-offset-4"
          >
            Set it right
          </Link>
        </li>
      ))}
    </ul>
  )
}
