import type { FrustumView } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { now as serverNow } from '../store/clock.ts'

const WIDTH = 132
const HEIGHT = 52
/** The walls stand at a third of the height from the middle: a cone that leaves them is seen leaving. */
const WALL = 17

/** The frustum without axes: the cone against its walls, cut at the due date, checks as dots, today as a dotted line. */
export function SmallFrustum({ figure, now = serverNow() }: { figure: FrustumView; now?: number }) {
  const { cone, from, policy, next, dots, startsAt } = figure
  const start = Math.min(startsAt, from)
  const end = Math.max(next.at, now) + 0.06 * (Math.max(next.at, now) - start)
  const x = (at: number) => 3 + ((at - start) / Math.max(DAY_MS, end - start)) * (WIDTH - 6)
  const y = (error: number) => {
    const place = HEIGHT / 2 - (error / policy.tolerance) * WALL
    return Math.min(HEIGHT - 1, Math.max(1, place))
  }
  // Cut off at the due date, what comes after it being another visit's; or at today, where that visit was missed.
  const points = cone.filter((p, i) => i < 2 || p.at <= Math.max(next.at, now))
  const band = (below: 'low' | 'lower', above: 'high' | 'upper') =>
    [
      ...points.map((p) => `${x(p.at)},${y(p[above])}`),
      ...points.toReversed().map((p) => `${x(p.at)},${y(p[below])}`),
    ].join(' ')
  const top = HEIGHT / 2 - WALL
  const bottom = HEIGHT / 2 + WALL
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="h-13 w-33 shrink-0"
      role="img"
      aria-label={`Forecast error within ± ${policy.tolerance} ${policy.unit ?? 'pH'} until the next date`}
    >
      <polygon points={band('low', 'high')} className="fill-primary" fillOpacity={0.22} />
      <polygon points={band('lower', 'upper')} className="fill-primary" fillOpacity={0.4} />
      <path d={`M0 ${top} H${WIDTH} M0 ${bottom} H${WIDTH}`} className="stroke-base-content" strokeWidth={1.2} />
      <polyline
        points={points.map((p) => `${x(p.at)},${y(p.mean)}`).join(' ')}
        className="fill-none stroke-primary"
        strokeWidth={1.6}
      />
      <line x1={x(next.at)} x2={x(next.at)} y1={top - 5} y2={bottom + 5} className="stroke-accent" strokeWidth={3} />
      <line x1={x(now)} x2={x(now)} y1={2} y2={HEIGHT - 2} className="stroke-base-content" strokeDasharray="2 3" />
      {dots.map((d) => (
        <g key={d.at} className="fill-base-content stroke-base-content">
          <line x1={x(d.at)} x2={x(d.at)} y1={y(d.error + d.uncertainty)} y2={y(d.error - d.uncertainty)} />
          <circle cx={x(d.at)} cy={y(d.error)} r={2.6} stroke="none" />
        </g>
      ))}
    </svg>
  )
}
