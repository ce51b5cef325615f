import { usePlotArea, useXAxisScale, useYAxisScale, XAxis, YAxis } from 'recharts'
import { evenTicks, stepDecimals, TICK } from '../../components/axis.ts'
import { fixed } from '../../components/format.ts'
import { CHART_MARGIN, TIME_HEIGHT } from './chartMargin.ts'
import { timeTicks } from './timeTicks.ts'
import type { Span } from './useSpan.ts'

/** What recharts has no part for, drawn on its scales. */

interface AxesOf {
  span: Span
  domain: [number, number]
  ticks?: readonly number[]
  /** Times are below the lowest chart only. */
  times?: { timeZone: string; width: number }
}

/** The axes that charts over the same times have in common. */
export function timeAndValueAxes({ span, domain, ticks = evenTicks(domain), times }: AxesOf) {
  const labelled = times ? timeTicks(span, times.timeZone, Math.max(2, Math.floor(times.width / 130))) : []
  const labels = new Map(labelled.map(({ at, label }) => [at, label]))
  return [
    <XAxis
      key="x"
      dataKey="at"
      type="number"
      domain={[span.from, span.to]}
      allowDataOverflow
      ticks={[...labels.keys()]}
      tickFormatter={(at: number) => labels.get(at) ?? ''}
      tick={TICK}
      interval={0}
      height={TIME_HEIGHT}
      stroke="var(--line)"
      hide={!times}
    />,
    <YAxis
      key="y"
      type="number"
      domain={domain}
      allowDataOverflow
      ticks={[...ticks]}
      tickFormatter={(value: number) => fixed(value, stepDecimals(domain))}
      tick={TICK}
      interval={0}
      width={CHART_MARGIN.left}
      axisLine={false}
      tickLine={false}
    />,
  ]
}

/** Stretches between two values each, as one shape. */
export function Stretches({
  of,
  fill,
}: {
  of: readonly { from: number; to: number; low: number; high: number }[]
  fill: string
}) {
  const [x, y, plot] = [useXAxisScale(), useYAxisScale(), usePlotArea()]
  if (!x || !y || !plot) return null
  const within = (at: number) => Math.min(plot.x + plot.width, Math.max(plot.x, x(at) ?? 0))
  const shape = of.map(
    ({ from, to, low, high }) => `M${within(from)},${y(high)}H${within(to)}V${y(low)}H${within(from)}Z`,
  )
  return <path d={shape.join('')} fill={fill} fillOpacity={0.14} />
}

const CAP = 5

/** An upright bar with a cap at either end: how far the water may be from a reading. */
export function ToleranceBar({ at, low, high }: { at: number; low: number; high: number }) {
  const [x, y, plot] = [useXAxisScale(), useYAxisScale(), usePlotArea()]
  if (!x || !y || !plot) return null
  const left = Math.min(plot.x + plot.width - CAP - 1, x(at) ?? 0)
  const ends = [y(low) ?? 0, y(high) ?? 0]
  const within = (end: number) => Math.min(plot.y + plot.height, Math.max(plot.y, end))
  const caps = ends.filter((end) => end === within(end)).map((end) => `M${left - CAP},${end}h${2 * CAP}`)
  return (
    <path
      d={`M${left},${ends.map(within).join('V')}${caps.join('')}`}
      fill="none"
      stroke="var(--color-base-content)"
      strokeWidth={1.5}
    />
  )
}
