import { useLastDaysQuery } from '../store/api.ts'

const WIDTH = 112
const HEIGHT = 22
const HOUR_MS = 3_600_000
const DAY_MS = 24 * HOUR_MS
const LOOK_EVERY_MS = 60_000

/** What a sensor read in the last day: the band of each hour, and its mean. Nothing where nothing was read. */
export function LastDay({ position, now }: { position: string; now: number }) {
  const { data } = useLastDaysQuery(undefined, { pollingInterval: LOOK_EVERY_MS })
  const hours = data?.[position] ?? []
  if (hours.length < 2) return null
  const low = Math.min(...hours.map((h) => h.low))
  const high = Math.max(...hours.map((h) => h.high))
  // A line that stands still is drawn in the middle, and not as if it strayed.
  const width = Math.max(high - low, 1e-9 + Math.abs(high) * 0.002)
  const middle = (low + high) / 2
  const x = (at: number) => 1 + ((at + HOUR_MS / 2 - (now - DAY_MS)) / DAY_MS) * (WIDTH - 2)
  const y = (value: number) => HEIGHT / 2 - ((value - middle) / width) * (HEIGHT - 4)
  const band = [
    ...hours.map((h) => `${x(h.at)},${y(h.high)}`),
    ...hours.toReversed().map((h) => `${x(h.at)},${y(h.low)}`),
  ]
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="h-5.5 w-28" role="img" aria-label="Its last day">
      <polygon
        points={band.join(' ')}
        className="fill-primary stroke-primary"
        fillOpacity={0.25}
        strokeOpacity={0.25}
      />
      <polyline
        points={hours.map((h) => `${x(h.at)},${y(h.mean)}`).join(' ')}
        className="fill-none stroke-base-content"
        strokeWidth={1.2}
      />
    </svg>
  )
}
