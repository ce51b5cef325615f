import { evenTicks, stepDecimals } from '../../components/axis.ts'
import { fixed } from '../../components/format.ts'
import { CHART_MARGIN } from './chartMargin.ts'
import { inRuns } from './runs.ts'
import type { Span } from './useSpan.ts'

const HEIGHT = 120

interface BeneathProps {
  label: string
  unit: string
  decimals: number
  points: readonly { at: number; value: number }[]
  /** Values at which a line is drawn; beyond them somebody is told. */
  limits?: readonly number[]
  /** It is told from nought. */
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
  const plot = { left: CHART_MARGIN.left, right: width - CHART_MARGIN.right, top: 20, bottom: HEIGHT - 8 }
  const values = [...points.map((p) => p.value), ...limits, ...(fromZero ? [0] : [])]
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const pad = Math.max(0.1 * (high - low), 2 * 10 ** -decimals)
  const domain: [number, number] = [low - pad, high + pad]
  const x = (at: number) => plot.left + ((at - span.from) / (span.to - span.from)) * (plot.right - plot.left)
  const y = (value: number) => plot.bottom - ((value - domain[0]) / (domain[1] - domain[0])) * (plot.bottom - plot.top)
  const path = inRuns(points, binMs)
    .map((run) => `M${run.map((p) => `${x(p.at)},${y(p.value)}`).join('L')}`)
    .join('')
  if (points.length === 0) return <p className="pl-[68px] text-sm soft">{label}: nothing in this span.</p>
  return (
    <svg
      viewBox={`0 0 ${width} ${HEIGHT}`}
      className="w-full"
      style={{ height: HEIGHT }}
      role="img"
      aria-label={`${label} over time`}
    >
      <text x={plot.left} y={12} fontSize={13} fill="var(--soft)">
        {label}, {unit}
      </text>
      {fewTicks(domain).map((tick) => (
        <g key={tick}>
          <line x1={plot.left} x2={plot.right} y1={y(tick)} y2={y(tick)} stroke="var(--color-base-300)" />
          <text x={plot.left - 8} y={y(tick) + 4} textAnchor="end" fontSize={13} fill="var(--soft)">
            {fixed(tick, stepDecimals(domain))}
          </text>
        </g>
      ))}
      {fromZero && <line x1={plot.left} x2={plot.right} y1={y(0)} y2={y(0)} stroke="var(--line)" />}
      {limits.map((limit) => (
        <line
          key={limit}
          x1={plot.left}
          x2={plot.right}
          y1={y(limit)}
          y2={y(limit)}
          stroke="var(--color-warning)"
          strokeWidth={1.5}
          strokeDasharray="7 4"
        />
      ))}
      <path d={path} fill="none" stroke="var(--color-base-content)" strokeWidth={1.4} strokeLinejoin="round" />
    </svg>
  )
}
