import type { LedgerRow } from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { For } from '../../components/For.tsx'
import { day, dayTime, plural, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { TakeInFile } from '../../components/TakeInFile.tsx'
import { useImportRecordsMutation, useLazyLedgerQuery, useLedgerQuery, useSiteQuery } from '../../store/api.ts'

/** What was done, by whom, with what: newest first. */
export function LedgerRoom() {
  const { data: first, error, refetch } = useLedgerQuery(null, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  const [older, setOlder] = useState<LedgerRow[]>([])
  const [more, { isFetching }] = useLazyLedgerQuery()
  const [filter, setFilter] = useState('')
  if (!first || !site) return <Fetching what="the Ledger" error={error} onRetry={refetch} />
  const all = [...first, ...older.filter((o) => !first.some((f) => f.id === o.id))]
  const words = filter.toLowerCase().split(/\s+/).filter(Boolean)
  const rows = all.filter((r) =>
    words.every((w) => `${r.position} ${r.place} ${r.name} ${r.operator} ${r.serialNumber}`.toLowerCase().includes(w)),
  )
  const fetchMore = async () => {
    const last = all.at(-1)
    if (!last) return
    const answer = await more(last.at)
    if (answer.data?.length === 0) toast('That is all there is.')
    setOlder([...older, ...(answer.data ?? [])])
  }
  return (
    <div className="mx-auto w-full max-w-[1300px] px-5 py-5">
      <div className="flex flex-wrap items-center justify-between gap-x-8 gap-y-3 border-b border-base-300 pb-3">
        <h1 className="text-2xl">Ledger</h1>
        <Link to="/ledger/report" className="min-h-11 content-center underline underline-offset-4">
          Report
        </Link>
        <label className="flex items-center gap-2">
          <span>Find</span>
          <input
            className="h-11 w-56 border border-[color:var(--line)] bg-base-100 px-3"
            value={filter}
            placeholder="position, operator, what"
            onChange={(e) => setFilter(e.target.value)}
          />
        </label>
        <div className="flex flex-wrap gap-4">
          <a className="slant" href={addressOf(ENDPOINTS.exportCsv, {})} download>
            <Download className="size-4" aria-hidden="true" /> CSV
          </a>
          <a className="slant" href={addressOf(ENDPOINTS.exportJson, {})} download>
            <Download className="size-4" aria-hidden="true" /> JSON
          </a>
          <For needs="lead">
            <TakeIn />
          </For>
        </div>
      </div>
      {rows.length === 0 && (
        <p className="py-8">
          {all.length === 0 ? (
            <>
              No visit is closed yet. Each one leaves its record here, to be read, printed and exported.{' '}
              <Link to="/bench" className="font-bold underline underline-offset-4">
                To the Bench
              </Link>
            </>
          ) : (
            'Nothing fits what you look for.'
          )}
        </p>
      )}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a table wider than the screen must scroll by keyboard */}
      <section className="overflow-x-auto" hidden={rows.length === 0} aria-label="Visits" tabIndex={0}>
        <table className="w-full min-w-190 text-left">
          <thead className="soft">
            <tr className="border-b border-base-300">
              {['When', 'Where', 'What', 'As found', 'As left', 'Outcome', 'By'].map((h) => (
                <th key={h} scope="col" className="py-2 pr-4 font-normal">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.id} className="border-b border-base-300">
                <td className="py-2 pr-4 whitespace-nowrap">
                  <Link to={`/ledger/${r.id}`} className="underline underline-offset-4">
                    {r.fromList ? day(r.at, site.timeZone) : dayTime(r.at, site.timeZone)}
                  </Link>
                </td>
                <td className="pr-4">
                  <strong>{r.position}</strong> <span className="text-sm soft">{r.place}</span>
                </td>
                <td className="pr-4">{r.name}</td>
                <td className="pr-4 font-mono whitespace-nowrap">{r.asFound ? text(r.asFound) : '–'}</td>
                <td className="pr-4 font-mono whitespace-nowrap">
                  {r.asLeft ? (
                    text(r.asLeft)
                  ) : r.work === 'adjusted' ? (
                    <span className="font-sans text-sm soft">not verified</span>
                  ) : (
                    '–'
                  )}
                </td>
                <td className="pr-4">
                  {r.outcome === 'abandoned' ? 'ended' : (r.work ?? '–')}
                  {r.unreadable && <span className="font-bold"> · cannot be read</span>}
                  {r.corrections > 0 && <span className="font-bold"> · {plural(r.corrections, 'correction')}</span>}
                </td>
                <td className="whitespace-nowrap">{r.operator}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      {all.length >= 100 && (
        <button type="button" className="slant mt-5" disabled={isFetching} onClick={() => void fetchMore()}>
          Older ones
        </button>
      )}
    </div>
  )
}

/** Takes a file of records in; says what would be new, is known and cannot be taken before it does. */
function TakeIn() {
  const [send] = useImportRecordsMutation()
  return (
    <TakeInFile
      label="Import records"
      field="A file of records"
      send={(file) => send(file)}
      says={({ added, known, refused }, taken) => ({
        message: `${plural(added, 'visit')} ${taken ? 'taken in' : 'to take in'}, ${known} known already, ${refused.length} refused.`,
        more: refused.length > 0 && (
          <ul>
            {refused.slice(0, MOST_NAMED).map(({ visit, why }) => (
              <li key={visit}>
                <span className="font-mono">{visit.slice(0, 8)}</span>: {why}
              </li>
            ))}
            {refused.length > MOST_NAMED && <li>and {refused.length - MOST_NAMED} more.</li>}
          </ul>
        ),
        takes: added > 0,
      })}
    />
  )
}

/** More would push the rest of the room away. */
const MOST_NAMED = 10
