import type { FleetRow } from '@frustum/contract'
import { endOrder } from '@frustum/core'
import {
  columnSizingFeature,
  createColumnHelper,
  createSortedRowModel,
  rowSortingFeature,
  sortFn_alphanumeric,
  sortFn_basic,
  sortFn_text,
  tableFeatures,
} from '@tanstack/react-table'
import { Link } from 'react-router'
import { day, fixed, listed, percent } from '../../components/format.ts'
import { SmallFrustum } from '../../components/SmallFrustum.tsx'
import { StateMark } from '../../components/StateMark.tsx'

/** What the table of the fleet can do. */
export const FLEET_FEATURES = tableFeatures({
  columnSizingFeature,
  rowSortingFeature,
  sortedRowModel: createSortedRowModel(),
  sortFns: { alphanumeric: sortFn_alphanumeric, basic: sortFn_basic, text: sortFn_text },
})
export type FleetFeatures = typeof FLEET_FEATURES

const column = createColumnHelper<FleetFeatures, FleetRow>()
const ORDER = ['alarm', 'out', 'overdue', 'due', 'out soon', 'suspect', 'drifting', 'resting', 'blind', 'holding']

/** Sorted by what is worst; the unknown comes last, whichever way one sorts. */
const last = { sortUndefined: 'last' as const }

export function fleetColumns(timeZone: string) {
  const date = (at: number | null | undefined) => (at ? day(at, timeZone) : '–')
  return column.columns([
    column.accessor('position', {
      header: 'Probe',
      size: 145,
      cell: ({ row: { original: r } }) => (
        <Link to={`/probes/${r.position}`} className="group block min-h-11 content-center">
          <span className="font-bold group-hover:underline">{r.position}</span>
          <span className="block truncate text-sm soft">{listed(r.quantity, r.place, r.spot)}</span>
        </Link>
      ),
    }),
    column.accessor((r) => ORDER.indexOf(r.state), {
      id: 'state',
      header: 'State',
      size: 98,
      cell: ({ row }) => <StateMark state={row.original.state} />,
    }),
    column.accessor((r) => r.figure.outside, {
      id: 'figure',
      header: 'Error and limits',
      size: 136,
      sortDescFirst: true,
      cell: ({ row }) => <SmallFrustum figure={row.original.figure} />,
    }),
    column.accessor((r) => r.slope ?? undefined, {
      id: 'slope',
      header: 'Slope, %',
      size: 64,
      ...last,
      cell: (c) => <Number1 value={c.getValue()} />,
    }),
    column.accessor((r) => r.zero ?? undefined, {
      id: 'zero',
      header: 'Zero, mV',
      size: 70,
      ...last,
      cell: (c) => <Number1 value={c.getValue()} />,
    }),
    column.accessor((r) => r.reference ?? undefined, {
      id: 'reference',
      header: 'Reference',
      size: 80,
      ...last,
      cell: (c) => {
        const word = c.getValue()
        const tone = word === 'failing' ? 'font-bold text-error' : word === 'moving' ? 'text-warning' : 'soft'
        return <span className={tone}>{word ?? '–'}</span>
      },
    }),
    column.accessor((r) => (r.trouble ? r.trouble.probability : undefined), {
      id: 'trouble',
      header: 'Likely',
      size: 130,
      sortDescFirst: true,
      ...last,
      cell: ({ row: { original: r } }) =>
        r.trouble ? (
          <span>
            {r.trouble.name} <span className="font-mono text-sm soft">{percent(r.trouble.probability)}</span>
          </span>
        ) : (
          <span className="soft">nothing wrong</span>
        ),
    }),
    column.accessor((r) => r.figure.next.at, {
      id: 'next',
      header: 'Next date',
      size: 84,
      cell: (c) => date(c.getValue()),
    }),
    column.accessor((r) => (r.end ? endOrder(r.end) : undefined), {
      id: 'end',
      header: 'End of life',
      size: 136,
      ...last,
      cell: ({ row: { original: r } }) =>
        r.end ? (
          <span>
            {r.end.byCause ? 'now, likely' : date(r.end.at ?? r.end.earliest)}
            <span className="block text-sm soft">
              {r.end.name}
              {r.end.at === null && ', earliest'}
              {r.orderBy !== null && `; order by ${date(r.orderBy)}`}
            </span>
          </span>
        ) : (
          <span className="soft">beyond the data</span>
        ),
    }),
  ])
}

const Number1 = ({ value }: { value: number | undefined }) => (
  <span className="font-mono">{value === undefined ? '–' : fixed(value, 1)}</span>
)
