import type { FleetRow } from '@frustum/contract'
import { FlexRender, type Row, type SortingState, useTable } from '@tanstack/react-table'
import { useVirtualizer } from '@tanstack/react-virtual'
import { ArrowDown, ArrowUp } from 'lucide-react'
import { memo, useCallback, useDeferredValue, useMemo, useRef, useState } from 'react'
import { Link } from 'react-router'
import { Begin } from '../../components/Begin.tsx'
import { plural } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { Unfit } from '../../components/Unfit.tsx'
import { useFleetQuery, useSiteQuery } from '../../store/api.ts'
import { FLEET_FEATURES, type FleetFeatures, fleetColumns } from './fleetColumns.tsx'
import { type FleetLook, OUR_VIEWS, savedViews, saveView } from './savedViews.ts'

const ROW_HEIGHT = 72
const MOST_COMPARED = 4

const matches = (r: FleetRow, words: string[]) => {
  const text = [r.position, r.place, r.spot, r.quantity, r.state, r.reference, r.trouble?.name, r.serialNumber]
    .join(' ')
    .toLowerCase()
  return words.every((w) => text.includes(w))
}

/** The fleet as a table: how each probe ages, what is likely wrong, when it is next and when it ends. */
export function ProbesRoom() {
  const { data, error, refetch } = useFleetQuery(undefined, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  const [look, setLook] = useState<Omit<FleetLook, 'name'>>(OUR_VIEWS[0] as FleetLook)
  const [views, setViews] = useState(savedViews)
  const [compared, setCompared] = useState<readonly string[]>([])
  // What is typed or pressed shows at once; the table follows when it is ready.
  const later = useDeferredValue(look)
  const sort = useCallback((sorting: SortingState) => setLook((l) => ({ ...l, sorting })), [])
  const toggle = useCallback(
    (position: string) =>
      setCompared((c) =>
        c.includes(position) ? c.filter((p) => p !== position) : [...c, position].slice(-MOST_COMPARED),
      ),
    [],
  )
  if (!data || !site) return <Fetching what="the probes" error={error} onRetry={refetch} />
  if (data.rows.length + data.unfit.length === 0) {
    return (
      <Begin room="Probes">
        Here stands how each sensor ages: its drift, glass and reference, when it leaves its limits, and when it is
        spent. It begins with the first visit at a sensor.
      </Begin>
    )
  }
  return (
    <div className="flex w-full min-w-0 flex-1 flex-col px-4 py-5 sm:px-6">
      <header className="flex flex-wrap items-end gap-x-6 gap-y-3 pb-4">
        <h1 className="text-2xl">Probes</h1>
        <label className="flex items-center gap-2">
          <span className="soft">Find</span>
          <input
            className="h-11 w-56 border border-[color:var(--line)] bg-base-100 px-3"
            value={look.filter}
            placeholder="place, state, cause …"
            onChange={(e) => setLook({ ...look, filter: e.target.value })}
          />
        </label>
        {data.confirmed.count > 0 && (
          <p className="soft" data-testid="hit-rate">
            Of {plural(data.confirmed.count, 'confirmed cause')} the diagnosis had named {data.confirmed.first} first,{' '}
            {data.confirmed.firstTwo} among its first two.
          </p>
        )}
        <Views views={views} look={look} onLook={setLook} onSave={(name) => setViews(saveView({ ...look, name }))} />
        {compared.length > 1 && (
          <Link to={`/probes/compare?of=${compared.map(encodeURIComponent).join(',')}`} className="slant slant-strong">
            Compare {compared.length}
          </Link>
        )}
      </header>
      <Unfit sensors={data.unfit} />
      <FleetTable
        rows={data.rows}
        timeZone={site.timeZone}
        look={later}
        onSorting={sort}
        compared={compared}
        onCompare={toggle}
      />
    </div>
  )
}

interface ViewsProps {
  views: readonly FleetLook[]
  look: Omit<FleetLook, 'name'>
  onLook: (look: Omit<FleetLook, 'name'>) => void
  onSave: (name: string) => void
}

function Views({ views, look, onLook, onSave }: ViewsProps) {
  const [name, setName] = useState<string | null>(null)
  const here = (v: FleetLook) => v.filter === look.filter && JSON.stringify(v.sorting) === JSON.stringify(look.sorting)
  const save = () => {
    if (name?.trim()) onSave(name.trim())
    setName(null)
  }
  return (
    <div className="flex flex-wrap items-center gap-2">
      {[...OUR_VIEWS, ...views].map((v) => (
        <button
          key={v.name}
          type="button"
          aria-pressed={here(v)}
          className={`slant px-4 ${here(v) ? '' : 'slant-plain'}`}
          onClick={() => onLook({ filter: v.filter, sorting: v.sorting })}
        >
          {v.name}
        </button>
      ))}
      {name === null ? (
        <button type="button" className="min-h-11 px-2 underline underline-offset-4" onClick={() => setName('')}>
          Save view
        </button>
      ) : (
        <form
          className="flex items-center gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            save()
          }}
        >
          <input
            className="h-11 w-40 border border-[color:var(--line)] bg-base-100 px-3"
            aria-label="Name of the view"
            value={name}
            maxLength={40}
            // biome-ignore lint/a11y/noAutofocus: it was opened to type the name
            autoFocus
            onChange={(e) => setName(e.target.value)}
          />
          <button type="submit" className="slant px-4">
            Keep
          </button>
        </form>
      )}
    </div>
  )
}

