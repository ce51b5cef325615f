import type { SeriesView } from '@frustum/contract'
import type { ReactNode } from 'react'
import { asRead, fixed } from '../../components/format.ts'
import { DASHES } from './ReadingsChart.tsx'

const line = (stroke: string, dash?: string) => (
  <line x1={0} x2={28} y1={7} y2={7} stroke={stroke} strokeWidth={2} strokeDasharray={dash} />
)

const upright = (stroke: string, dash?: string) => (
  <line x1={14} x2={14} y1={0} y2={14} stroke={stroke} strokeWidth={1.5} strokeDasharray={dash} />
)

/** What is what in the chart: of what is drawn in it only. */
export function Key({ series, over }: { series: SeriesView; over: readonly SeriesView[] }) {
  const { unit, decimals, width } = asRead(series)
  const entries: [string, ReactNode][] = [
    [
      `${series.position}, mean from lowest to highest`,
      <>
        <rect width={28} y={2} height={10} fill="var(--color-primary)" fillOpacity={0.22} />
        {line('var(--color-primary)')}
      </>,
    ],
    ...over.map((o, i): [string, ReactNode] => [o.position, line('var(--color-base-content)', DASHES[i])]),
  ]
  if (series.corrected.some((c) => c.points.length > 1))
    entries.push(['without the error found later', line('var(--color-success)')])
  if (series.visits.length > 0) entries.push(['visit', upright('var(--color-accent)')])
  if (series.events.length > 0) entries.push(['event', upright('var(--soft)', '3 3')])
  if (series.bins.length > 0)
    entries.push([
      `tolerance, ±${fixed(width(series.tolerance), decimals)} ${unit}`,
      <path key="bar" d="M9,1h10M14,1V13M9,13h10" fill="none" stroke="var(--color-base-content)" strokeWidth={1.5} />,
    ])
  if (series.ordinary.length > 0)
    entries.push([
      'its ordinary day: 90 % of 30 days at that hour',
      <rect key="band" width={28} y={1} height={12} fill="var(--color-success)" fillOpacity={0.3} />,
    ])
  if (series.holds.length > 0)
    entries.push(['outputs held', <rect key="hold" width={28} y={4} height={6} fill="var(--color-warning)" />])
  if (series.alarms.length > 0)
    entries.push(['alarm', <rect key="alarm" width={28} y={4} height={6} fill="var(--color-error)" />])
  return (
    <ul className="flex flex-wrap gap-x-5 gap-y-1 pb-3 pl-[68px] text-sm soft" aria-label="What is drawn">
      {entries.map(([label, drawn]) => (
        <li key={label} className="flex items-center gap-2">
          <svg viewBox="0 0 28 14" width={28} height={14} aria-hidden="true">
            {drawn}
          </svg>
          {label}
        </li>
      ))}
    </ul>
  )
}
