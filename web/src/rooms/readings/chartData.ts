import { TZDate } from '@date-fns/tz'
import type { SeriesView } from '@frustum/contract'
import type { AlarmLimits } from '@frustum/core'
import type { Span } from './useSpan.ts'

const HOUR_MS = 3_600_000

type Bin = SeriesView['bins'][number]
type Reads = (value: number) => number

/** A bin is drawn in its middle. */
export const centre = (at: number, { binMs }: Pick<SeriesView, 'binMs'>) => at + binMs / 2

/** Rows of a chart, with one that is empty between two runs: no line is drawn across it. */
export function withGaps(runs: readonly (readonly Bin[])[], series: SeriesView, of: Reads) {
  return runs.flatMap((run) => [
    ...run.map((b) => ({ at: centre(b.at, series), mean: of(b.mean), band: [of(b.min), of(b.max)] })),
    { at: centre(run.at(-1)?.at ?? 0, series) + 1, mean: null, band: null },
  ])
}

export const limitLines = (limits: AlarmLimits | null) =>
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

/** Share of the height of a mark at the edge. */
const EDGE = 0.02

/** Stretches of time in which something was the case: alarms along the top, holds along the bottom, the rest in full height. */
export function marksOf({ alarms, holds, otherwise, visits }: SeriesView, span: Span, [low, high]: [number, number]) {
  const edge = EDGE * (high - low)
  const within = (at: number) => Math.min(span.to, Math.max(span.from, at))
  // Never too narrow to be seen.
  const least = 0.003 * (span.to - span.from)
  const mark = (key: string, from: number, to: number | null, looks: object) => ({
    key,
    x1: within(from),
    x2: within(Math.max(to ?? span.to, from + least)),
    ...looks,
  })
  return [
    ...alarms.map((a) =>
      mark(`alarm ${a.id}`, a.from, a.to, { y1: high - edge, y2: high, fill: 'var(--color-error)', fillOpacity: 1 }),
    ),
    ...holds.map((h) =>
      mark(`hold ${h.from}`, h.from, h.to, { y1: low, y2: low + edge, fill: 'var(--color-warning)', fillOpacity: 1 }),
    ),
    ...otherwise
      .filter(({ state }) => state !== 'held' && state !== 'in-visit')
      .map((o) =>
        mark(`${o.state} ${o.from}`, o.from, o.to, {
          fill: o.state === 'blind' ? 'var(--color-error)' : 'var(--soft)',
          fillOpacity: 0.12,
        }),
      ),
    ...visits.map((v) => mark(`visit ${v.id}`, v.at, v.to, { fill: 'var(--color-accent)', fillOpacity: 0.12 })),
  ]
}

export function domainOf(
  series: SeriesView,
  of: Reads,
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

export const nearest = (series: SeriesView, at: number) =>
  series.bins.reduce<Bin | null>(
    (best, bin) =>
      best === null || Math.abs(centre(bin.at, series) - at) < Math.abs(centre(best.at, series) - at) ? bin : best,
    null,
  )

/** Over longer spans the hours of a day are too narrow to be seen. */
export const showsOrdinary = ({ from, to }: Span) => to - from <= 15 * 24 * HOUR_MS

/** The band of the typical day, hour by hour. */
export function typicalBand({ ordinary }: SeriesView, span: Span, timeZone: string) {
  if (!showsOrdinary(span) || ordinary.length === 0) return []
  const bands: { from: number; to: number; low: number; high: number }[] = []
  for (let from = Math.floor(span.from / HOUR_MS) * HOUR_MS; from < span.to; from += HOUR_MS) {
    const hour = new TZDate(from, timeZone).getHours()
    const usual = ordinary.find((o) => o.hour === hour)
    if (usual) bands.push({ from, to: from + HOUR_MS, low: usual.low, high: usual.high })
  }
  return bands
}
