import type { FrustumView } from '@frustum/contract'
import { DAY_MS, expectedError, probabilityInTolerance } from '@frustum/core'
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
import { day, fixed, signed } from '../../parts/format.ts'
import { cone } from '../../parts/frustumShape.ts'

interface LargeFrustumProps {
  figure: FrustumView
  timeZone: string
  now?: number
}

/** The frustum with axes: error against the limits, from the last adjustment to the next date and a little beyond. */
export function LargeFrustum({ figure, timeZone, now = Date.now() }: LargeFrustumProps) {
  const { forecast, policy, next, dots, startsAt } = figure
  const from = Math.min(startsAt, forecast.from)
  const until = Math.max(next.at, now)
  const end = until + 0.12 * (until - from)
  const points = cone(forecast, until, 40).map((p) => ({
    at: p.at,
    mean: p.mean,
    outer: [p.mean - p.outer, p.mean + p.outer],
    inner: [p.mean - p.inner, p.mean + p.inner],
  }))
  const checks = dots.map((d) => ({ at: d.at, error: d.error, bar: d.uncertainty }))
  const reach = Math.max(
    1.45 * policy.tolerance,
    ...points.map((p) => Math.min(3 * policy.tolerance, Math.abs(p.outer[1] ?? 0), Math.abs(p.outer[0] ?? 0))),
  )
  const { unit = 'pH', decimals = 2 } = policy
  const limit = `${fixed(policy.tolerance, decimals)} ${unit}`
  const tick = { fill: 'var(--soft)', fontSize: 13 }
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
            <XAxis
              dataKey="at"
              type="number"
              domain={[from, end]}
              ticks={evenTicks(from, end)}
              tickFormatter={(at: number) => day(at, timeZone)}
              tick={tick}
              stroke="var(--line)"
            />
            <YAxis
              domain={[-reach, reach]}
              ticks={[-policy.tolerance, -policy.tolerance / 2, 0, policy.tolerance / 2, policy.tolerance]}
              tickFormatter={(v: number) => signed(v, decimals + (policy.tolerance < 10 ** (1 - decimals) ? 1 : 0))}
              tick={tick}
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
            <ReferenceLine y={policy.tolerance} {...wall} label={{ value: 'limit', position: 'right', ...tick }} />
            <ReferenceLine y={-policy.tolerance} {...wall} label={{ value: 'limit', position: 'right', ...tick }} />
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
      </figcaption>
    </figure>
  )
}

function Reading({ at, figure, timeZone }: { at: number; figure: FrustumView; timeZone: string }) {
  const days = (at - figure.forecast.from) / DAY_MS
  if (!Number.isFinite(days) || days < 0) return null
  const { mean, sd } = expectedError(figure.forecast, days)
  const within = probabilityInTolerance(figure.forecast, days, figure.policy.tolerance)
  return (
    <div className="border border-base-300 bg-base-100 px-3 py-2 text-sm">
      <strong>{day(at, timeZone)}</strong>
      <br />
      {signed(mean, (figure.policy.decimals ?? 2) + 1)} ± {fixed(1.96 * sd, (figure.policy.decimals ?? 2) + 1)}{' '}
      {figure.policy.unit ?? 'pH'}
      <br />
      within limits: {fixed(100 * within, 0)} %
    </div>
  )
}

function evenTicks(from: number, end: number): number[] {
  return Array.from({ length: 6 }, (_, i) => from + ((i + 0.35) * (end - from)) / 6)
}
