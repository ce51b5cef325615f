import type { FrustumView } from '@frustum/contract'
import {
  Area,
  ComposedChart,
  ErrorBar,
  Line,
  ReferenceLine,
  ResponsiveContainer,
  Scatter,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts'
import { TICK, timeAxis } from '../../components/axis.ts'
import { day, fixed, percent, signed } from '../../components/format.ts'
import { now as serverNow } from '../../store/clock.ts'

/** Tolerances beyond which an error is off the chart. */
const FARTHEST = 12

interface LargeFrustumProps {
  figure: FrustumView
  timeZone: string
  now?: number
}

/** The frustum with axes: error against the limits, from the last adjustment to the next date and a little beyond. */
export function LargeFrustum({ figure, timeZone, now = serverNow() }: LargeFrustumProps) {
  const { cone, policy, next, dots, startsAt } = figure
  const from = Math.min(startsAt, figure.from)
  const until = Math.max(next.at, now)
  const end = until + 0.12 * (until - from)
  const points = cone.map((p) => ({ ...p, outer: [p.low, p.high], inner: [p.lower, p.upper] }))
  const checks = dots.map((d) => ({ at: d.at, error: d.error, bar: d.uncertainty }))
  const reach = Math.max(
    1.45 * policy.tolerance,
    ...points.map((p) => Math.min(3 * policy.tolerance, Math.max(Math.abs(p.high), Math.abs(p.low)))),
    // However wide the cone, where the error most likely is must be in sight.
    ...points.map((p) => Math.min(FARTHEST * policy.tolerance, 1.2 * Math.abs(p.mean))),
  )
  const halves = reach < 2.5 * policy.tolerance ? [-policy.tolerance / 2, policy.tolerance / 2] : []
  const { unit = 'pH', decimals = 2 } = policy
  const limit = `${fixed(policy.tolerance, decimals)} ${unit}`
  // Half a limit of 0.15 is 0.075.
  const axisDecimals = decimals + (halves.every((h) => Number(h.toFixed(decimals)) === h) ? 0 : 1)
  const wall = { stroke: 'var(--color-base-content)', strokeWidth: 1.4 }
  return (
    <figure>
      <div
        className="h-72"
        role="img"
        aria-label={`Forecast of the error: limits ± ${limit}, next date ${day(next.at, timeZone)}`}
      >
        <ResponsiveContainer width="100%" height="100%">
          <ComposedChart data={points} margin={{ top: 18, right: 70, bottom: 4, left: 0 }}>
            <XAxis {...timeAxis(timeZone)} domain={[from, end]} ticks={evenTicks(from, end)} />
            <YAxis
              domain={[-reach, reach]}
              ticks={[-policy.tolerance, 0, policy.tolerance, ...halves].toSorted((a, b) => a - b)}
              tickFormatter={(v: number) => signed(v, axisDecimals)}
              tick={TICK}
              stroke="var(--line)"
              width={64}
              allowDataOverflow
              label={{
                value: `error, ${unit}`,
                position: 'insideTopLeft',
                fill: 'var(--soft)',
                fontSize: 13,
                dy: -16,
                dx: 10,
              }}
            />
            <Area
              dataKey="outer"
              stroke="none"
              fill="var(--color-primary)"
              fillOpacity={0.2}
              isAnimationActive={false}
              activeDot={false}
            />
            <Area
              dataKey="inner"
              stroke="none"
              fill="var(--color-primary)"
              fillOpacity={0.36}
              isAnimationActive={false}
              activeDot={false}
            />
            <Line dataKey="mean" stroke="var(--color-primary)" strokeWidth={2} dot={false} isAnimationActive={false} />
            <ReferenceLine y={policy.tolerance} {...wall} label={{ value: 'limit', position: 'right', ...TICK }} />
            <ReferenceLine y={-policy.tolerance} {...wall} label={{ value: 'limit', position: 'right', ...TICK }} />
            <ReferenceLine
              x={next.at}
              stroke="var(--color-accent)"
              strokeWidth={4}
              label={{
                value: `${next.at < now ? 'was due' : 'next'} ${day(next.at, timeZone)}`,
                position: 'top',
                fill: 'var(--color-accent)',
                fontSize: 13,
              }}
            />
            <ReferenceLine
              x={now}
              stroke="var(--color-base-content)"
              strokeDasharray="2 4"
              label={{ value: 'today', position: 'insideBottomLeft', fill: 'var(--color-base-content)', fontSize: 13 }}
            />
            <Scatter data={checks} dataKey="error" fill="var(--color-base-content)" isAnimationActive={false}>
              <ErrorBar dataKey="bar" direction="y" width={0} stroke="var(--color-base-content)" />
            </Scatter>
            <Tooltip
              cursor={{ stroke: 'var(--line)' }}
              content={({ label }) => <Reading at={Number(label)} figure={figure} timeZone={timeZone} />}
            />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="text-sm soft">
        Where the error may be: half of the chances in the dark band, 95 % in the light one. Dots are what visits left
        behind.
        {figure.from > (figure.dots.at(-1)?.at ?? figure.from) &&
          ` From ${day(figure.from, timeZone)} on it counts what its twin reads.`}
      </figcaption>
    </figure>
  )
}

function Reading({ at, figure, timeZone }: { at: number; figure: FrustumView; timeZone: string }) {
  const [first] = figure.cone
  if (!first || !Number.isFinite(at) || at < first.at) return null
  const point = figure.cone.reduce((a, b) => (Math.abs(b.at - at) < Math.abs(a.at - at) ? b : a))
  const { decimals = 2, unit = 'pH' } = figure.policy
  return (
    <div className="border border-base-300 bg-base-100 px-3 py-2 text-sm">
      <strong>{day(point.at, timeZone)}</strong>
      <br />
      {signed(point.low, decimals + 1)} to {signed(point.high, decimals + 1)} {unit}
      <br />
      within limits: {percent(point.probabilityInTolerance)}
    </div>
  )
}

function evenTicks(from: number, end: number): number[] {
  return Array.from({ length: 6 }, (_, i) => from + ((i + 0.35) * (end - from)) / 6)
}
