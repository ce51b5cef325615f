import type { SeriesView } from '@frustum/contract'
import { skipToken } from '@reduxjs/toolkit/query'
import { useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { asRead, plural } from '../../components/format.ts'
import { useSeriesQuery } from '../../store/api.ts'
import { Beneath } from './Beneath.tsx'
import { copyPicture } from './copyPicture.ts'

/** More than so many beside it, and nobody sees which is which. */
const MOST_BESIDE = 3

/** Whose readings are drawn over it or beneath it, kept in the address. */
export function useBesides(): { codes: string[]; turn: (code: string) => void } {
  const [params, setParams] = useSearchParams()
  const codes = (params.get('with') ?? '').split(',').filter(Boolean).slice(0, MOST_BESIDE)
  const turn = (code: string) => {
    const next = codes.includes(code) ? codes.filter((c) => c !== code) : [...codes, code].slice(-MOST_BESIDE)
    setParams(
      (before) => {
        if (next.length === 0) before.delete('with')
        else before.set('with', next.join(','))
        return before
      },
      { replace: true },
    )
  }
  return { codes, turn }
}

/** What those read in the same span, in their order; those that have not answered yet are left out. */
export function useSeriesOf(
  codes: readonly string[],
  asked: Omit<Parameters<typeof useSeriesQuery>[0] & object, 'position'>,
  options: { pollingInterval?: number },
): SeriesView[] {
  const of = (i: number) => {
    const position = codes[i]
    return position ? { ...asked, position, ordinary: false } : skipToken
  }
  // As many as there may be.
  const answers = [useSeriesQuery(of(0), options), useSeriesQuery(of(1), options), useSeriesQuery(of(2), options)]
  return answers.flatMap(({ currentData }) =>
    currentData && codes.includes(currentData.position) ? [currentData] : [],
  )
}

interface Under {
  series: SeriesView
  span: { from: number; to: number }
  width: number
}

/** By how much two of the same water differ, bin by bin, and by how much they may. */
export function Difference({ series, twin, span, width }: Under & { twin: SeriesView }) {
  const { unit, decimals, width: wide } = asRead(series)
  const other = new Map(twin.bins.map((b) => [b.at, b.mean]))
  const points = series.bins.flatMap(({ at, mean }) => {
    const beside = other.get(at)
    return beside === undefined ? [] : [{ at: at + series.binMs / 2, value: wide(mean - beside) }]
  })
  const apart = series.limits?.apart ?? twin.limits?.apart
  return (
    <Beneath
      label={`${series.position} less ${twin.position}`}
      unit={unit}
      decimals={decimals}
      points={points}
      limits={apart === undefined ? [] : [wide(apart), -wide(apart)]}
      fromZero
      binMs={series.binMs}
      span={span}
      width={width}
    />
  )
}

/** Another one of another unit, on the same times. */
export function Other({ series, span, width }: Under) {
  const { unit, decimals, of } = asRead(series)
  return (
    <Beneath
      label={`${series.quantity} of ${series.position}`}
      unit={unit}
      decimals={decimals}
      points={series.bins.map(({ at, mean }) => ({ at: at + series.binMs / 2, value: of(mean) }))}
      limits={[series.limits?.low, series.limits?.high].flatMap((v) => (v === undefined ? [] : [of(v)]))}
      binMs={series.binMs}
      span={span}
      width={width}
    />
  )
}

export function Temperature({ series, span, width }: Under) {
  const { unit, decimals, of } = asRead({ unit: '°C', decimals: 1 })
  const points = series.bins.flatMap(({ at, temperature }) =>
    temperature === null ? [] : [{ at: at + series.binMs / 2, value: of(temperature) }],
  )
  return (
    <Beneath
      label="Temperature"
      unit={unit}
      decimals={decimals}
      points={points}
      binMs={series.binMs}
      span={span}
      width={width}
    />
  )
}

interface BesideProps {
  series: SeriesView
  besides: string[]
  /** What a picture of it is called. */
  title: string
  /** All that can be put beside it. */
  all: readonly { position: string; quantity: string }[]
  warm: boolean
  onTurn: (code: string) => void
  onWarm: () => void
  chart: () => SVGSVGElement | null
}

/** What stands beside it, and ways to take it along. */
export function Beside({ series, besides, title, all, warm, onTurn, onWarm, chart }: BesideProps) {
  const copyData = async () => {
    const rows = series.bins.map((b) => [new Date(b.at).toISOString(), b.min, b.mean, b.max].join('\t'))
    const head = ['time', 'lowest', 'mean', 'highest'].join('\t')
    try {
      await navigator.clipboard.writeText([head, ...rows].join('\n'))
      toast.success(`${plural(rows.length, 'row')} copied.`)
    } catch {
      toast.error('The browser does not let it be copied here. Take the CSV below.')
    }
  }
  const copyChart = async () => {
    const svg = chart()
    if (!svg) return
    const how = await copyPicture(svg, { name: `readings-${series.position}`, title })
    toast.success(how === 'copied' ? 'The picture is copied.' : 'The picture is saved.')
  }
  const others = all.filter(
    ({ position }) => position !== series.position && !series.twins.includes(position) && !besides.includes(position),
  )
  const choice = (on: boolean) => (on ? 'slant slant-strong' : 'slant slant-plain')
  return (
    <p className="no-print flex flex-wrap gap-2 pt-2 pb-4">
      {[...new Set([...series.twins, ...besides])].map((code) => (
        <button
          key={code}
          type="button"
          className={choice(besides.includes(code))}
          aria-pressed={besides.includes(code)}
          onClick={() => onTurn(code)}
        >
          With {code}
        </button>
      ))}
      {others.length > 0 && (
        <select
          aria-label="Put another sensor beside it"
          className="min-h-11 max-w-60 border border-[color:var(--line)] bg-base-100 px-2"
          value=""
          onChange={(e) => onTurn(e.target.value)}
        >
          <option value="">Another sensor…</option>
          {others.map(({ position, quantity }) => (
            <option key={position} value={position}>
              {position}, {quantity}
            </option>
          ))}
        </select>
      )}
      {series.bins.some((b) => b.temperature !== null) && (
        <button type="button" className={choice(warm)} aria-pressed={warm} onClick={onWarm}>
          Temperature
        </button>
      )}
      <button type="button" className="slant slant-plain" onClick={() => void copyChart()}>
        Copy the picture
      </button>
      <button type="button" className="slant slant-plain" onClick={() => void copyData()}>
        Copy the data
      </button>
      <button type="button" className="slant slant-plain" onClick={() => window.print()}>
        Print
      </button>
    </p>
  )
}
