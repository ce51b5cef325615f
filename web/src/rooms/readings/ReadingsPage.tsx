import type { SeriesView } from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import type { AlarmLimits, ReadingState } from '@frustum/core'
import { useEffect, useRef, useState } from 'react'
import { Link, useParams } from 'react-router'
import { asRead, day, dayTime, duration, fixed, plural } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { useRoundsQuery, useSeriesQuery, useSiteQuery } from '../../store/api.ts'
import { useMay } from '../../store/me.ts'
import { Beside, Difference, Other, Temperature, useBesides, useSeriesOf } from './besides.tsx'
import { showsOrdinary } from './chartData.ts'
import { Key } from './Key.tsx'
import { Limits } from './Limits.tsx'
import { DASH_NAMES, ReadingsChart } from './ReadingsChart.tsx'
import { Typed } from './Typed.tsx'
import { limited, panned, SPANS, useSpan, zoomed } from './useSpan.ts'

const REFRESH_MS = 10_000
const NARROWEST = 320

const STATE_WORDS: Partial<Record<ReadingState, string>> = {
  blind: 'no answer',
  'out-of-range': 'out of its range',
}

/** What a sensor read, from the last hour to ten years. */
export function ReadingsPage() {
  const { position = '' } = useParams()
  const { data: site } = useSiteQuery()
  const { span, isLive, show } = useSpan()
  const { width, box } = useWidth()
  const lead = useMay('lead')
  const [setting, setSetting] = useState(false)
  const [drawn, setDrawn] = useState<AlarmLimits | null>(null)
  const [warm, setWarm] = useState(false)
  // One bin at most on two pixels: more cannot be seen.
  const asked = {
    position,
    ...span,
    most: Math.max(50, Math.floor(width / 2)),
    ordinary: setting || showsOrdinary(span),
  }
  const { currentData, data, error, refetch, isFetching } = useSeriesQuery(asked, {
    ...(isLive ? { pollingInterval: REFRESH_MS } : {}),
    refetchOnMountOrArgChange: true,
  })
  const { codes, turn } = useBesides()
  const besides = useSeriesOf(codes, asked, isLive ? { pollingInterval: REFRESH_MS } : {})
  const { data: rounds } = useRoundsQuery()
  const series = currentData ?? (data?.position === position ? data : undefined)
  if (!site) return <Fetching what={position} error={error} onRetry={refetch} />
  const { timeZone } = site
  const over = besides.filter((b) => b.unit === series?.unit)
  return (
    <div className="mx-auto w-full max-w-[1500px] px-5 py-5">
      <p>
        <Link to={`/probes/${position}`} className="inline-flex min-h-11 items-center underline underline-offset-4">
          {position}
        </Link>
      </p>
      <h1 className="text-2xl">Readings of {position}</h1>
      <p className="soft">
        {day(span.from, timeZone)} to {isLive ? 'now' : day(span.to, timeZone)}
        {series && `, ${series.quantity}`}
      </p>
      <div className="no-print flex flex-wrap items-center gap-2 py-3">
        {SPANS.map(([label, length]) => (
          <button
            key={label}
            type="button"
            className={Math.abs(span.to - span.from - length) < 0.02 * length ? 'slant slant-strong' : 'slant'}
            onClick={() => show(limited({ from: span.to - length, to: span.to }))}
          >
            {label}
          </button>
        ))}
        {series?.known && (
          <button
            type="button"
            className="slant"
            onClick={() => series.known && show(limited({ from: series.known.from, to: series.known.to }))}
          >
            All
          </button>
        )}
        <span className="ml-auto flex gap-2">
          <button type="button" className="slant slant-plain" onClick={() => show(panned(span, -0.5))}>
            Earlier
          </button>
          <button type="button" className="slant slant-plain" disabled={isLive} onClick={() => show(panned(span, 0.5))}>
            Later
          </button>
          <button
            type="button"
            className="slant slant-plain"
            aria-label="Closer"
            onClick={() => show(zoomed(span, 0.5, isLive ? 1 : 0.5))}
          >
            +
          </button>
          <button
            type="button"
            className="slant slant-plain"
            aria-label="Further"
            onClick={() => show(zoomed(span, 2, isLive ? 1 : 0.5))}
          >
            −
          </button>
        </span>
      </div>
      <div
        ref={box}
        aria-busy={isFetching && !currentData}
        className={isFetching && !currentData ? 'opacity-60 print:opacity-100' : ''}
      >
        {series ? (
          <ReadingsChart
            series={series}
            span={span}
            timeZone={timeZone}
            width={width}
            limits={setting ? drawn : series.limits}
            over={over}
            onShow={show}
          />
        ) : (
          <Fetching what="the readings" error={error} onRetry={refetch} />
        )}
      </div>
      {series && <Key series={series} over={over} />}
      {series &&
        besides
          .filter((b) => series.twins.includes(b.position))
          .map((b) => <Difference key={b.position} series={series} twin={b} span={span} width={width} />)}
      {besides
        .filter((b) => !over.includes(b))
        .map((b) => (
          <Other key={b.position} series={b} span={span} width={width} />
        ))}
      {series && warm && <Temperature series={series} span={span} width={width} />}
      {series && (
        <Beside
          series={series}
          besides={codes}
          title={[
            `${series.position}, ${series.quantity}`,
            ...over.map((o, i) => `with ${o.position} (${DASH_NAMES[i]})`),
            `${day(span.from, timeZone)} to ${day(span.to, timeZone)}`,
          ].join(', ')}
          all={rounds?.rows ?? []}
          warm={warm}
          onTurn={turn}
          onWarm={() => setWarm(!warm)}
          chart={() => box.current?.querySelector('svg') ?? null}
        />
      )}
      {series && lead && !setting && (
        <button
          type="button"
          className="no-print slant"
          onClick={() => {
            setDrawn(series.limits)
            setSetting(true)
          }}
        >
          {series.limits ? 'Change its alarm limits' : 'Set alarm limits'}
        </button>
      )}
      {series && setting && (
        <Limits
          key={series.position}
          series={series}
          onDraw={setDrawn}
          onDone={() => {
            setSetting(false)
            void refetch()
          }}
        />
      )}
      {series && <Says series={series} timeZone={timeZone} />}
      {series && <Typed series={series} timeZone={timeZone} onChanged={() => void refetch()} />}
      {series && <Files position={position} span={span} />}
    </div>
  )
}

