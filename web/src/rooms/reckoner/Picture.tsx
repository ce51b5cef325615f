import type { Curve } from '@frustum/core/reckoner'
import {
  CartesianGrid,
  ComposedChart,
  Line,
  ReferenceDot,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from 'recharts'
import { evenTicks, stepDecimals, TICK } from '../../components/axis.ts'
import { fixed } from '../../components/format.ts'

function span(values: readonly number[]): [number, number] {
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const pad = high > low ? 0.06 * (high - low) : Math.max(Math.abs(high) * 0.05, 0.5)
  return [low - pad, high + pad]
}

/** The curve that the sheet works on, with the point one is at. */
export function Picture({ curve, stale }: { curve: Curve; stale: boolean }) {
  const data = curve.points.map(([x, y]) => ({ x, y }))
  const xs = [...curve.points.map(([x]) => x), curve.at[0]]
  const x: [number, number] = [Math.min(...xs), Math.max(...xs)]
  const y = span([...curve.points.map(([, value]) => value), curve.at[1]])
  return (
    <figure>
      <figcaption className="flex justify-between text-sm soft">
        <span>{curve.yLabel}</span>
      </figcaption>
      <div
        className={`h-56 ${stale ? 'opacity-50' : ''}`}
        role="img"
        aria-label={`${curve.yLabel} over ${curve.xLabel}, with your point`}
      >
        <ResponsiveContainer width="100%" height="100%">
          <ComposedChart data={data} margin={{ top: 8, right: 16, bottom: 0, left: 0 }}>
            <CartesianGrid vertical={false} stroke="var(--color-base-300)" />
            <XAxis
              dataKey="x"
              type="number"
              domain={x}
              ticks={evenTicks(x)}
              tickFormatter={(v: number) => fixed(v, stepDecimals(x))}
              tick={TICK}
              stroke="var(--line)"
            />
            <YAxis
              type="number"
              domain={y}
              ticks={evenTicks(y)}
              tickFormatter={(v: number) => fixed(v, stepDecimals(y))}
              width={64}
              tick={TICK}
              stroke="var(--line)"
            />
            <Line
              dataKey="y"
              dot={false}
              stroke="var(--color-primary)"
              strokeWidth={2}
              isAnimationActive={false}
              type="linear"
            />
            <ReferenceLine x={curve.at[0]} stroke="var(--color-accent)" strokeDasharray="3 3" />
            <ReferenceDot
              x={curve.at[0]}
              y={curve.at[1]}
              r={6}
              fill="var(--color-accent)"
              stroke="var(--color-base-100)"
              strokeWidth={2}
            />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
      <p className="pr-4 text-right text-sm soft">{curve.xLabel}</p>
    </figure>
  )
}
