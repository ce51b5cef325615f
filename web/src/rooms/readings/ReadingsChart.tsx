import type { SeriesView } from '@frustum/contract'
import type { AlarmLimits } from '@frustum/core'
import { createContext, memo, useContext } from 'react'
import { shallowEqual } from 'react-redux'
import { Area, CartesianGrid, ComposedChart, Line, ReferenceArea, ReferenceDot, ReferenceLine, Scatter } from 'recharts'
import { TICK } from '../../components/axis.ts'
import { asRead, celsius, dayTime, fixed } from '../../components/format.ts'
import { centre, domainOf, limitLines, marksOf, nearest, typicalBand, withGaps } from './chartData.ts'
import { Stretches, ToleranceBar, timeAndValueAxes } from './chartLayers.tsx'
import { CHART_MARGIN } from './chartMargin.ts'
import { inRuns } from './runs.ts'
import { useChartGestures } from './useChartGestures.ts'
import type { Span } from './useSpan.ts'

const HEIGHT = 360
/** Lines of others, told apart without colours. */
export const DASHES = ['6 3', '2 3', '11 3 2 3'] as const
export const DASH_NAMES = ['dashed', 'dotted', 'dashes and dots'] as const

const PLAIN = { isAnimationActive: false, activeDot: false, dot: false, type: 'linear' } as const

interface ReadingsChartProps {
  series: SeriesView
  span: Span
  timeZone: string
  width: number
  /** Drawn as lines: those that are watched, or that somebody is about to set. */
  limits: AlarmLimits | null
  /** Others of the same unit, drawn over it. */
  over: readonly SeriesView[]
  onShow: (span: Span) => void
}

/** The reading nearest to the pointer, which moves more often than anything else changes. */
const Nearest = createContext<SeriesView['bins'][number] | null>(null)

/** What a sensor read: the mean of each bin, the band from its lowest to its highest, and what happened. */
export function ReadingsChart({ onShow, ...drawn }: ReadingsChartProps) {
  const { series, span, width, timeZone } = drawn
  const { unit, decimals, of } = asRead(series)
  const { box, under, handlers } = useChartGestures({ span, width, onShow })
  const near = under === null ? null : nearest(series, under)
  return (
    <div className="relative">
      <div
        ref={box}
        className="touch-pan-y select-none"
        role="img"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: arrows, plus and minus move what is shown
        tabIndex={0}
        aria-label={`${series.quantity} of ${series.position} over time. Arrow keys move it, plus and minus zoom.`}
        {...handlers}
      >
        <Nearest value={near}>
          <Plot {...drawn} />
        </Nearest>
      </div>
      <p className="min-h-6 pl-[68px] text-sm" aria-live="off">
        {near ? (
          <>
            <span className="soft">{dayTime(near.at, timeZone)}</span>{' '}
            <strong>
              {fixed(of(near.mean), decimals)} {unit}
            </strong>
            {near.good > 1 &&
              ` (${fixed(of(near.min), decimals)} to ${fixed(of(near.max), decimals)}, ${near.good} readings)`}
            {near.temperature !== null && `, ${celsius(near.temperature)}`}
          </>
        ) : (
          <span className="no-print soft">
            Drag to move, <span className="pointer-coarse:hidden">turn the wheel</span>
            <span className="hidden pointer-coarse:inline">spread two fingers</span> to zoom.
          </span>
        )}
      </p>
    </div>
  )
}

const MARGIN = { ...CHART_MARGIN, left: 0 }

/** Compares by content: spans and lists are new objects on every render of the page. */
const isSame = <T extends object>(a: T, b: T) =>
  (Object.keys(a) as (keyof T)[]).every((key) => shallowEqual(a[key], b[key]))