const EVERY = [
  ['readings', 'each reading'],
  ['hours', 'hours'],
  ['days', 'days'],
] as const
const FORMATS = [
  ['csv', 'CSV'],
  ['senml', 'SenML'],
  ['parquet', 'Parquet'],
] as const

/** The span as files, at the resolution that is wanted. */
function Files({ position, span }: { position: string; span: { from: number; to: number } }) {
  const [every, setEvery] = useState<string>('readings')
  return (
    <div className="no-print flex flex-wrap items-center gap-x-5 gap-y-2 pt-4">
      <label className="flex items-center gap-3">
        This span as
        <select
          className="min-h-11 border border-[color:var(--line)] bg-base-100 px-2"
          value={every}
          onChange={(e) => setEvery(e.target.value)}
        >
          {EVERY.map(([value, label]) => (
            <option key={value} value={value}>
              {label}
            </option>
          ))}
        </select>
      </label>
      {FORMATS.map(([format, label]) => (
        <a
          key={format}
          className="inline-flex min-h-11 items-center underline underline-offset-4"
          href={`${addressOf(ENDPOINTS.seriesFile, { position, format })}?from=${Math.round(span.from)}&to=${Math.round(span.to)}&every=${every}`}
        >
          {label}
        </a>
      ))}
    </div>
  )
}

/** What the span comes to, in words, and what happened in it. */
function Says({ series, timeZone }: { series: SeriesView; timeZone: string }) {
  const { unit, decimals, of, width } = asRead(series)
  const { whole, known, visits, events, holds, corrected } = series
  const otherwise = series.otherwise.filter((o) => o.state in STATE_WORDS)
  const value = (v: number) => `${fixed(of(v), decimals)} ${unit}`
  return (
    <div className="grid gap-x-10 gap-y-4 pt-2 md:grid-cols-2">
      <section>
        <h2 className="pb-1 text-base soft">Summary</h2>
        {whole ? (
          <p className="text-lg text-pretty">
            Between <strong>{value(whole.min)}</strong> and <strong>{value(whole.max)}</strong>, on average{' '}
            <strong>{value(whole.mean)}</strong>
            {whole.deviation !== null && ` (standard deviation ${fixed(width(whole.deviation), decimals + 1)})`}, from{' '}
            {plural(whole.good, 'reading')}.
          </p>
        ) : (
          <p className="text-lg">
            No reading in these days.
            {known && ` Those that there are go from ${day(known.from, timeZone)} to ${day(known.to, timeZone)}.`}
          </p>
        )}
        {corrected.map((c) => (
          <p key={c.from} className="pt-1 text-sm">
            <span className="text-success">—</span> Found out of tolerance on {day(c.to, timeZone)}
            {c.points.length > 0 &&
              `; its readings since ${day(c.from, timeZone)} are drawn as they would be without that error`}
            {c.visit && (
              <>
                {'. '}
                <Link to={`/probes/${series.position}/past/${c.visit}`} className="underline underline-offset-4">
                  Raw and corrected
                </Link>
              </>
            )}
          </p>
        ))}
      </section>
      {(visits.length > 0 || events.length > 0 || holds.length > 0 || otherwise.length > 0) && (
        <section>
          <h2 className="pb-1 text-base soft">Events</h2>
          <ul className="space-y-1">
            {visits.slice(-8).map((v) => (
              <li key={v.id}>
                <span className="text-accent">|</span> {dayTime(v.at, timeZone)}{' '}
                <Link to={`/ledger/${v.id}`} className="underline underline-offset-4">
                  {v.name}
                </Link>
              </li>
            ))}
            {events.slice(-8).map((e) => (
              <li key={`${e.at} ${e.label}`}>
                <span className="soft">¦</span> {dayTime(e.at, timeZone)} {e.label}
              </li>
            ))}
            {holds.slice(-8).map((h) => (
              <li key={`hold ${h.from}`} className="soft">
                {dayTime(h.from, timeZone)} outputs held{' '}
                {h.to === null ? 'until now' : `for ${duration((h.to - h.from) / 60_000)}`}
              </li>
            ))}
            {otherwise.slice(-8).map((o) => (
              <li key={`${o.from} ${o.state}`} className="soft">
                {dayTime(o.from, timeZone)} {STATE_WORDS[o.state] ?? o.state}
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  )
}

/** How wide the chart is, CSS pixels. */
function useWidth() {
  const box = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(1000)
  useEffect(() => {
    const element = box.current
    if (!element) return
    const look = () => setWidth(Math.max(NARROWEST, element.clientWidth))
    look()
    const observer = new ResizeObserver(look)
    observer.observe(element)
    return () => observer.disconnect()
  })
  return { width, box }
}
