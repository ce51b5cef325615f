import type { SeriesView } from '@frustum/contract'
import { useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { asRead, plural } from '../../components/format.ts'
import { Beneath } from './Beneath.tsx'
import { copyPicture } from './copyPicture.ts'

/** Whose readings are drawn over it, kept in the address. */
export function useTwin(): [string | null, (code: string | null) => void] {
  const [params, setParams] = useSearchParams()
  const set = (code: string | null) =>
    setParams(
      (before) => {
        if (code === null) before.delete('with')
        else before.set('with', code)
        return before
      },
      { replace: true },
    )
  return [params.get('with'), set]
}

interface Under {
  series: SeriesView
  span: { from: number; to: number }
  width: number
}

/** So many bins without a reading between two are a gap. */
const GAP_BINS = 2.5

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
      gap={GAP_BINS * series.binMs}
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
      gap={GAP_BINS * series.binMs}
      span={span}
      width={width}
    />
  )
}

interface BesideProps {
  series: SeriesView
  twin: string | null
  warm: boolean
  onTwin: (code: string | null) => void
  onWarm: () => void
  chart: () => SVGSVGElement | null
}

/** What stands beside it, and ways to take it along. */
export function Beside({ series, twin, warm, onTwin, onWarm, chart }: BesideProps) {
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
    const how = await copyPicture(svg, `readings-${series.position}`)
    toast.success(how === 'copied' ? 'The picture is copied.' : 'The picture is saved.')
  }
  const choice = (on: boolean) => (on ? 'slant slant-strong' : 'slant slant-plain')
  return (
    <p className="no-print flex flex-wrap gap-2 pt-2 pb-4">
      {series.twins.map((code) => (
        <button
          key={code}
          type="button"
          className={choice(twin === code)}
          aria-pressed={twin === code}
          onClick={() => onTwin(twin === code ? null : code)}
        >
          With {code}
        </button>
      ))}
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
