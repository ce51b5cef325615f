import {
  CartesianGrid,
  ComposedChart,
  ErrorBar,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  Scatter,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts'
import { evenTicks, stepDecimals, TICK, timeAxis } from '../../components/axis.ts'
import { day, fixed, signed } from '../../components/format.ts'
import { now } from '../../store/clock.ts'
import { useTrend } from './useTrend.ts'

interface TrendChartProps {
  title: string
  unit: string
  decimals: number
  points: { at: number; value: number; bar: number }[]
  /** Where a sound electrode lies. */
  sound: readonly [number, number]
  /** Limits drawn as lines, with their word. */
  limits: readonly { value: number; word: string }[]
  events: { at: number; note: string; kind: string }[]
  timeZone: string
}

/** One figure of an electrode over its life, with limits, events and a robust trend. */
export function TrendChart({ title, unit, decimals, points, sound, limits, events, timeZone }: TrendChartProps) {
  // After an upset or a refill it is another electrode: the trend is that of what came since.
  const changed = events.findLast((e) => e.kind === 'upset' || e.kind === 'refilled')
  const after = changed ? points.filter((p) => p.at > changed.at) : points
  const line = useTrend(after.length >= 3 ? after : points)
  const last = points.at(-1)
  const values = points.flatMap((p) => [p.value - p.bar, p.value + p.bar])
  const low = Math.min(sound[0], ...values)
  const high = Math.max(sound[1], ...values)
  const pad = 0.12 * (high - low)
  const domain: [number, number] = [low - pad, high + pad]
  return (
    <section>
      <h2 className="flex flex-wrap items-baseline justify-between gap-x-4 text-base">
        <span>
          {title}, {unit} {last && <span className="pl-2 font-mono text-lg">{fixed(last.value, decimals)}</span>}
        </span>
        {line && (
          <span className="text-sm font-normal soft">
            {signed(30 * line.slope, decimals + 1)} {unit} a month ({signed(30 * line.low, decimals + 1)} to{' '}
            {signed(30 * line.high, decimals + 1)})
          </span>
        )}
      </h2>
      <div className="h-48" role="img" aria-label={`${title} over time in ${unit}`}>
        <ResponsiveContainer width="100%" height="100%">
          <ComposedChart margin={{ top: 10, right: 70, bottom: 0, left: 0 }}>
            <CartesianGrid vertical={false} stroke="var(--color-base-300)" />
            <XAxis {...timeAxis(timeZone)} domain={['dataMin', now()]} tickCount={6} />
            <YAxis
              domain={domain}
              allowDataOverflow
              ticks={evenTicks(domain)}
              width={64}
              tick={TICK}
              stroke="var(--line)"
              tickFormatter={(v: number) => fixed(v, stepDecimals(domain))}
            />
            <ReferenceArea
              y1={Math.max(sound[0], domain[0])}
              y2={Math.min(sound[1], domain[1])}
              fill="var(--color-success)"
              fillOpacity={0.13}
              stroke="none"
            />
            {limits
              .filter((l) => l.value > domain[0] && l.value < domain[1])
              .map((l) => (
                <ReferenceLine
                  key={l.word}
                  y={l.value}
                  stroke="var(--color-error)"
                  strokeDasharray="6 3"
                  label={{ value: l.word, position: 'right', ...TICK }}
                />
              ))}
            {events.map((e) => (
              <ReferenceLine
                key={e.at}
                x={e.at}
                stroke="var(--color-accent)"
                strokeDasharray="3 3"
                label={{
                  value: e.kind.replaceAll('-', ' '),
                  position: 'insideTopRight',
                  fill: 'var(--color-warning)',
                  fontSize: 13,
                }}
              />
            ))}
            {line && (
              <ReferenceLine
                segment={[
                  { x: line.from.at, y: line.from.value },
                  { x: line.to.at, y: line.to.value },
                ]}
                stroke="var(--color-primary)"
                strokeDasharray="7 4"
              />
            )}
            <Scatter
              data={points}
              dataKey="value"
              fill="var(--color-primary)"
              line={{ stroke: 'var(--color-primary)', strokeWidth: 1.5 }}
              isAnimationActive={false}
            >
              <ErrorBar dataKey="bar" direction="y" width={0} stroke="var(--color-primary)" />
            </Scatter>
            <Tooltip
              cursor={{ stroke: 'var(--line)' }}
              content={({ payload }) => {
                const p = payload?.[0]?.payload as { at: number; value: number; bar: number } | undefined
                return p ? (
                  <div className="border border-base-300 bg-base-100 px-3 py-2 text-sm">
                    <strong>{day(p.at, timeZone)}</strong> {fixed(p.value, decimals)} ± {fixed(p.bar, decimals)} {unit}
                  </div>
                ) : null
              }}
            />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
    </section>
  )
}
