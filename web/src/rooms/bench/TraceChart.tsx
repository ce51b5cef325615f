import type { VisitLive } from '@frustum/contract'
import { figures } from '@frustum/core'
import {
  Line,
  LineChart,
  ReferenceArea,
  ReferenceDot,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from 'recharts'
import { evenTicks, stepDecimals } from '../../components/axis.ts'
import { asRead, fixed } from '../../components/format.ts'

/** Points drawn at the most: more cannot be seen. */
const DRAWN = 240

/**
 * The settling trace with a lens: its axis follows the last stretch, so that the tail is seen and not the fall.
 * Band and dashed line show where it will end.
 */
export function TraceChart({ trace: stored, live }: { trace: [number, number][]; live: VisitLive }) {
  const { opinion } = live
  const { unit, decimals, of, width } = asRead(live)
  const trace = stored.map(([t, v]): [number, number] => [t, of(v)])
  if (trace.length < 2 || !opinion) return <div className="h-54 xl:h-58" />
  const last = trace.at(-1) as [number, number]
  const end = of(opinion.predictedEnd)
  const half = Math.abs(width(opinion.predictedEndUncertainty))
  // What the display tells apart is the yardstick of the lens.
  const scale = unit === 'mV' ? 1 : Math.max(10 ** -decimals, 0.001 * Math.abs(last[1]))
  const shown = opinion.confidence > 2 && half < 7 * scale
  const lens = trace.filter(([t]) => t >= last[0] - Math.max(20, 0.5 * (last[0] - (trace[0] as [number, number])[0])))
  const values = lens.map(([, v]) => v)
  if (shown) values.push(end - Math.min(half, 6 * scale), end + Math.min(half, 6 * scale))
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const pad = Math.max(0.8 * scale, 0.15 * (high - low))
  const domain: [number, number] = [low - pad, high + pad]
  const stride = Math.max(1, Math.floor(trace.length / DRAWN))
  const data = trace.filter((_, i) => i % stride === 0 || i === trace.length - 1).map(([t, v]) => ({ t, v }))
  const until = Math.max(60, Math.ceil((last[0] * 1.25) / 30) * 30)
  // A width that rounds to nothing would say that it is known for certain.
  const digits = Math.max(decimals, figures(half, 1))
  const tick = { fill: 'var(--soft)', fontSize: 14 }
  return (
    <figure>
      <figcaption className="flex justify-between text-warning">
        <span className="pl-8 text-sm soft">{unit}</span>
        <strong>
          {shown ? `will end at ${fixed(end, digits)} ± ${fixed(half, digits)} ${unit}` : 'not sure yet where it ends'}
        </strong>
      </figcaption>
      <div
        className="h-48 xl:h-52"
        role="img"
        aria-label={`Settling trace, ${fixed(last[1], decimals)} ${unit} after ${fixed(last[0], 0)} s`}
      >
        <ResponsiveContainer width="100%" height="100%">
          <LineChart data={data} margin={{ top: 8, right: 12, bottom: 4, left: 4 }}>
            <XAxis
              dataKey="t"
              type="number"
              domain={[0, until]}
              ticks={ticksUpTo(until)}
              tickFormatter={(t: number) => `${t} s`}
              tick={tick}
              stroke="var(--line)"
              allowDataOverflow
            />
            <YAxis
              domain={domain}
              ticks={evenTicks(domain)}
              allowDataOverflow
              width={70}
              tick={tick}
              stroke="var(--line)"
              tickFormatter={(v: number) => fixed(v, stepDecimals(domain))}
            />
            {shown && (
              <ReferenceArea
                y1={Math.max(end - half, domain[0])}
                y2={Math.min(end + half, domain[1])}
                fill="var(--brass-tint)"
                fillOpacity={0.8}
                stroke="none"
              />
            )}
            {shown && <ReferenceLine y={end} stroke="var(--color-accent)" strokeDasharray="5 4" />}
            <Line
              dataKey="v"
              stroke="var(--color-primary)"
              strokeWidth={2.5}
              dot={false}
              isAnimationActive={false}
              type="linear"
            />
            <ReferenceDot x={last[0]} y={last[1]} r={5} fill="var(--color-primary)" stroke="none" />
          </LineChart>
        </ResponsiveContainer>
      </div>
    </figure>
  )
}

function ticksUpTo(until: number): number[] {
  const step = until <= 90 ? 15 : until <= 240 ? 30 : 60
  return Array.from({ length: Math.floor(until / step) + 1 }, (_, i) => i * step)
}
