const WIDTH = 96
const HEIGHT = 28

/** How a reading settled, small: the shape counts, not the numbers. */
export function Thumbnail({ trace }: { trace: readonly [number, number][] }) {
  if (trace.length < 3) return <span className="soft">–</span>
  const times = trace.map(([t]) => t)
  const values = trace.map(([, v]) => v)
  const [t0, t1] = [Math.min(...times), Math.max(...times)]
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const x = (t: number) => ((t - t0) / Math.max(1e-9, t1 - t0)) * (WIDTH - 4) + 2
  const y = (v: number) => HEIGHT - 3 - ((v - low) / Math.max(1e-9, high - low)) * (HEIGHT - 6)
  const path = trace.map(([t, v], i) => `${i === 0 ? 'M' : 'L'}${x(t).toFixed(1)} ${y(v).toFixed(1)}`).join(' ')
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="h-7 w-24"
      role="img"
      aria-label={`Settled within ${Math.round(t1 - t0)} s`}
    >
      <path d={path} className="fill-none stroke-primary" strokeWidth={1.6} />
    </svg>
  )
}