interface FleetTableProps {
  rows: readonly FleetRow[]
  timeZone: string
  look: Omit<FleetLook, 'name'>
  onSorting: (sorting: SortingState) => void
  compared: readonly string[]
  onCompare: (position: string) => void
}

/** Only the rows in sight are drawn: a thousand probes scroll like ten. */
const FleetTable = memo(function FleetTable({ rows, timeZone, look, onSorting, compared, onCompare }: FleetTableProps) {
  const { filter, sorting } = look
  const shown = useMemo(() => {
    const words = filter.toLowerCase().split(/\s+/).filter(Boolean)
    return rows.filter((r) => matches(r, words))
  }, [rows, filter])
  const columns = useMemo(() => fleetColumns(timeZone), [timeZone])
  const table = useTable({
    features: FLEET_FEATURES,
    data: shown,
    columns,
    state: { sorting },
    onSortingChange: (change) => onSorting(typeof change === 'function' ? change(look.sorting) : change),
    getRowId: (r) => r.position,
  })
  const sorted = table.getRowModel().rows
  const box = useRef<HTMLElement>(null)
  const virtual = useVirtualizer({
    count: sorted.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 3,
  })
  const widths = `2.75rem ${columns.map((c) => `minmax(${c.size}px, ${c.size}fr)`).join(' ')}`
  return (
    <>
      <p className="pb-2 text-sm soft" role="status">
        {shown.length === rows.length
          ? plural(rows.length, 'probe')
          : `${shown.length} of ${plural(rows.length, 'probe')}`}
      </p>
      <section ref={box} aria-label="The fleet" className="max-h-[calc(100dvh-14rem)] min-h-80 flex-1 overflow-auto">
        <table className="block min-w-max" aria-rowcount={sorted.length + 1}>
          <thead className="sticky top-0 z-10 block border-b border-[color:var(--line)] bg-base-100">
            <tr className="grid items-center gap-x-2" style={{ gridTemplateColumns: widths }}>
              <th scope="col">
                <span className="sr-only">Compare</span>
              </th>
              {table.getFlatHeaders().map((h) => {
                const way = h.column.getIsSorted()
                return (
                  <th
                    key={h.id}
                    scope="col"
                    className="font-normal"
                    aria-sort={way === 'asc' ? 'ascending' : way === 'desc' ? 'descending' : 'none'}
                  >
                    <button
                      type="button"
                      className="flex min-h-11 items-center gap-1 text-left text-sm soft hover:text-base-content"
                      onClick={h.column.getToggleSortingHandler()}
                    >
                      <table.FlexRender header={h} />
                      {way === 'asc' && <ArrowUp className="size-4" aria-hidden="true" />}
                      {way === 'desc' && <ArrowDown className="size-4" aria-hidden="true" />}
                    </button>
                  </th>
                )
              })}
            </tr>
          </thead>
          <tbody className="relative block" style={{ height: virtual.getTotalSize() }}>
            {virtual.getVirtualItems().map(({ index, start }) => {
              const row = sorted[index] as (typeof sorted)[number]
              return (
                <FleetLine
                  key={row.id}
                  row={row}
                  index={index}
                  start={start}
                  widths={widths}
                  compared={compared.includes(row.original.position)}
                  onCompare={onCompare}
                />
              )
            })}
          </tbody>
        </table>
        {sorted.length === 0 && <p className="py-8 soft">No match. Clear the search.</p>}
      </section>
    </>
  )
})

interface FleetLineProps {
  row: Row<FleetFeatures, FleetRow>
  index: number
  start: number
  widths: string
  compared: boolean
  onCompare: (position: string) => void
}

/** Drawn again only when it has changed: scrolling moves lines, it does not remake them. */
const FleetLine = memo(function FleetLine({ row, index, start, widths, compared, onCompare }: FleetLineProps) {
  const { position } = row.original
  return (
    <tr
      aria-rowindex={index + 2}
      className="absolute inset-x-0 top-0 grid items-center gap-x-2 border-b border-base-300 hover:bg-base-200"
      style={{ gridTemplateColumns: widths, height: ROW_HEIGHT, transform: `translateY(${start}px)` }}
    >
      <td className="flex min-h-11 items-center justify-center">
        <input
          type="checkbox"
          className="checkbox border-[color:var(--line)]"
          aria-label={`Compare ${position}`}
          checked={compared}
          onChange={() => onCompare(position)}
        />
      </td>
      {row.getAllCells().map((cell) => (
        <td key={cell.id} className="min-w-0">
          <FlexRender cell={cell} />
        </td>
      ))}
    </tr>
  )
})
