import { TZDate } from '@date-fns/tz'
import type { SeriesView } from '@frustum/contract'
import type { AlarmLimits } from '@frustum/core'
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from 'react'
import { evenTicks, stepDecimals } from '../../components/axis.ts'
import { asRead, celsius, dayTime, fixed } from '../../components/format.ts'
import { CHART_MARGIN } from './chartMargin.ts'
import { inRuns } from './runs.ts'
import { timeTicks } from './timeTicks.ts'
import { panned, type Span, zoomed } from './useSpan.ts'

const HEIGHT = 360
const ZOOM = 1.35
/** Lines of others, told apart without colours. */
export const DASHES = ['6 3', '2 3', '11 3 2 3'] as const
export const DASH_NAMES = ['dashed', 'dotted', 'dashes and dots'] as const
const HOUR_MS = 3_600_000

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

/** What a sensor read: the mean of each bin, the band from its lowest to its highest, and what happened. */
export function ReadingsChart({ series, span, timeZone, width, limits, over, onShow }: ReadingsChartProps) {
  const { unit, decimals, of } = asRead(series)
  const plot = {
    left: CHART_MARGIN.left,
    right: width - CHART_MARGIN.right,
    top: CHART_MARGIN.top,
    bottom: HEIGHT - CHART_MARGIN.bottom,
  }
  const x = (at: number) => plot.left + ((at - span.from) / (span.to - span.from)) * (plot.right - plot.left)
  const domain = domainOf(series, of, { span, limits, over })
  const y = (value: number) => plot.bottom - ((value - domain[0]) / (domain[1] - domain[0])) * (plot.bottom - plot.top)
  const [under, setUnder] = useState<number | null>(null)
  const box = useRef<SVGSVGElement>(null)
  const drag = useRef<{ at: number; span: Span } | null>(null)
  /** Fingers on it, by where they are. */
  const fingers = useRef(new Map<number, number>())
  const moved = useRef({ span, onShow })
  moved.current = { span, onShow }
  useEffect(() => {
    const svg = box.current
    // React listens to wheels passively, and the page would scroll.
    const turn = (event: WheelEvent) => {
      event.preventDefault()
      const { left, width: wide } = (svg as SVGSVGElement).getBoundingClientRect()
      const about = Math.min(1, Math.max(0, (event.clientX - left) / wide))
      const now = moved.current
      now.onShow(zoomed(now.span, event.deltaY > 0 ? ZOOM : 1 / ZOOM, about))
    }
    svg?.addEventListener('wheel', turn, { passive: false })
    return () => svg?.removeEventListener('wheel', turn)
  }, [])
  const atOf = (event: PointerEvent) => {
    const { left, width: wide } = (box.current as SVGSVGElement).getBoundingClientRect()
    const px = ((event.clientX - left) / wide) * width
    return span.from + ((px - plot.left) / (plot.right - plot.left)) * (span.to - span.from)
  }
  const press = (event: KeyboardEvent) => {
    const next = spanAfter(event.key, span)
    if (!next) return
    event.preventDefault()
    onShow(next)
  }
  const near = under === null ? null : nearest(series, under)
  const runs = inRuns(series.bins, series.binMs)
  const { tolerance } = series
  // How far the water may be from what is read, where one looks, or at the end.
  const barred = near ?? series.bins.at(-1)
  return (
    <div className="relative">
      <svg
        ref={box}
        viewBox={`0 0 ${width} ${HEIGHT}`}
        className="w-full touch-pan-y select-none"
        style={{ height: HEIGHT }}
        role="img"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: arrows, plus and minus move what is looked at
        tabIndex={0}
        aria-label={`${series.quantity} of ${series.position} over time. Arrow keys move it, plus and minus zoom.`}
        onKeyDown={press}
        onPointerDown={(event) => {
          fingers.current.set(event.pointerId, event.clientX)
          drag.current = { at: atOf(event), span }
          event.currentTarget.setPointerCapture(event.pointerId)
        }}
        onPointerMove={(event) => {
          const closer = pinched(fingers.current, event)
          if (closer !== null) return onShow(zoomed(span, closer, 0.5))
          if (!drag.current) return setUnder(atOf(event))
          const by = drag.current.at - atOf(event)
          const { from, to } = drag.current.span
          if (Math.abs(by) > 0) onShow(panned({ from, to }, by / (to - from)))
          drag.current = { at: atOf(event) + by, span: drag.current.span }
        }}
        onPointerUp={(event) => {
          fingers.current.delete(event.pointerId)
          drag.current = null
        }}
        onPointerCancel={(event) => {
          fingers.current.delete(event.pointerId)
          drag.current = null
        }}
        onPointerLeave={() => setUnder(null)}
      >
        <clipPath id="plot">
          <rect x={plot.left} y={0} width={plot.right - plot.left} height={plot.bottom} />
        </clipPath>
        {evenTicks(domain).map((tick) => (
          <g key={tick}>
            <line x1={plot.left} x2={plot.right} y1={y(tick)} y2={y(tick)} stroke="var(--color-base-300)" />
            <text x={plot.left - 8} y={y(tick) + 4} textAnchor="end" fontSize={13} fill="var(--soft)">
              {fixed(tick, stepDecimals(domain))}
            </text>
          </g>
        ))}
        {timeTicks(span, timeZone, Math.max(2, Math.floor(width / 130))).map(({ at, label }) => (
          <g key={at}>
            <line x1={x(at)} x2={x(at)} y1={plot.bottom} y2={plot.bottom + 5} stroke="var(--line)" />
            <text x={x(at)} y={HEIGHT - 8} textAnchor="middle" fontSize={13} fill="var(--soft)">
              {label}
            </text>
          </g>
        ))}
        <text x={plot.left} y={12} fontSize={13} fill="var(--soft)">
          {unit}
        </text>
        <g clipPath="url(#plot)">
          {ordinaryBands(series, span, timeZone).map(({ from, to, low, high }) => (
            <rect
              key={from}
              x={x(from)}
              width={Math.max(0.5, x(to) - x(from))}
              y={y(of(high))}
              height={Math.max(0, y(of(low)) - y(of(high)))}
              fill="var(--color-success)"
              fillOpacity={0.14}
            />
          ))}
          {limitLines(limits).map(({ key, value, grave }) => (
            <line
              key={key}
              x1={plot.left}
              x2={plot.right}
              y1={y(of(value))}
              y2={y(of(value))}
              stroke={grave ? 'var(--color-error)' : 'var(--color-warning)'}
              strokeWidth={grave ? 2 : 1.5}
              strokeDasharray={grave ? undefined : '7 4'}
            />
          ))}
          {series.alarms.map((a) => (
            <rect
              key={a.id}
              x={x(a.from)}
              width={Math.max(3, x(a.to ?? span.to) - x(a.from))}
              y={plot.top - 8}
              height={6}
              fill="var(--color-error)"
            />
          ))}
          {series.holds.map((h) => (
            <rect
              key={`hold ${h.from}`}
              x={x(h.from)}
              width={Math.max(3, x(h.to ?? span.to) - x(h.from))}
              y={plot.bottom - 6}
              height={6}
              fill="var(--color-warning)"
            />
          ))}
          {series.otherwise.filter(isOfItself).map((o) => (
            <rect
              key={`${o.from} ${o.state}`}
              x={x(o.from) - 1}
              width={Math.max(3, x(o.to) - x(o.from) + 2)}
              y={plot.top}
              height={plot.bottom - plot.top}
              fill={o.state === 'blind' ? 'var(--color-error)' : 'var(--soft)'}
              fillOpacity={0.12}
            />
          ))}
          {runs.map((run) => (
            <g key={run[0]?.at}>
              <path
                d={`M${[...run.map((b) => `${x(centre(b.at, series))},${y(of(b.max))}`), ...run.map((b) => `${x(centre(b.at, series))},${y(of(b.min))}`).reverse()].join('L')}Z`}
                fill="var(--color-primary)"
                fillOpacity={0.22}
              />
              {run.length === 1 ? (
                <circle
                  cx={x(centre(run[0]?.at ?? 0, series))}
                  cy={y(of(run[0]?.mean ?? 0))}
                  r={2.5}
                  fill="var(--color-primary)"
                />
              ) : (
                <path
                  d={`M${run.map((b) => `${x(centre(b.at, series))},${y(of(b.mean))}`).join('L')}`}
                  fill="none"
                  stroke="var(--color-primary)"
                  strokeWidth={1.8}
                  strokeLinejoin="round"
                />
              )}
            </g>
          ))}
          {over.flatMap((other, i) =>
            inRuns(other.bins, other.binMs).map((run) => (
              <path
                key={`${other.position} ${run[0]?.at}`}
                d={`M${run.map((b) => `${x(centre(b.at, other))},${y(of(b.mean))}`).join('L')}`}
                fill="none"
                stroke="var(--color-base-content)"
                strokeWidth={1.6}
                strokeDasharray={DASHES[i]}
              />
            )),
          )}
          {series.corrected.map((c) => (
            <path
              key={`corrected ${c.from}`}
              d={c.points.length > 1 ? `M${c.points.map((p) => `${x(p.at)},${y(of(p.value))}`).join('L')}` : ''}
              fill="none"
              stroke="var(--color-success)"
              strokeWidth={2.2}
            />
          ))}
          {series.visits.map((v) => (
            <rect
              key={`${v.id} long`}
              x={x(v.at)}
              width={Math.max(0, x(v.to ?? span.to) - x(v.at))}
              y={plot.top}
              height={plot.bottom - plot.top}
              fill="var(--color-accent)"
              fillOpacity={0.12}
            />
          ))}
          {series.visits.map((v) => (
            <line
              key={v.id}
              x1={x(v.at)}
              x2={x(v.at)}
              y1={plot.top}
              y2={plot.bottom}
              stroke="var(--color-accent)"
              strokeWidth={1.5}
            />
          ))}
          {series.events.map((e) => (
            <line
              key={`${e.at} ${e.label}`}
              x1={x(e.at)}
              x2={x(e.at)}
              y1={plot.top}
              y2={plot.bottom}
              stroke="var(--soft)"
              strokeDasharray="3 4"
            />
          ))}
          {barred && (
            <path
              d={toleranceBar(
                Math.min(plot.right - CAP - 1, x(centre(barred.at, series))),
                y(of(barred.mean - tolerance)),
                y(of(barred.mean + tolerance)),
              )}
              fill="none"
              stroke="var(--color-base-content)"
              strokeWidth={1.5}
            />
          )}
          {near && (
            <circle cx={x(centre(near.at, series))} cy={y(of(near.mean))} r={4} fill="var(--color-base-content)" />
          )}
        </g>
        <line x1={plot.left} x2={plot.right} y1={plot.bottom} y2={plot.bottom} stroke="var(--line)" />
        {limitLines(limits).map(({ key, value, name }) => {
          const at = y(of(value))
          return at < plot.top || at > plot.bottom ? null : (
            <text key={key} x={plot.right - 4} y={at - 4} textAnchor="end" fontSize={12} fill="var(--soft)">
              {name} {fixed(of(value), decimals)}
            </text>
          )
        })}
      </svg>
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

/** By how much two fingers moved together, or apart: below 1 for closer; null for one finger. */
function pinched(fingers: Map<number, number>, { pointerId, clientX }: PointerEvent): number | null {
  if (!fingers.has(pointerId)) return null
  const apart = () => {
    const [a, b] = [...fingers.values()]
    return a === undefined || b === undefined ? null : Math.max(20, Math.abs(a - b))
  }
  const before = apart()
  fingers.set(pointerId, clientX)
  const now = apart()
  return before === null || now === null ? null : before / now
}

/** Where a key leads; null for all others. */
function spanAfter(key: string, span: Span): Span | null {
  switch (key) {
    case 'ArrowLeft':
      return panned(span, -0.25)
    case 'ArrowRight':
      return panned(span, 0.25)
    case '+':
      return zoomed(span, 1 / ZOOM, 0.5)
    case '-':
      return zoomed(span, ZOOM, 0.5)
    default:
      return null
  }
}

const limitLines = (limits: AlarmLimits | null) =>
  (
    [
      ['lowLow', 'lowest', true],
      ['low', 'low', false],
      ['high', 'high', false],
      ['highHigh', 'highest', true],
    ] as const
  ).flatMap(([key, name, grave]) => {
    const value = limits?.[key]
    return value === undefined ? [] : [{ key, value, name, grave }]
  })

/** Visits and holds have records of their own. */
const isOfItself = ({ state }: SeriesView['otherwise'][number]) => state !== 'held' && state !== 'in-visit'

const CAP = 5

/** An upright bar with a cap at either end. */
const toleranceBar = (at: number, low: number, high: number) =>
  `M${at - CAP},${low}h${2 * CAP}M${at},${low}V${high}M${at - CAP},${high}h${2 * CAP}`

/** A bin stands in its middle. */
const centre = (at: number, { binMs }: SeriesView) => at + binMs / 2

function domainOf(
  series: SeriesView,
  of: (value: number) => number,
  { span, limits, over }: { span: Span; limits: AlarmLimits | null; over: readonly SeriesView[] },
): [number, number] {
  const seen = [
    ...series.bins.flatMap((b) => [of(b.min), of(b.max)]),
    ...over.flatMap((o) => o.bins.map((b) => of(b.mean))),
    ...series.corrected.flatMap((c) => c.points.map((p) => of(p.value))),
  ]
  const usual = showsOrdinary(span) ? series.ordinary.flatMap((o) => [of(o.low), of(o.high)]) : []
  // What wants a look is in sight; what is far beyond it only where readings are.
  const near = [limits?.low, limits?.high].flatMap((v) => (v === undefined ? [] : of(v)))
  const all = seen.length > 0 ? [...seen, ...usual, ...near] : [of(series.process), ...near]
  const [low, high] = [Math.min(...all), Math.max(...all)]
  const least = 20 * 10 ** -series.decimals
  const pad = Math.max(0.08 * (high - low), (least - (high - low)) / 2)
  return [low - pad, high + pad]
}

const nearest = (series: SeriesView, at: number) =>
  series.bins.reduce<SeriesView['bins'][number] | null>(
    (best, bin) =>
      best === null || Math.abs(centre(bin.at, series) - at) < Math.abs(centre(best.at, series) - at) ? bin : best,
    null,
  )

/** Over longer spans the hours of a day are too narrow to be seen. */
export const showsOrdinary = ({ from, to }: Span) => to - from <= 15 * 24 * HOUR_MS

/** The band of the ordinary day, hour by hour. */
function ordinaryBands({ ordinary }: SeriesView, span: Span, timeZone: string) {
  if (!showsOrdinary(span) || ordinary.length === 0) return []
  const bands: { from: number; to: number; low: number; high: number }[] = []
  for (let from = Math.floor(span.from / HOUR_MS) * HOUR_MS; from < span.to; from += HOUR_MS) {
    const hour = new TZDate(from, timeZone).getHours()
    const usual = ordinary.find((o) => o.hour === hour)
    if (usual) bands.push({ from, to: from + HOUR_MS, low: usual.low, high: usual.high })
  }
  return bands
}