const Plot = memo(function Plot({ series, span, timeZone, width, limits, over }: Omit<ReadingsChartProps, 'onShow'>) {
  const { unit, decimals, of } = asRead(series)
  const runs = inRuns(series.bins, series.binMs)
  const domain = domainOf(series, of, { span, limits, over })
  const bands = typicalBand(series, span, timeZone).map((b) => ({ ...b, low: of(b.low), high: of(b.high) }))
  const line = (key: string, points: readonly { at: number; value: number }[], looks: object) => (
    <Scatter
      key={key}
      data={points.map((p) => ({ at: p.at, value: of(p.value) }))}
      dataKey="value"
      line={looks}
      shape={() => <g />}
      isAnimationActive={false}
    />
  )
  return (
    <ComposedChart
      width={width}
      height={HEIGHT}
      data={withGaps(runs, series, of)}
      margin={MARGIN}
      accessibilityLayer={false}
    >
      <CartesianGrid vertical={false} syncWithTicks stroke="var(--color-base-300)" />
      {timeAndValueAxes({ span, domain, times: { timeZone, width } })}
      <text x={CHART_MARGIN.left} y={12} fontSize={TICK.fontSize} fill={TICK.fill}>
        {unit}
      </text>
      <Stretches of={bands} fill="var(--color-success)" />
      {limitLines(limits).map(({ key, value, name, grave }) => (
        <ReferenceLine
          key={key}
          y={of(value)}
          stroke={grave ? 'var(--color-error)' : 'var(--color-warning)'}
          strokeWidth={grave ? 2 : 1.5}
          {...(grave ? {} : { strokeDasharray: '7 4' })}
          label={{ ...TICK, value: `${name} ${fixed(of(value), decimals)}`, position: 'insideBottomRight' }}
        />
      ))}
      {marksOf(series, span, domain).map(({ key, ...mark }) => (
        <ReferenceArea key={key} {...mark} ifOverflow="hidden" />
      ))}
      <Area dataKey="band" stroke="none" fill="var(--color-primary)" fillOpacity={0.22} {...PLAIN} />
      <Line dataKey="mean" stroke="var(--color-primary)" strokeWidth={1.8} strokeLinejoin="round" {...PLAIN} />
      {runs
        .filter((run) => run.length === 1)
        .map(
          ([b]) =>
            b && (
              <ReferenceDot key={b.at} x={centre(b.at, series)} y={of(b.mean)} r={2.5} fill="var(--color-primary)" />
            ),
        )}
      {over.flatMap((other, i) =>
        inRuns(other.bins, other.binMs).map((run) =>
          line(
            `${other.position} ${run[0]?.at}`,
            run.map((b) => ({ at: centre(b.at, other), value: b.mean })),
            { stroke: 'var(--color-base-content)', strokeWidth: 1.6, strokeDasharray: DASHES[i] },
          ),
        ),
      )}
      {series.corrected.map((c) =>
        line(`corrected ${c.from}`, c.points, { stroke: 'var(--color-success)', strokeWidth: 2.2 }),
      )}
      {series.visits.map((v) => (
        <ReferenceLine key={v.id} x={v.at} stroke="var(--color-accent)" strokeWidth={1.5} />
      ))}
      {series.events.map((e) => (
        <ReferenceLine key={`${e.at} ${e.label}`} x={e.at} stroke="var(--soft)" strokeDasharray="3 4" />
      ))}
      <AtPointer series={series} />
    </ComposedChart>
  )
}, isSame)

/** The reading at the pointer, and how far the water may be from it or from the last one. */
function AtPointer({ series }: { series: SeriesView }) {
  const { of } = asRead(series)
  const near = useContext(Nearest)
  const barred = near ?? series.bins.at(-1)
  if (!barred) return null
  const at = centre(barred.at, series)
  return (
    <>
      <ToleranceBar at={at} low={of(barred.mean - series.tolerance)} high={of(barred.mean + series.tolerance)} />
      {near && <ReferenceDot x={at} y={of(near.mean)} r={4} fill="var(--color-base-content)" />}
    </>
  )
}
