import { CartesianGrid, Line, LineChart, ReferenceLine } from 'recharts'
import { evenTicks, TICK } from '../../components/axis.ts'
import { timeAndValueAxes } from './chartLayers.tsx'
import { CHART_MARGIN } from './chartMargin.ts'
import { inRuns } from './runs.ts'
import type { Span } from './useSpan.ts'

const HEIGHT = 120

interface BeneathProps {
  label: string
  unit: string
  decimals: number
  points: readonly { at: number; value: number }[]
  /** Values at which a line is drawn; an alarm is raised beyond them. */
  limits?: readonly number[]
  fromZero?: boolean
  /** How wide the bin of a point is, ms. */
  binMs: number
  span: Span
  width: number
}

const MOST_TICKS = 4

/** Half as many where they would touch. */
function fewTicks(domain: [number, number]): number[] {
  const all = evenTicks(domain)
  return all.length <= MOST_TICKS ? all : all.filter((_, i) => i % 2 === 0)
}

/** A second figure beneath the readings, on the same times. */
export function Beneath({ label, unit, decimals, points, limits = [], fromZero, binMs, span, width }: BeneathProps) {
  const values = [...points.map((p) => p.value), ...limits, ...(fromZero ? [0] : [])]
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const pad = Math.max(0.1 * (high - low), 2 * 10 ** -decimals)
  const domain: [number, number] = [low - pad, high + pad]
  if (points.length === 0) return <p className="pl-[68px] text-sm soft">{label}: nothing in this span.</p>
  const rows = inRuns(points, binMs).flatMap((run) => [...run, { at: (run.at(-1)?.at ?? 0) + 1, value: null }])
  return (
    <div role="img" aria-label={`${label} over time`}>
      <LineChart
        width={width}
        height={HEIGHT}
        data={rows}
        margin={{ ...CHART_MARGIN, left: 0, top: 20, bottom: 8 }}
        accessibilityLayer={false}
      >
        <text x={CHART_MARGIN.left} y={12} fontSize={TICK.fontSize} fill={TICK.fill}>
          {label}, {unit}
        </text>
        <CartesianGrid vertical={false} syncWithTicks stroke="var(--color-base-300)" />
        {timeAndValueAxes({ span, domain, ticks: fewTicks(domain) })}
        {fromZero && <ReferenceLine y={0} stroke="var(--line)" />}
        {limits.map((limit) => (
          <ReferenceLine key={limit} y={limit} stroke="var(--color-warning)" strokeWidth={1.5} strokeDasharray="7 4" />
        ))}
        <Line
          dataKey="value"
          type="linear"
          stroke="var(--color-base-content)"
          strokeWidth={1.4}
          strokeLinejoin="round"
          dot={false}
          activeDot={false}
          isAnimationActive={false}
        />
      </LineChart>
    </div>
  )
}
